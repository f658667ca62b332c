#include "desktop/widgets/marks.h"

#include <QCoreApplication>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace metrodos::desktop {

using house::ElementKind;

void drawMark(QPainter& p, const QRectF& b, ElementKind kind) {
    const QPointF c = b.center();
    const double r = std::min(b.width(), b.height()) / 2;
    const auto rect = [&](double w, double h) { return QRectF(c.x() - w, c.y() - h, 2 * w, 2 * h); };
    switch (kind) {
    case ElementKind::host: // a table with something standing on it
        p.drawRect(rect(r * 0.62, r * 0.45).translated(0, -r * 0.3));
        p.drawLine(QPointF(c.x() - r, c.y() + r * 0.55), QPointF(c.x() + r, c.y() + r * 0.55));
        p.drawLine(QPointF(c.x() - r * 0.75, c.y() + r * 0.55), QPointF(c.x() - r * 0.75, c.y() + r));
        p.drawLine(QPointF(c.x() + r * 0.75, c.y() + r * 0.55), QPointF(c.x() + r * 0.75, c.y() + r));
        break;
    case ElementKind::network_switch: // a comb: many ways, one spine
        p.drawLine(QPointF(c.x() - r, c.y() - r * 0.5), QPointF(c.x() + r, c.y() - r * 0.5));
        for (const double x : {-0.75, -0.25, 0.25, 0.75})
            p.drawLine(QPointF(c.x() + r * x, c.y() - r * 0.5), QPointF(c.x() + r * x, c.y() + r * 0.7));
        break;
    case ElementKind::router: // a gate in a wall
        p.drawLine(QPointF(c.x() - r, c.y() + r * 0.7), QPointF(c.x() + r, c.y() + r * 0.7));
        p.drawArc(rect(r * 0.6, r * 0.9).translated(0, r * 0.6), 0, 180 * 16);
        break;
    case ElementKind::adapter: // two halves that differ: one medium in, another out
        p.drawRect(rect(r * 0.9, r * 0.55));
        p.fillRect(QRectF(c.x(), c.y() - r * 0.55, r * 0.9, r * 1.1),
                   QBrush(p.pen().color(), Qt::Dense4Pattern));
        p.drawLine(QPointF(c.x(), c.y() - r * 0.55), QPointF(c.x(), c.y() + r * 0.55));
        break;
    case ElementKind::service: // what comes in from outside: an arrow through a wall
        p.drawLine(QPointF(c.x(), c.y() - r * 0.9), QPointF(c.x(), c.y() - r * 0.3));
        p.drawLine(QPointF(c.x(), c.y() + r * 0.3), QPointF(c.x(), c.y() + r * 0.9));
        p.drawLine(QPointF(c.x() - r, c.y()), QPointF(c.x() + r * 0.8, c.y()));
        p.drawLine(QPointF(c.x() + r * 0.4, c.y() - r * 0.3), QPointF(c.x() + r * 0.8, c.y()));
        p.drawLine(QPointF(c.x() + r * 0.4, c.y() + r * 0.3), QPointF(c.x() + r * 0.8, c.y()));
        break;
    case ElementKind::storage: // a stack of leaves
        for (const double y : {-0.6, 0.0, 0.6})
            p.drawRect(QRectF(c.x() - r * 0.8, c.y() + (y - 0.2) * r, r * 1.6, r * 0.4));
        break;
    case ElementKind::port: // a collar
        p.drawLine(QPointF(c.x() - r * 0.3, c.y() - r * 0.8), QPointF(c.x() - r * 0.3, c.y() + r * 0.8));
        p.drawLine(QPointF(c.x() + r * 0.3, c.y() - r * 0.8), QPointF(c.x() + r * 0.3, c.y() + r * 0.8));
        break;
    default:
        drawMediumLine(p, b, kind);
        break;
    }
}

void drawMediumLine(QPainter& p, const QRectF& b, ElementKind kind) {
    const double y = b.center().y();
    p.save();
    QPen pen = p.pen();
    switch (kind) {
    case ElementKind::cable:
        p.drawLine(QPointF(b.left(), y), QPointF(b.right(), y));
        break;
    case ElementKind::coax:
        p.drawLine(QPointF(b.left(), y - 2), QPointF(b.right(), y - 2));
        p.drawLine(QPointF(b.left(), y + 2), QPointF(b.right(), y + 2));
        break;
    case ElementKind::mains: {
        QPainterPath wave(QPointF(b.left(), y));
        for (double x = b.left(); x <= b.right(); x += 1)
            wave.lineTo(x, y - 3 * std::sin((x - b.left()) * 0.45));
        p.drawPath(wave);
        break;
    }
    case ElementKind::air:
        pen.setStyle(Qt::DotLine);
        p.setPen(pen);
        p.drawLine(QPointF(b.left(), y), QPointF(b.right(), y));
        break;
    case ElementKind::bus:
        pen.setStyle(Qt::DashLine);
        p.setPen(pen);
        p.drawLine(QPointF(b.left(), y), QPointF(b.right(), y));
        break;
    default:
        break;
    }
    p.restore();
}

QString kindText(ElementKind kind) {
    switch (kind) {
    case ElementKind::host:
        return QCoreApplication::translate("Kind", "machine");
    case ElementKind::port:
        return QCoreApplication::translate("Kind", "port");
    case ElementKind::cable:
        return QCoreApplication::translate("Kind", "data cable");
    case ElementKind::network_switch:
        return QCoreApplication::translate("Kind", "switch");
    case ElementKind::router:
        return QCoreApplication::translate("Kind", "router");
    case ElementKind::adapter:
        return QCoreApplication::translate("Kind", "adapter");
    case ElementKind::coax:
        return QCoreApplication::translate("Kind", "coax");
    case ElementKind::mains:
        return QCoreApplication::translate("Kind", "mains wiring");
    case ElementKind::air:
        return QCoreApplication::translate("Kind", "radio");
    case ElementKind::bus:
        return QCoreApplication::translate("Kind", "socket");
    case ElementKind::service:
        return QCoreApplication::translate("Kind", "service");
    case ElementKind::storage:
        return QCoreApplication::translate("Kind", "disks");
    }
    return {};
}

} // namespace metrodos::desktop
