#include "desktop/route/route_strip.h"

#include "desktop/widgets/marks.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <cmath>

namespace metrodos::desktop {
namespace {

using benchmark::Direction;
using house::ElementKind;

constexpr double leftMargin = 46; // the scale
constexpr double rightMargin = 12;
constexpr double topMargin = 20;
constexpr double labelHeight = 66;
constexpr double portWidth = 30; // ports are collars, narrow between the things they join

// Full bore is 10 Gbit/s; faster is clipped, since no wall of a house's wiring is further out.
double clipped(double position) {
    return std::min(position, 1.0);
}

} // namespace

RouteStrip::RouteStrip(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    setFocusPolicy(Qt::StrongFocus);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setObjectName(QStringLiteral("routeStrip"));
    setAccessibleName(tr("Route strip"));
    connect(&m_model, &RouteModel::changed, this, QOverload<>::of(&QWidget::update));
    connect(&m_model, &RouteModel::diagnosed, this, QOverload<>::of(&QWidget::update));
    connect(&m_model, &RouteModel::selectionChanged, this, QOverload<>::of(&QWidget::update));
}

void RouteStrip::setLiveFlow(Direction direction, double bps) {
    m_live[direction == Direction::forward ? 0 : 1] = bps;
    update();
}

void RouteStrip::clearLiveFlow() {
    m_live[0] = m_live[1] = 0;
    update();
}

void RouteStrip::setSlim(bool slim) {
    m_slim = slim;
    updateGeometry();
    update();
}

QString RouteStrip::verdict() const {
    const auto& d = m_model.diagnosis();
    const auto& prediction = m_model.prediction();
    if (!prediction) return {};
    if (!d || d->suspects.empty())
        return tr("%1: about %2").arg(m_model.shownLabel(), rateText(prediction->forward.p50));
    const trace::Suspect& first = d->suspects.front();
    const QString words =
        tr("limit: %1, %2 (%3)")
            .arg(QString::fromStdString(first.label), rateText(d->carried), percentText(first.probability));
    return m_model.showsWay() ? tr("not installed – %1").arg(words) : words;
}

QRectF RouteStrip::channel() const {
    if (m_slim) return {8, 5, width() * 0.55 - 8, height() - 10.0};
    return {leftMargin, topMargin, width() - leftMargin - rightMargin, height() - topMargin - labelHeight};
}

std::vector<RouteStrip::Slot> RouteStrip::slotsOf() const {
    std::vector<Slot> out;
    const auto& prediction = m_model.prediction();
    if (!prediction) return out;
    const QRectF area = channel();
    int ports = 0;
    for (const auto& e : prediction->elements)
        if (e.element.kind == ElementKind::port) ++ports;
    const auto others = static_cast<int>(prediction->elements.size()) - ports;
    const double narrow =
        std::min(portWidth, area.width() / static_cast<double>(prediction->elements.size()));
    const double wide = (area.width() - ports * narrow) / std::max(others, 1);
    double x = area.left();
    for (const auto& e : prediction->elements) {
        const double w = e.element.kind == ElementKind::port ? narrow : wide;
        out.push_back({QRectF(x, area.top(), w, area.height()), &e});
        x += w;
    }
    return out;
}

double RouteStrip::bore(quantity::BitRate rate) const {
    return clipped(logPosition(rate)) * (channel().height() / 2 - 4);
}

double RouteStrip::flow(Direction direction) const {
    const double live = m_live[direction == Direction::forward ? 0 : 1];
    if (live > 0) return live;
    const auto& d = m_model.diagnosis();
    if (!d) return 0;
    const auto& measured = direction == Direction::forward ? d->measuredForward : d->measuredBackward;
    return measured ? measured->bps() : 0;
}

void RouteStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme().ground);
    const std::vector<Slot> list = slotsOf();
    if (list.empty()) {
        p.setPen(theme().quiet);
        p.setFont(textFont(12));
        const auto& why = m_model.routeProblem();
        p.drawText(rect().adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap,
                   why ? QString::fromStdString(why->sentence())
                       : tr("No route yet. Open a job or begin one, then choose a route."));
        return;
    }
    if (m_slim) return paintSlim(p, list);
    paintWalls(p, list);
    paintScale(p);
    paintFlow(p, list);
    paintNeed(p);
    paintLimiter(p, list);
    paintLabels(p, list);
    if (hasFocus()) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.drawRect(QRectF(rect()).adjusted(1.5, 1.5, -1.5, -1.5));
    }
}

