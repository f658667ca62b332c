// The logarithmic axis of rates that all drawings of the window share.
#pragma once

#include "quantity/quantity.h"

#include <QRectF>

class QPainter;

namespace metrodos::desktop {

/// From 1 Mbit/s at the left edge to 10 Gbit/s at the right; what lies beyond stands at the edge.
class RateAxis {
  public:
    explicit RateAxis(const QRectF& field)
        : m_field(field) {}
    [[nodiscard]] double x(quantity::BitRate rate) const;
    /// The base line, a tick a decade and its figure below.
    void paint(QPainter& painter) const;
    /// A solid mark of what was measured, in the middle of the field.
    void paintMeasured(QPainter& painter, quantity::BitRate rate) const;

  private:
    QRectF m_field;
};

} // namespace metrodos::desktop
