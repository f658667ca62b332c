#include "desktop/fit/photo_file.h"

#include <QBuffer>
#include <QColorSpace>
#include <QImageReader>

namespace metrodos::desktop {
namespace {

constexpr int megabytes = 256; // that a picture may take while it is read
constexpr int quality = 85;

} // namespace

quantity::Result<std::string> photoOf(const QString& file) {
    QImageReader reader(file);
    reader.setAutoTransform(true);
    reader.setDecideFormatFromContent(true);
    QImageReader::setAllocationLimit(megabytes);
    const QSize size = reader.size();
    if (size.isValid() && std::max(size.width(), size.height()) > maxPhotoSide)
        reader.setScaledSize(size.scaled(maxPhotoSide, maxPhotoSide, Qt::KeepAspectRatio));
    QImage image = reader.read();
    if (image.isNull())
        return quantity::problem("the picture cannot be read", file.toStdString(),
                                 "choose a JPEG or PNG file of a camera");
    if (std::max(image.width(), image.height()) > maxPhotoSide)
        image = image.scaled(maxPhotoSide, maxPhotoSide, Qt::KeepAspectRatio, Qt::SmoothTransformation);
    // Only the picture itself: what a file says besides, the place among it, is not written again.
    if (image.colorSpace().isValid()) image.convertToColorSpace(QColorSpace::SRgb);
    QImage plain = image.convertToFormat(QImage::Format_RGB32);
    for (const QString& key : plain.textKeys())
        plain.setText(key, QString());
    plain.setColorSpace({});
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!plain.save(&buffer, "JPEG", quality))
        return quantity::problem("the picture cannot be written as JPEG", file.toStdString(),
                                 "install the JPEG support of the graphics library");
    return bytes.toStdString();
}

} // namespace metrodos::desktop
