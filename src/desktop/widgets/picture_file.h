// A picture from a file that anybody may have made.
#pragma once

#include "quantity/problem.h"

#include <QImage>
#include <QString>

namespace metrodos::desktop {

/// Upright as a camera held it, at most so many pixels on its longer side, in sRGB, with nothing else of the
/// file: no position, no camera, no time. A Problem where the file is no picture, or one that takes too much
/// memory to read.
[[nodiscard]] quantity::Result<QImage> pictureOf(const QString& file, int mostSide);

} // namespace metrodos::desktop