void RouteStrip::paintSlim(QPainter& p, const std::vector<Slot>& list) const {
    paintWalls(p, list);
    paintFlow(p, list);
    paintLimiter(p, list);
    const QRectF words(channel().right() + 12, 0, width() - channel().right() - 20, height());
    p.setPen(theme().ink);
    p.setFont(textFont(9.5, true));
    p.drawText(words, Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(verdict(), Qt::ElideRight, words.width()));
    if (hasFocus()) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(1.5, 1.5, -1.5, -1.5));
    }
}

void RouteStrip::paintScale(QPainter& p) const {
    const QRectF area = channel();
    const double middle = area.center().y();
    p.setFont(figureFont(7.5));
    for (const auto& [mbps, text] : {std::pair(10.0, "10M"), std::pair(100.0, "100M"),
                                     std::pair(1000.0, "1G"), std::pair(10000.0, "10G")}) {
        const double y = bore(quantity::BitRate::megabits(mbps));
        for (const double side : {-1.0, 1.0}) {
            p.setPen(QPen(theme().line, 0.6, Qt::DotLine));
            p.drawLine(QPointF(area.left(), middle + side * y), QPointF(area.right(), middle + side * y));
            p.setPen(theme().quiet);
            p.drawText(QRectF(0, middle + side * y - 7, leftMargin - 6, 14),
                       Qt::AlignRight | Qt::AlignVCenter, QLatin1String(text));
        }
    }
    p.setPen(theme().quiet);
    p.setFont(textFont(7.5));
    const house::Route& route = m_model.prediction()->route;
    const auto end = [&](const house::Id& id) {
        return QString::fromStdString(m_model.shownHouse().endLabel(id));
    };
    if (m_model.showsWay()) { // not a route of the job: say so where the eye is
        p.setPen(theme().ink);
        p.setFont(textFont(8.5, true));
        p.drawText(
            QRectF(area.left() + area.width() / 4, 1, area.width() / 2, 16), Qt::AlignCenter,
            QFontMetricsF(p.font()).elidedText(tr("a way, not installed: %1").arg(m_model.shownLabel()),
                                               Qt::ElideRight, area.width() / 2));
        p.setPen(theme().quiet);
        p.setFont(textFont(7.5));
    }
    // A long name loses its end, never what is said beside it.
    const auto drawEnd = [&](double left, Qt::Alignment side, const QString& words, const QString& name) {
        const double room = area.width() / 2 - 12 - p.fontMetrics().horizontalAdvance(words.arg(QString()));
        p.drawText(QRectF(left, 2, area.width() / 2, 16), side | Qt::AlignVCenter,
                   words.arg(p.fontMetrics().elidedText(name, Qt::ElideRight, static_cast<int>(room))));
    };
    drawEnd(area.left(), Qt::AlignLeft, tr("forward, to %1 ▸  above the line"), end(route.to));
    drawEnd(area.center().x(), Qt::AlignRight, tr("below the line  ◂ backward, to %1"), end(route.from));
}

void RouteStrip::paintWalls(QPainter& p, const std::vector<Slot>& list) const {
    const QRectF area = channel();
    const double middle = area.center().y();
    p.fillRect(area, theme().panel);
    for (const double side : {-1.0, 1.0}) {
        QPainterPath sure(QPointF(area.left(), middle + side * area.height() / 2));
        QPainterPath edge;
        double last = -1;
        for (const Slot& slot : list) {
            const auto& spread = side < 0 ? slot.element->forward : slot.element->backward;
            const double low = bore(spread.p10);
            const double mid = bore(spread.p50);
            const double high = bore(spread.p90);
            // Walls begin at the ninetieth percentile; between the tenth and it the hatching says "perhaps".
            const double chamfer = std::min(5.0, slot.area.width() / 4);
            if (last < 0) sure.lineTo(slot.area.left(), middle + side * high);
            sure.lineTo(slot.area.left() + chamfer, middle + side * high);
            sure.lineTo(slot.area.right() - chamfer, middle + side * high);
            if (last < 0) edge.moveTo(slot.area.left(), middle + side * mid);
            edge.lineTo(slot.area.left() + chamfer, middle + side * mid);
            edge.lineTo(slot.area.right() - chamfer, middle + side * mid);
            last = mid;
            if (high - low > 0.5) {
                const QRectF soft(slot.area.left() + chamfer, middle + (side < 0 ? -high : low),
                                  slot.area.width() - 2 * chamfer, high - low);
                QLinearGradient fade(0, middle + side * high, 0, middle + side * low);
                QColor from = theme().line;
                QColor to = theme().line;
                to.setAlphaF(0.05F);
                fade.setColorAt(0, from);
                fade.setColorAt(1, to);
                p.fillRect(soft, fade);
                p.fillRect(soft, QBrush(theme().quiet, slot.element->ceiling.shared ? Qt::DiagCrossPattern
                                                                                    : Qt::BDiagPattern));
            }
        }
        sure.lineTo(area.right(), sure.currentPosition().y());
        sure.lineTo(area.right(), middle + side * area.height() / 2);
        sure.closeSubpath();
        p.fillPath(sure, theme().line);
        edge.lineTo(area.right(), edge.currentPosition().y());
        p.setPen(QPen(theme().ink, 1.6));
        p.setBrush(Qt::NoBrush);
        p.drawPath(edge);
    }
    p.setPen(QPen(theme().quiet, 1.2));
    for (const Slot& slot : list)
        drawMediumLine(p, QRectF(slot.area.left(), middle - 6, slot.area.width(), 12),
                       slot.element->element.connection.empty() ? ElementKind::port
                                                                : slot.element->element.kind);
}

