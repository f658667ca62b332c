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
#include <map>

namespace metrodos::desktop {
namespace {

using house::Medium;
using report::MarkKind;

constexpr double minZoom = 0.08;
constexpr double maxZoom = 6;
constexpr double leastLetters = 11; // pixels
constexpr double faded = 0.2;

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

void SectionView::setEmphasis(std::set<house::Id> wires) {
    m_emphasis = std::move(wires);
    update();
}

bool SectionView::isFaded(const report::DrawnWire& wire) const {
    if (!m_emphasis.empty()) return !m_emphasis.contains(wire.id);
    if (m_from.empty() && m_to.empty()) return false;
    const auto touches = [&](const house::Id& place) {
        return !place.empty() && (wire.from == place || wire.to == place);
    };
    // A room has no wires of its own: with one chosen, all stay.
    const bool isThing = std::any_of(m_section.marks.begin(), m_section.marks.end(),
                                     [&](const auto& m) { return m.id == m_from || m.id == m_to; });
    return isThing && !touches(m_from) && !touches(m_to);
}

bool SectionView::showsNames() const {
    return m_scale * report::letterSize >= leastLetters;
}

QString SectionView::current() const {
    return m_current < 0 ? QString()
                         : QString::fromStdString(m_section.marks[static_cast<std::size_t>(m_current)].label);
}

void SectionView::rebuild() {
    m_section =
        report::drawSection(m_model.house(), height() > 0 ? static_cast<double>(width()) / height() : 2);
    m_pointed = m_current = -1;
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
    if (m_fitted) rebuild(); // another shape of page, another arrangement
}

void SectionView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().ground);
    if (m_section.rooms.empty()) {
        p.setPen(theme().ink);
        p.setFont(textFont(13));
        p.drawText(
            rect().adjusted(30, 20, -30, -20), Qt::AlignCenter | Qt::TextWordWrap,
            tr("No room yet. Type the name of one, like “Hall”, into the line above and press Enter."));
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
        p.fillRect(QRectF(floor.box.x, floor.box.y + floor.box.height, floor.box.width, 5), theme().line);
    const bool isFar = scale * report::letterSize < leastLetters;
    if (isFar) paintWires(p, visible); // between the rooms; what is in them are counts
    for (const report::DrawnRoom& room : m_section.rooms) {
        const QRectF box = rectOf(room.box);
        if (!box.intersects(visible)) continue;
        const bool chosen = room.id == m_from || room.id == m_to;
        p.setPen(QPen(theme().ink, chosen ? 3 : 1));
        p.setBrush(theme().panel);
        p.drawRect(box);
    }
    if (!isFar) paintWires(p, visible);
    for (const report::DrawnRoom& room : m_section.rooms) { // over the wires, so that the name stays readable
        const QRectF box = rectOf(room.box);
        if (!box.intersects(visible)) continue;
        QFont font = textFont(10, true);
        font.setPixelSize(static_cast<int>(std::ceil(std::max(13.0, leastLetters / scale))));
        p.setFont(font);
        const QString name = p.fontMetrics().elidedText(QString::fromStdString(room.label), Qt::ElideRight,
                                                        int(box.width()) - 10);
        const double height = p.fontMetrics().height();
        const QRectF back(box.left() + 3, box.top() + 1.5, p.fontMetrics().horizontalAdvance(name) + 6,
                          height);
        p.fillRect(back, theme().panel);
        p.setPen(theme().ink);
        p.drawText(back.adjusted(3, 0, 20, 0), Qt::AlignLeft | Qt::AlignVCenter, name);
        if (isFar && m_emphasis.empty()) paintCounts(p, room, scale);
    }
    for (const report::DrawnMark& mark : m_section.marks)
        if ((!isFar || mark.id == m_from || mark.id == m_to) &&
            rectOf(mark.box).united(rectOf(mark.words)).intersects(visible))
            paintMark(p, mark, scale);
    if (isFar && !m_emphasis.empty()) { // what the way joins is named also from afar
        std::set<house::Id> ends;
        for (const report::DrawnWire& wire : m_section.wires)
            if (m_emphasis.contains(wire.id)) ends.insert({wire.from, wire.to});
        for (const report::DrawnMark& mark : m_section.marks)
            if (ends.contains(mark.id)) paintName(p, mark, visible, scale);
    }
    for (const int special : {m_pointed, m_current})
        if (special >= 0) paintName(p, m_section.marks[static_cast<std::size_t>(special)], visible, scale);
    for (const report::DrawnMark& mark : m_section.marks)
        if (mark.id == m_from || mark.id == m_to) paintName(p, mark, visible, scale);
}

// How many of each kind stand in a room, where their names would be too small to read.
void SectionView::paintCounts(QPainter& p, const report::DrawnRoom& room, double scale) const {
    std::map<QString, int> counts;
    int devices = 0;
    for (const report::DrawnMark& mark : m_section.marks) {
        if (!room.box.contains(mark.box.centre())) continue;
        switch (mark.kind) {
        case MarkKind::data_jack:
            ++counts[tr("data")];
            break;
        case MarkKind::coax_jack:
        case MarkKind::splitter:
        case MarkKind::coax_part:
            ++counts[tr("coax")];
            break;
        case MarkKind::outlet:
        case MarkKind::panel:
            ++counts[tr("mains")];
            break;
        case MarkKind::phone_jack:
            ++counts[tr("phone")];
            break;
        case MarkKind::host:
        case MarkKind::box:
        case MarkKind::adapter:
            ++devices;
            break;
        default:
            break;
        }
    }
    QStringList words;
    for (const auto& [kind, count] : counts)
        words << QStringLiteral("%1 %2").arg(count).arg(kind);
    if (devices > 0) words << (devices == 1 ? tr("1 device") : tr("%1 devices").arg(devices));
    QFont font = textFont(10);
    font.setPixelSize(static_cast<int>(std::ceil(leastLetters / scale)));
    p.setFont(font);
    p.setPen(theme().ink);
    const double top = room.box.y + 4 + 1.35 * std::max(13.0, leastLetters / scale);
    const QRectF place(room.box.x + 6, top, room.box.width - 10, room.box.y + room.box.height - top);
    p.drawText(place, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, words.join(QStringLiteral(" · ")));
}

void SectionView::paintWires(QPainter& p, const QRectF& visible) const {
    p.setBrush(Qt::NoBrush);
    for (const report::DrawnWire& wire : m_section.wires) {
        if (!m_media.contains(wire.medium)) continue;
        QPolygonF line;
        for (const report::Point& point : wire.points)
            line << QPointF(point.x, point.y);
        if (!line.boundingRect().adjusted(-4, -4, 4, 4).intersects(visible)) continue;
        const bool fades = isFaded(wire);
        p.setOpacity(fades ? faded : 1);
        QPen pen = penOf(wire.medium);
        if (!fades && (!m_emphasis.empty() || !m_from.empty())) pen.setWidthF(pen.widthF() * 1.4);
        p.setPen(pen);
        p.drawPolyline(line);
        if (wire.medium == Medium::coax) { // a double line
            p.setPen(QPen(theme().panel, pen.widthF() * 0.4));
            p.drawPolyline(line);
        }
    }
    p.setOpacity(1);
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
    if (scale * report::letterSize < leastLetters || chosen) return;
    QFont font = textFont(9);
    font.setPixelSize(static_cast<int>(report::letterSize));
    p.setFont(font);
    p.setPen(theme().ink);
    // Closer together than a text is set, so that two lines stay in their row.
    const double pitch = report::letterSize + 0.5;
    double top = mark.words.centre().y - pitch * static_cast<double>(mark.lines.size()) / 2;
    for (const std::string& line : mark.lines) {
        p.drawText(QRectF(mark.words.x, top, mark.words.width, pitch),
                   Qt::AlignLeft | Qt::AlignVCenter | Qt::TextDontClip,
                   p.fontMetrics().elidedText(QString::fromStdString(line), Qt::ElideRight,
                                              static_cast<int>(mark.words.width)));
        top += pitch;
    }
}

// Whole, over what lies behind it.
void SectionView::paintName(QPainter& p, const report::DrawnMark& mark, const QRectF& visible,
                            double scale) const {
    QFont font = textFont(9, true);
    font.setPixelSize(static_cast<int>(std::ceil(std::max(report::letterSize, leastLetters / scale))));
    p.setFont(font);
    const QString name = QString::fromStdString(mark.label);
    QRectF place(mark.words.x - 3, mark.words.centre().y - p.fontMetrics().height() / 2.0 - 1,
                 p.fontMetrics().horizontalAdvance(name) + 8, p.fontMetrics().height() + 2);
    // Not beyond the edge of what is seen.
    if (place.right() > visible.right() - 2) place.moveRight(visible.right() - 2);
    if (place.left() < visible.left() + 2) place.moveLeft(visible.left() + 2);
    p.setPen(QPen(theme().ink, 1));
    p.setBrush(theme().panel);
    p.drawRect(place);
    p.drawText(place, Qt::AlignCenter, name);
}

int SectionView::markAt(QPointF drawing) const {
    for (std::size_t i = 0; i < m_section.marks.size(); ++i) {
        const report::DrawnMark& mark = m_section.marks[i];
        const bool named = showsNames() && rectOf(mark.words).contains(drawing);
        if (named || rectOf(mark.box).adjusted(-3, -3, 3, 3).contains(drawing)) return static_cast<int>(i);
    }
    return -1;
}

// To the next thing that can be a place, or the one before; the picture follows it.
void SectionView::go(int by) {
    const auto count = static_cast<int>(m_section.marks.size());
    for (int step = 1; step <= count; ++step) {
        const int at = ((m_current < 0 && by < 0 ? 0 : m_current) + by * step + count * 2) % count;
        const report::DrawnMark& mark = m_section.marks[static_cast<std::size_t>(at)];
        if (!isThing(mark.id)) continue;
        m_current = at;
        const QPointF centre = QPointF(mark.box.centre().x, mark.box.centre().y) * m_scale + m_offset;
        if (!rect().adjusted(20, 20, -20, -20).contains(centre.toPoint())) {
            m_offset += QPointF(width() / 2.0, height() / 2.0) - centre;
            m_fitted = false;
        }
        break;
    }
    update();
}

// A loose end is none: it is the run's.
bool SectionView::isThing(const house::Id& id) const {
    const house::House& h = m_model.house();
    return h.jack(id) != nullptr || h.device(id) != nullptr || h.coaxPart(id) != nullptr ||
           h.panel(id) != nullptr ||
           std::any_of(h.appliances.begin(), h.appliances.end(), [&](const auto& a) { return a.id == id; });
}

QString SectionView::placeAt(QPointF drawing) const {
    const report::Point point{drawing.x(), drawing.y()};
    if (const int at = markAt(drawing); at >= 0) {
        const report::DrawnMark& mark = m_section.marks[static_cast<std::size_t>(at)];
        if (isThing(mark.id)) return QString::fromStdString(mark.id);
    }
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
    if ((event->buttons() & Qt::LeftButton) == 0) {
        if (const int at = markAt(toDrawing(event->position())); at != m_pointed) {
            m_pointed = at;
            update();
        }
        return;
    }
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
    case Qt::Key_Period:
        go(1);
        return;
    case Qt::Key_Comma:
        go(-1);
        return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (m_current >= 0)
            Q_EMIT placeChosen(
                QString::fromStdString(m_section.marks[static_cast<std::size_t>(m_current)].id));
        return;
    case Qt::Key_S:
        Q_EMIT serviceAsked(
            m_current < 0 ? QString()
                          : QString::fromStdString(m_section.marks[static_cast<std::size_t>(m_current)].id));
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
        if (const int mark = markAt(at); mark >= 0) {
            QToolTip::showText(
                help->globalPos(),
                plainTip(QString::fromStdString(m_section.marks[static_cast<std::size_t>(mark)].label)),
                this);
            return true;
        }
        QToolTip::hideText();
        return true;
    }
    return QWidget::event(event);
}

} // namespace metrodos::desktop
