#include "desktop/log/log_timeline.h"

#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QKeyEvent>
#include <QLocale>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace metrodos::desktop {
namespace {

constexpr double left = 58; // pixels, for the figures of the scale
constexpr double right = 14;
constexpr double top = 10;
constexpr double bottom = 24;
constexpr double mark = 4.5; // half of a mark's width

} // namespace

LogTimeline::LogTimeline(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("log-timeline"));
    setAccessibleName(tr("Runs in time; left and right go from run to run"));
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(150);
}

void LogTimeline::setRuns(std::vector<TimedRun> runs) {
    m_runs = std::move(runs);
    std::erase_if(m_runs, [](const TimedRun& r) { return !r.at.isValid() || r.goodput.bps() <= 0; });
    m_first = m_last = {};
    double low = 12;
    double high = 0;
    for (const TimedRun& r : m_runs) {
        if (!m_first.isValid() || r.at < m_first) m_first = r.at;
        if (!m_last.isValid() || r.at > m_last) m_last = r.at;
        low = std::min(low, std::log10((r.spread ? r.spread->first : r.goodput).bps() + 1));
        high = std::max(high, std::log10((r.spread ? r.spread->second : r.goodput).bps() + 1));
    }
    // Whole powers of ten around what there is, two at the least.
    m_low = m_runs.empty() ? 6 : std::floor(std::max(low, 4.0));
    m_high = m_runs.empty() ? 10 : std::max(std::ceil(high), m_low + 1);
    update();
}

void LogTimeline::setCurrent(const QString& id) {
    if (m_current == id) return;
    m_current = id;
    update();
}

QRectF LogTimeline::plot() const {
    return QRectF(rect()).adjusted(left, top, -right, -bottom);
}

double LogTimeline::xOf(const QDateTime& at) const {
    const auto all = static_cast<double>(m_first.secsTo(m_last));
    const double share = all <= 0 ? 0.5 : static_cast<double>(m_first.secsTo(at)) / all;
    return plot().left() + 8 + share * (plot().width() - 16);
}

double LogTimeline::yOf(quantity::BitRate rate) const {
    const double share = (std::log10(std::max(rate.bps(), 1.0)) - m_low) / (m_high - m_low);
    return plot().bottom() - std::clamp(share, 0.0, 1.0) * plot().height();
}

void LogTimeline::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF area = plot();
    p.fillRect(area, theme().panel);
    p.setFont(figureFont(9));
    for (int power = static_cast<int>(m_low); power <= static_cast<int>(m_high); ++power) {
        const double y = yOf(quantity::BitRate::bitsPerSecond(std::pow(10, power)));
        p.setPen(QPen(theme().line, 1));
        p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
        p.setPen(theme().quiet);
        p.drawText(QRectF(0, y - 8, left - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
                   shortRate(quantity::BitRate::bitsPerSecond(std::pow(10, power))));
    }
    if (m_runs.empty()) return;
    p.setPen(theme().quiet);
    const QLocale locale;
    const QRectF below(area.left(), area.bottom() + 4, area.width(), bottom - 4);
    const auto day = [&](const QDateTime& at) {
        return locale.toString(at.toLocalTime().date(), QLocale::ShortFormat);
    };
    p.drawText(below, Qt::AlignLeft | Qt::AlignTop, day(m_first));
    if (m_first.toLocalTime().date() != m_last.toLocalTime().date())
        p.drawText(below, Qt::AlignRight | Qt::AlignTop, day(m_last));
    for (const TimedRun& r : m_runs) {
        const double x = xOf(r.at);
        const double y = yOf(r.goodput);
        p.setPen(QPen(theme().cool, r.isOther ? 1.2 : 2));
        if (r.spread) p.drawLine(QPointF(x, yOf(r.spread->first)), QPointF(x, yOf(r.spread->second)));
        const double tip = r.forward ? -mark : mark;
        const QPolygonF shape{QPointF(x - mark, y - tip / 2), QPointF(x + mark, y - tip / 2),
                              QPointF(x, y + tip)};
        p.setBrush(r.isOther ? theme().panel : theme().cool);
        p.drawPolygon(shape);
        if (r.id == m_current) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(theme().ink, 1.5));
            p.drawEllipse(QPointF(x, y), 2.2 * mark, 2.2 * mark);
        }
    }
    if (hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().quiet, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void LogTimeline::keyPressEvent(QKeyEvent* event) {
    if ((event->key() != Qt::Key_Left && event->key() != Qt::Key_Right) || m_runs.empty()) {
        QWidget::keyPressEvent(event);
        return;
    }
    const auto it =
        std::find_if(m_runs.begin(), m_runs.end(), [this](const TimedRun& r) { return r.id == m_current; });
    auto at = it == m_runs.end() ? static_cast<std::ptrdiff_t>(m_runs.size()) - 1 : it - m_runs.begin();
    if (it != m_runs.end()) at += event->key() == Qt::Key_Left ? -1 : 1;
    at = std::clamp<std::ptrdiff_t>(at, 0, static_cast<std::ptrdiff_t>(m_runs.size()) - 1);
    setCurrent(m_runs[static_cast<std::size_t>(at)].id);
    Q_EMIT chosen(m_current);
}

void LogTimeline::mousePressEvent(QMouseEvent* event) {
    const TimedRun* nearest = nullptr;
    double least = 400; // square of what is still near, in pixels
    for (const TimedRun& r : m_runs) {
        const QPointF away = event->position() - QPointF(xOf(r.at), yOf(r.goodput));
        const double square = QPointF::dotProduct(away, away);
        if (square >= least) continue;
        least = square;
        nearest = &r;
    }
    if (nearest == nullptr) return;
    setCurrent(nearest->id);
    Q_EMIT chosen(m_current);
}

} // namespace metrodos::desktop