void RouteStrip::paintFlow(QPainter& p, const std::vector<Slot>& list) const {
    const double middle = channel().center().y();
    for (const Direction d : {Direction::forward, Direction::backward}) {
        const double bps = flow(d);
        if (bps <= 0) continue;
        const double h = bore(quantity::BitRate::bitsPerSecond(bps));
        const bool up = d == Direction::forward;
        const QRectF ribbon(list.front().area.left(), up ? middle - h : middle,
                            list.back().area.right() - list.front().area.left(), h);
        QColor body = theme().cool;
        body.setAlphaF(up ? 0.55F : 0.38F);
        p.fillRect(ribbon, body);
        p.setPen(QPen(theme().cool, 2, up ? Qt::SolidLine : Qt::DashLine));
        const double y = up ? ribbon.top() : ribbon.bottom();
        p.drawLine(QPointF(ribbon.left(), y), QPointF(ribbon.right(), y));
    }
}

void RouteStrip::paintNeed(QPainter& p) const {
    const QRectF area = channel();
    const house::Route& route = m_model.prediction()->route;
    for (const auto& [need, side] :
         {std::pair(route.needForward, -1.0), std::pair(route.needBackward, 1.0)}) {
        if (!need) continue;
        const double y = area.center().y() + side * bore(*need);
        p.setPen(QPen(theme().ink, 1.2, Qt::DashDotLine));
        p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
        p.setFont(textFont(7.5, true));
        const QString text = tr("need %1").arg(rateText(*need));
        const double w = QFontMetricsF(p.font()).horizontalAdvance(text) + 8;
        const QRectF box(area.left() + 6, side < 0 ? y - 15 : y + 1, w, 14);
        p.fillRect(box, theme().panel);
        p.setPen(theme().ink);
        p.drawText(box, Qt::AlignCenter, text);
    }
}

void RouteStrip::paintLimiter(QPainter& p, const std::vector<Slot>& list) const {
    const auto& d = m_model.diagnosis();
    if (!d || d->suspects.empty()) return;
    const double middle = channel().center().y();
    for (const Slot& slot : list) {
        double share = 0;
        for (const auto& suspect : d->suspects)
            if (suspect.element == slot.element->element.id) share = suspect.probability;
        if (share < 0.15) continue;
        QColor warm = theme().warm;
        warm.setAlphaF(static_cast<float>(0.25 + 0.75 * share));
        // A wedge from each wall, its point where the flow (or the expected ceiling) meets it.
        for (const Direction direction : {Direction::forward, Direction::backward}) {
            const double side = direction == Direction::forward ? -1 : 1;
            const double measured = flow(direction);
            const auto& spread = side < 0 ? slot.element->forward : slot.element->backward;
            const double tip =
                middle +
                side * (measured > 0 ? bore(quantity::BitRate::bitsPerSecond(measured)) : bore(spread.p50));
            const double base = middle + side * (channel().height() / 2);
            const double half = std::min(slot.area.width() / 2 - 2, 20.0);
            const double x = slot.area.center().x();
            QPainterPath wedge(QPointF(x, tip));
            wedge.lineTo(x - half, base);
            wedge.lineTo(x + half, base);
            wedge.closeSubpath();
            p.fillPath(wedge, warm);
        }
    }
}

