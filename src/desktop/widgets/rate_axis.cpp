#include "desktop/widgets/rate_axis.h"

#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>

namespace metrodos::desktop {

using quantity::BitRate;

double RateAxis::x(BitRate rate) const {
    return m_field.left() + std::clamp(logPosition(rate), 0.0, 1.0) * m_field.width();
}

void RateAxis::paint(QPainter& p) const {
    p.setPen(QPen(theme().line, 1));
    p.drawLine(m_field.bottomLeft(), m_field.bottomRight());
    p.setFont(figureFont(7.5));
    for (const auto& [mbps, text] : {std::pair(1.0, "1M"), std::pair(10.0, "10M"), std::pair(100.0, "100M"),
                                     std::pair(1000.0, "1G"), std::pair(10000.0, "10G")}) {
        const double at = x(BitRate::megabits(mbps));
        p.setPen(QPen(theme().line, 1));
        p.drawLine(QPointF(at, m_field.top()), QPointF(at, m_field.bottom() + 3));
        p.setPen(theme().quiet);
        const bool last = mbps > 9999;
        p.drawText(QRectF(at - (last ? 40 : 20), m_field.bottom() + 4, 40, 14),
                   last ? Qt::AlignRight : Qt::AlignHCenter, QLatin1String(text));
    }
}

void RateAxis::paintMeasured(QPainter& p, BitRate rate) const {
    const double at = x(rate);
    const double middle = m_field.center().y();
    QPainterPath mark(QPointF(at, middle - 8));
    mark.lineTo(at + 7, middle);
    mark.lineTo(at, middle + 8);
    mark.lineTo(at - 7, middle);
    mark.closeSubpath();
    p.fillPath(mark, theme().cool);
    p.setPen(QPen(theme().panel, 1));
    p.setBrush(Qt::NoBrush);
    p.drawPath(mark);
}

} // namespace metrodos::desktop
