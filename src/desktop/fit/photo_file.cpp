#include "desktop/fit/photo_file.h"

#include "desktop/widgets/picture_file.h"

#include <QBuffer>

namespace metrodos::desktop {
namespace {

constexpr int quality = 85;

} // namespace

quantity::Result<std::string> photoOf(const QString& file) {
    const auto picture = pictureOf(file, maxPhotoSide);
    if (!picture) return tl::unexpected(picture.error());
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!picture->convertToFormat(QImage::Format_RGB32).save(&buffer, "JPEG", quality))
        return quantity::problem("the picture cannot be written as JPEG", file.toStdString(),
                                 "install the JPEG support of the graphics library");
    return bytes.toStdString();
}

} // namespace metrodos::desktop
