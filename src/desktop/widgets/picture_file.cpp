#include "desktop/widgets/picture_file.h"

#include <QColorSpace>
#include <QImageReader>

namespace metrodos::desktop {
namespace {

constexpr int megabytes = 256; // that a picture may take while it is read

} // namespace

quantity::Result<QImage> pictureOf(const QString& file, int mostSide) {
    QImageReader reader(file);
    reader.setAutoTransform(true);
    reader.setDecideFormatFromContent(true);
    QImageReader::setAllocationLimit(megabytes);
    const QSize size = reader.size();
    if (size.isValid() && std::max(size.width(), size.height()) > mostSide)
        reader.setScaledSize(size.scaled(mostSide, mostSide, Qt::KeepAspectRatio));
    QImage image = reader.read();
    if (image.isNull())
        return quantity::problem("the picture cannot be read", file.toStdString(),
                                 "choose a PNG or JPEG file");
    if (std::max(image.width(), image.height()) > mostSide) // a file that does not say its size beforehand
        image = image.scaled(mostSide, mostSide, Qt::KeepAspectRatio, Qt::SmoothTransformation);
    // Only the picture itself: what a file says besides, the place among it, is not written again.
    if (image.colorSpace().isValid()) image.convertToColorSpace(QColorSpace::SRgb);
    image.setColorSpace({});
    for (const QString& key : image.textKeys())
        image.setText(key, QString());
    return image;
}

} // namespace metrodos::desktop
