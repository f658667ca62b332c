#include "desktop/walk/section_view.h"

#include "desktop/widgets/marks.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "job/document.h"

#include <QHelpEvent>
#include <QImage>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <QWheelEvent>
#include <cmath>

namespace metrodos::desktop {
namespace {

using house::Medium;
using report::MarkKind;

constexpr double minZoom = 0.08;
constexpr double maxZoom = 6;
constexpr double labelsFrom = 0.6; // scale below which the things' names would be too small to read

QRectF rectOf(const report::Box& b) {
    return {b.x, b.y, b.width, b.height};
}

QPen penOf(Medium medium) {
    QPen pen(theme().ink, 1.4);
    switch (medium) {
    case Medium::coax:
        pen.setWidthF(3.6);
        break;
    case Medium::mains:
        pen.setDashPattern({7, 2.5, 1, 2.5});
        break;
    case Medium::air:
        pen.setDashPattern({1, 4});
        break;
    case Medium::phone:
        pen.setWidthF(1);
        pen.setDashPattern({3, 3});
        break;
    default:
        break;
    }
    return pen;
}

} // namespace

SectionView::SectionView(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_media{Medium::data_cable, Medium::coax, Medium::mains, Medium::phone, Medium::air} {
    setObjectName(QStringLiteral("section"));
    setAccessibleName(tr("Section through the house"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    connect(&m_model, &JobModel::changed, this, &SectionView::rebuild);
    rebuild();
}

void SectionView::setMedium(Medium medium, bool shown) {
    if (shown)
        m_media.insert(medium);
    else
        m_media.erase(medium);
    update();
}

void SectionView::setPlaces(const house::Id& from, const house::Id& to) {
    m_from = from;
    m_to = to;
    update();
}

void SectionView::rebuild() {
    m_section = report::drawSection(m_model.house());
    if (m_fitted) fit();
    update();
}

void SectionView::fit() {
    m_fitted = true;
    if (m_section.width <= 0 || width() <= 0) return;
    m_scale = std::clamp(std::min(width() / m_section.width, height() / m_section.height), minZoom, maxZoom);
    m_offset = {(width() - m_section.width * m_scale) / 2, (height() - m_section.height * m_scale) / 2};
    update();
}

void SectionView::zoom(double factor, QPointF around) {
    const double next = std::clamp(m_scale * factor, minZoom, maxZoom);
    m_offset = around - (around - m_offset) * (next / m_scale);
    m_scale = next;
    m_fitted = false;
    update();
}

void SectionView::resizeEvent(QResizeEvent*) {
    if (m_fitted) fit();
}

void SectionView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().ground);
    if (m_section.rooms.empty()) {
        p.setPen(theme().ink);
        p.setFont(textFont(13));
        p.drawText(rect().adjusted(30, 20, -30, -20), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("No room yet. Write “Hall / floor 0” into the line above and press Enter."));
        return;
    }
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(m_offset);
    p.scale(m_scale, m_scale);
    paint(p, QRectF(toDrawing({0, 0}), toDrawing(QPointF(width(), height()))), m_scale);
    p.resetTransform();
    if (hasFocus()) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

void SectionView::paint(QPainter& p, const QRectF& visible, double scale) const {
    // The ground outside: what lies below it is hatched.
    const QRectF earth(visible.left(), m_section.ground, visible.width(),
                       std::max(0.0, visible.bottom() - m_section.ground));
    p.fillRect(earth, QBrush(theme().line, Qt::BDiagPattern));
    p.setPen(QPen(theme().quiet, 2 / scale));
    p.drawLine(earth.topLeft(), earth.topRight());
    for (const report::DrawnFloor& floor : m_section.floors) // slabs
        p.fillRect(QRectF(floor.box.x - 3, floor.box.y + floor.box.height, floor.box.width + 6, 24),
                   theme().line);
    for (const report::DrawnRoom& room : m_section.rooms) {
        const QRectF box = rectOf(room.box);
        if (!box.intersects(visible)) continue;
        const bool chosen = room.id == m_from || room.id == m_to;
        p.setPen(QPen(theme().ink, chosen ? 3 : 1));
        p.setBrush(theme().panel);
        p.drawRect(box);
    }
    paintWires(p, visible);
    for (const report::DrawnRoom& room : m_section.rooms) { // over the wires, so that the name stays readable
        const QRectF box = rectOf(room.box);
        if (!box.intersects(visible)) continue;
        p.setFont(textFont(10, true));
        const QString name = p.fontMetrics().elidedText(QString::fromStdString(room.label), Qt::ElideRight,
                                                        int(box.width()) - 10);
        const QRectF back(box.left() + 3, box.top() + 1.5, p.fontMetrics().horizontalAdvance(name) + 6, 15);
        p.fillRect(back, theme().panel);
        p.setPen(theme().ink);
        p.drawText(back.adjusted(3, 0, 20, 0), Qt::AlignLeft | Qt::AlignVCenter, name);
    }
    for (const report::DrawnMark& mark : m_section.marks)
        if (rectOf(mark.box).adjusted(-20, -4, 20, 14).intersects(visible)) paintMark(p, mark, scale);
}

void SectionView::paintWires(QPainter& p, const QRectF& visible) const {
    p.setBrush(Qt::NoBrush);
    for (const report::DrawnWire& wire : m_section.wires) {
        if (!m_media.contains(wire.medium)) continue;
        QPolygonF line;
        for (const report::Point& point : wire.points)
            line << QPointF(point.x, point.y);
        if (!line.boundingRect().adjusted(-4, -4, 4, 4).intersects(visible)) continue;
        p.setPen(penOf(wire.medium));
        p.drawPolyline(line);
        if (wire.medium == Medium::coax) { // a double line
            p.setPen(QPen(theme().panel, 1.4));
            p.drawPolyline(line);
        }
    }
}

void SectionView::paintMark(QPainter& p, const report::DrawnMark& mark, double scale) const {
    const QRectF box = rectOf(mark.box);
    const QPointF c = box.center();
    const bool chosen = mark.id == m_from || mark.id == m_to;
    if (chosen) {
        p.setPen(QPen(theme().ink, 2.4));
        p.setBrush(theme().panel);
        p.drawEllipse(c, 13, 13);
    }
    p.setPen(QPen(theme().ink, 1.3));
    p.setBrush(theme().panel);
    const QRectF inner = box.adjusted(2, 2, -2, -2);
    switch (mark.kind) {
    case MarkKind::data_jack: // a frame with a notch
        p.drawRect(inner);
        p.drawLine(QPointF(c.x() - 3, inner.bottom()), QPointF(c.x() - 3, c.y()));
        p.drawLine(QPointF(c.x() + 3, inner.bottom()), QPointF(c.x() + 3, c.y()));
        p.drawLine(QPointF(c.x() - 3, c.y()), QPointF(c.x() + 3, c.y()));
        break;
    case MarkKind::coax_jack: // a ring with a pin
        p.drawEllipse(inner);
        p.setBrush(theme().ink);
        p.drawEllipse(c, 1.8, 1.8);
        break;
    case MarkKind::outlet: // a frame with two slots
        p.drawRoundedRect(inner, 3, 3);
        p.drawLine(QPointF(c.x() - 2.5, c.y() - 3), QPointF(c.x() - 2.5, c.y() + 3));
        p.drawLine(QPointF(c.x() + 2.5, c.y() - 3), QPointF(c.x() + 2.5, c.y() + 3));
        break;
    case MarkKind::phone_jack: // a wedge
        p.drawPolygon(QPolygonF(
            {QPointF(inner.left(), inner.bottom()), QPointF(c.x(), inner.top()), inner.bottomRight()}));
        break;
    case MarkKind::host:
        drawMark(p, box, house::ElementKind::host);
        break;
    case MarkKind::box:
        drawMark(p, box, house::ElementKind::network_switch);
        break;
    case MarkKind::adapter:
        drawMark(p, box, house::ElementKind::adapter);
        break;
    case MarkKind::splitter: // one in, several out
        for (const double y : {-5.0, 0.0, 5.0})
            p.drawLine(QPointF(c.x() - 2, c.y()), QPointF(inner.right(), c.y() + y));
        p.drawLine(QPointF(inner.left(), c.y()), QPointF(c.x() - 2, c.y()));
        break;
    case MarkKind::coax_part: // two collars
        p.drawLine(QPointF(inner.left(), c.y()), QPointF(inner.right(), c.y()));
        p.drawRect(QRectF(c.x() - 3, c.y() - 4, 6, 8));
        break;
    case MarkKind::panel: // rows of breakers
        p.drawRect(inner);
        for (const double y : {-2.0, 2.0})
            p.drawLine(QPointF(inner.left() + 2, c.y() + y), QPointF(inner.right() - 2, c.y() + y));
        break;
    case MarkKind::appliance: { // something that disturbs
        QPainterPath jag(QPointF(inner.left(), c.y()));
        for (int i = 1; i <= 6; ++i)
            jag.lineTo(inner.left() + inner.width() * i / 6, c.y() + (i == 6 ? 0 : i % 2 == 0 ? 4 : -4));
        p.setBrush(Qt::NoBrush);
        p.drawPath(jag);
        break;
    }
    case MarkKind::loose_end: // an end that hangs
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(c, 3.5, 3.5);
        p.drawLine(QPointF(c.x() - 5, c.y() + 5), QPointF(c.x() + 5, c.y() - 5));
        break;
    }
    if (scale < labelsFrom && !chosen) return;
    p.setFont(textFont(scale < labelsFrom ? 9 : 7, chosen));
    p.setPen(theme().ink);
    const QString text = QString::fromStdString(mark.label);
    const QString shown = chosen ? text : p.fontMetrics().elidedText(text, Qt::ElideRight, 60);
    const double w = p.fontMetrics().horizontalAdvance(shown) + 2;
    const QRectF place(c.x() - w / 2, box.bottom() - 1, w, 10);
    p.fillRect(place, theme().panel);
    p.drawText(place, Qt::AlignCenter | Qt::TextDontClip, shown);
}

QString SectionView::placeAt(QPointF drawing) const {
    const report::Point point{drawing.x(), drawing.y()};
    for (const report::DrawnMark& mark : m_section.marks)
        if (rectOf(mark.box).adjusted(-4, -4, 4, 8).contains(drawing) &&
            (m_model.house().jack(mark.id) != nullptr || m_model.house().device(mark.id) != nullptr))
            return QString::fromStdString(mark.id);
    for (const report::DrawnRoom& room : m_section.rooms)
        if (room.box.contains(point) && m_model.house().room(room.id) != nullptr)
            return QString::fromStdString(room.id);
    return {};
}

bool SectionView::save(const QString& file) {
    if (file.endsWith(QStringLiteral(".svg"), Qt::CaseInsensitive)) {
        const std::vector<Medium> media(m_media.begin(), m_media.end());
        return job::writeText(file.toStdString(), report::toSvg(m_section, media)).has_value();
    }
    QImage image(int(std::ceil(m_section.width)) * 2, int(std::ceil(m_section.height)) * 2,
                 QImage::Format_RGB32);
    image.fill(theme().ground);
    QPainter p(&image);
    p.setRenderHint(QPainter::Antialiasing);
    p.scale(2, 2);
    paint(p, QRectF(0, 0, m_section.width, m_section.height), 2);
    p.end();
    return image.save(file);
}

void SectionView::wheelEvent(QWheelEvent* event) {
    zoom(std::pow(1.0015, event->angleDelta().y()), event->position());
}

void SectionView::mousePressEvent(QMouseEvent* event) {
    m_pressed = m_last = event->position();
    m_dragging = false;
}

void SectionView::mouseMoveEvent(QMouseEvent* event) {
    if ((event->buttons() & Qt::LeftButton) == 0) return;
    if ((event->position() - m_pressed).manhattanLength() > 4) m_dragging = true;
    if (!m_dragging) return;
    m_offset += event->position() - m_last;
    m_last = event->position();
    m_fitted = false;
    update();
}

void SectionView::mouseReleaseEvent(QMouseEvent* event) {
    if (m_dragging) return;
    if (const QString place = placeAt(toDrawing(event->position())); !place.isEmpty())
        Q_EMIT placeChosen(place);
}

void SectionView::keyPressEvent(QKeyEvent* event) {
    const QPointF centre(width() / 2.0, height() / 2.0);
    switch (event->key()) {
    case Qt::Key_Plus:
    case Qt::Key_Equal:
        zoom(1.25, centre);
        return;
    case Qt::Key_Minus:
        zoom(0.8, centre);
        return;
    case Qt::Key_0:
        fit();
        return;
    case Qt::Key_Left:
    case Qt::Key_Right:
    case Qt::Key_Up:
    case Qt::Key_Down: {
        const double step = 60;
        m_offset += QPointF(event->key() == Qt::Key_Left    ? step
                            : event->key() == Qt::Key_Right ? -step
                                                            : 0,
                            event->key() == Qt::Key_Up     ? step
                            : event->key() == Qt::Key_Down ? -step
                                                           : 0);
        m_fitted = false;
        update();
        return;
    }
    default:
        QWidget::keyPressEvent(event);
    }
}

bool SectionView::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = dynamic_cast<QHelpEvent*>(event);
        const QPointF at = toDrawing(help->pos());
        for (const report::DrawnMark& mark : m_section.marks)
            if (rectOf(mark.box).adjusted(-4, -4, 4, 8).contains(at)) {
                QToolTip::showText(help->globalPos(), plainTip(QString::fromStdString(mark.label)), this);
                return true;
            }
        QToolTip::hideText();
        return true;
    }
    return QWidget::event(event);
}

} // namespace metrodos::desktop
