// A photo from a file, made fit to be kept in a job.
#pragma once

#include "quantity/problem.h"

#include <QString>
#include <string>

namespace metrodos::desktop {

inline constexpr int maxPhotoSide = 1600; ///< pixels

/// A JPEG of at most 1600 pixels on its longer side, upright as the camera held it, with nothing else of the
/// file: no position, no camera, no time. A Problem where the file is no picture.
[[nodiscard]] quantity::Result<std::string> photoOf(const QString& file);

} // namespace metrodos::desktop
