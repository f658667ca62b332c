// How the plots of the window look, in the theme in force.
#pragma once

#include "desktop/widgets/theme.h"

#include <qcustomplot.h>

namespace metrodos::desktop {

/// Rules, ticks and labels of one axis; the sizes in points.
inline void styleAxis(QCPAxis* axis, const QColor& text, double ticks, double label) {
    const Theme& t = theme();
    axis->setBasePen(QPen(t.quiet));
    axis->setTickPen(QPen(t.quiet));
    axis->setSubTickPen(Qt::NoPen);
    axis->setTickLabelColor(text);
    axis->setLabelColor(text);
    axis->setTickLabelFont(figureFont(ticks));
    axis->setLabelFont(textFont(label));
    axis->grid()->setPen(QPen(t.line, 0.5));
    axis->grid()->setZeroLinePen(QPen(t.line, 0.5));
}

} // namespace metrodos::desktop
