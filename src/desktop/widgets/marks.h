// The marks of the trade as we draw them: one per kind of element, and a line pattern per medium.
#pragma once

#include "house/route.h"

#include <QPen>
#include <QRectF>

class QPainter;

namespace metrodos::desktop {

/// Draws the mark of a kind into `box` with the painter's pen.
void drawMark(QPainter& painter, const QRectF& box, house::ElementKind kind);

/// The line of a medium from left to right at the middle of `box`: data cable plain, coax double, mains a
/// wave, air dots, bus dashes, inside a box nothing.
void drawMediumLine(QPainter& painter, const QRectF& box, house::ElementKind kind);

/// A short word for a kind: "cable", "coax" …
[[nodiscard]] QString kindText(house::ElementKind kind);

} // namespace metrodos::desktop