void RouteStrip::paintLabels(QPainter& p, const std::vector<Slot>& list) const {
    const QRectF area = channel();
    const auto& d = m_model.diagnosis();
    const std::string limiter =
        d && !d->suspects.empty() && d->suspects.front().probability > 0.5 ? d->suspects.front().element : "";
    const auto* selected = m_model.selected();
    for (const Slot& slot : list) {
        const auto& e = *slot.element;
        const bool isPort = e.element.kind == ElementKind::port;
        const bool isLimiter = e.element.id == limiter;
        const QRectF below(slot.area.left(), area.bottom() + 2, slot.area.width(), labelHeight - 4);
        if (selected == &e) {
            p.setPen(QPen(theme().ink, 2));
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(QRectF(slot.area.left() + 1, area.top() - 1, slot.area.width() - 2,
                                     area.height() + labelHeight - 3),
                              4, 4);
        }
        p.setPen(QPen(isLimiter ? theme().warm : theme().ink, isLimiter ? 1.8 : 1.2));
        const quantity::BitRate shown = std::min(e.forward.p50, e.backward.p50);
        if (isPort) {
            p.setFont(figureFont(7.5, isLimiter));
            p.drawText(below.adjusted(-4, 3, 4, 0), Qt::AlignHCenter | Qt::AlignTop, shortRate(shown));
            continue;
        }
        drawMark(p, QRectF(below.center().x() - 8, below.top() + 2, 16, 14), e.element.kind);
        p.setFont(figureFont(9, true));
        p.drawText(QRectF(below.left(), below.top() + 17, below.width(), 15), Qt::AlignCenter,
                   shortRate(shown));
        p.setFont(textFont(7.5, isLimiter));
        // Words may reach into the gaps beside them, but not through the frame of the chosen element.
        const double gap = selected == &e ? -3 : 3;
        const QRectF words(below.left() - gap, below.top() + 32, below.width() + 2 * gap, 30);
        const QFontMetricsF metrics(p.font());
        QString text = QString::fromStdString(e.element.label);
        // Two lines, broken by words; what is too long for them is cut with an ellipsis.
        QStringList lines{QString()};
        for (const QString& word : text.split(QLatin1Char(' '))) {
            const QString longer = lines.back().isEmpty() ? word : lines.back() + QLatin1Char(' ') + word;
            if (metrics.horizontalAdvance(longer) <= words.width() || lines.back().isEmpty())
                lines.back() = longer;
            else
                lines << word;
        }
        if (lines.size() > 2) lines = {lines[0], lines.mid(1).join(QLatin1Char(' '))};
        for (QString& line : lines)
            if (metrics.horizontalAdvance(line) > words.width()) // and then not up to its neighbour
                line = metrics.elidedText(line, Qt::ElideRight, words.width() - 8);
        p.drawText(words, Qt::AlignHCenter | Qt::AlignTop, lines.join(QLatin1Char('\n')));
    }
}

void RouteStrip::mousePressEvent(QMouseEvent* event) {
    setFocus();
    if (m_slim) {
        Q_EMIT openAsked();
        return;
    }
    for (const Slot& slot : slotsOf())
        if (event->position().x() >= slot.area.left() && event->position().x() < slot.area.right()) {
            m_model.select(slot.element->element.id);
            Q_EMIT elementPressed();
            return;
        }
}

void RouteStrip::step(int by) {
    const auto& prediction = m_model.prediction();
    if (!prediction) return;
    const auto& elements = prediction->elements;
    const auto* now = m_model.selected();
    const auto count = static_cast<int>(elements.size());
    const int at = now == nullptr ? (by > 0 ? -1 : count) : static_cast<int>(now - elements.data());
    m_model.select(elements[static_cast<std::size_t>(std::clamp(at + by, 0, count - 1))].element.id);
    Q_EMIT elementPressed();
}

void RouteStrip::keyPressEvent(QKeyEvent* event) {
    const bool alt = (event->modifiers() & Qt::AltModifier) != 0;
    if (m_slim) {
        if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)
            Q_EMIT openAsked();
        else
            QWidget::keyPressEvent(event);
        return;
    }
    switch (event->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right: {
        const int by = event->key() == Qt::Key_Left ? -1 : 1;
        if (alt)
            Q_EMIT moveAsked(by);
        else
            step(by);
        return;
    }
    case Qt::Key_Delete:
        Q_EMIT removeAsked();
        return;
    case Qt::Key_Insert:
        Q_EMIT insertAsked();
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

bool RouteStrip::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = dynamic_cast<QHelpEvent*>(event);
        for (const Slot& slot : slotsOf())
            if (help != nullptr && slot.area.adjusted(0, 0, 0, labelHeight).contains(help->pos())) {
                QToolTip::showText(help->globalPos(),
                                   plainTip(QString::fromStdString(slot.element->element.label + '\n' +
                                                                   slot.element->ceiling.because)),
                                   this);
                return true;
            }
        QToolTip::hideText();
        return true;
    }
    return QWidget::event(event);
}

} // namespace metrodos::desktop
