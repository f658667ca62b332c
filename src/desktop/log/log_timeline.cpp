#include "desktop/log/log_timeline.h"

#include "benchmark/statistics.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QKeyEvent>
#include <QLocale>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <map>

namespace metrodos::desktop {
namespace {

constexpr double left = 58; // pixels, for the figures of the scale
constexpr double right = 14;
constexpr double top = 10;
constexpr double bottom = 24;
constexpr double mark = 4.5; // half of a mark's width
constexpr double mostOnEachOther = 4;

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
    double low = 12;
    double high = 0;
    for (const TimedRun& r : m_runs) {
        low = std::min(low, std::log10((r.spread ? r.spread->first : r.goodput).bps() + 1));
        high = std::max(high, std::log10((r.spread ? r.spread->second : r.goodput).bps() + 1));
    }
    // Whole powers of ten around what there is, two at the least.
    m_low = m_runs.empty() ? 6 : std::floor(std::max(low, 4.0));
    m_high = m_runs.empty() ? 10 : std::max(std::ceil(high), m_low + 1);
    setSections();
    update();
}

// A stretch of nothing that is longer than a twentieth of all ends a section. A section is as wide as it has
// runs, on a logarithmic scale, so that a visit of six is seen beside a week of hundreds.
void LogTimeline::setSections() {
    m_sections.clear();
    if (m_runs.empty()) return;
    constexpr double gap = 0.02; // of the width, between sections
    std::vector<qint64> times;
    for (const TimedRun& r : m_runs)
        times.push_back(r.at.toSecsSinceEpoch());
    std::sort(times.begin(), times.end());
    const qint64 longest = std::max<qint64>((times.back() - times.front()) / 20, 3600);
    std::vector<double> weights;
    double sum = 0;
    for (std::size_t i = 0, begin = 0; i < times.size(); ++i) {
        if (i + 1 < times.size() && times[i + 1] - times[i] <= longest) continue;
        m_sections.push_back({times[begin], times[i], 0, 0});
        weights.push_back(1 + std::log2(1.0 + static_cast<double>(i - begin)));
        sum += weights.back();
        begin = i + 1;
    }
    const auto gaps = static_cast<double>(m_sections.size() - 1);
    const double room = std::max(1 - gaps * gap, 0.5);
    double left = 0;
    for (std::size_t i = 0; i < m_sections.size(); ++i) {
        m_sections[i].left = left;
        m_sections[i].width = room * weights[i] / sum;
        left += m_sections[i].width + (1 - room) / std::max(gaps, 1.0);
    }
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
    const qint64 t = at.toSecsSinceEpoch();
    const auto section =
        std::find_if(m_sections.begin(), m_sections.end(), [&](const Section& s) { return t <= s.to; });
    if (section == m_sections.end()) return plot().right();
    const auto all = static_cast<double>(section->to - section->from);
    const double share = all <= 0 ? 0.5 : std::clamp(static_cast<double>(t - section->from) / all, 0.0, 1.0);
    const double room = section->width * plot().width() - 16;
    return plot().left() + section->left * plot().width() + 8 + share * std::max(room, 0.0);
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
    const auto day = [&](qint64 at) {
        return locale.toString(QDateTime::fromSecsSinceEpoch(at).date(), QLocale::ShortFormat);
    };
    double free = area.left(); // where the next date may stand
    for (std::size_t i = 0; i < m_sections.size(); ++i) {
        const Section& s = m_sections[i];
        const double from = area.left() + s.left * area.width();
        const double to = from + s.width * area.width();
        if (i > 0) { // the line of time is broken before it
            p.fillRect(QRectF(from - area.width() * 0.02, area.top(), area.width() * 0.02, area.height()),
                       theme().ground);
            p.setPen(theme().quiet);
        }
        const QString first = day(s.from);
        const QString last = day(s.to);
        const double wide = p.fontMetrics().horizontalAdvance(first) + 8;
        if (from >= free) {
            p.drawText(QRectF(from, area.bottom() + 4, wide, bottom - 4), Qt::AlignLeft | Qt::AlignTop,
                       first);
            free = from + wide;
        }
        if (last != first && to - wide >= free) {
            p.drawText(QRectF(to - wide, area.bottom() + 4, wide, bottom - 4), Qt::AlignRight | Qt::AlignTop,
                       last);
            free = to;
        }
    }
    // Wider than half of a mark apart in the mean, each is seen by itself.
    if (static_cast<double>(m_runs.size()) * mark > area.width() * mostOnEachOther)
        paintColumns(p);
    else
        paintMarks(p);
    if (hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().quiet, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void LogTimeline::paintMarks(QPainter& p) const {
    for (const TimedRun& r : m_runs) {
        const double x = xOf(r.at);
        const double y = yOf(r.goodput);
        p.setPen(QPen(r.counts ? theme().cool : theme().line, r.isOther ? 1.2 : 2));
        if (r.spread) p.drawLine(QPointF(x, yOf(r.spread->first)), QPointF(x, yOf(r.spread->second)));
        const double tip = r.forward ? -mark : mark;
        const QPolygonF shape{QPointF(x - mark, y - tip / 2), QPointF(x + mark, y - tip / 2),
                              QPointF(x, y + tip)};
        p.setBrush(r.isOther || !r.counts ? theme().panel : theme().cool);
        p.drawPolygon(shape);
        if (r.id == m_current) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(theme().ink, 1.5));
            p.drawEllipse(QPointF(x, y), 2.2 * mark, 2.2 * mark);
        }
    }
}

// One row of columns a direction and set, each as wide as a mark.
void LogTimeline::paintColumns(QPainter& p) const {
    std::map<std::pair<int, bool>, std::vector<double>> columns; // by column, and whether of the other set
    constexpr double wide = 2 * mark;
    for (const TimedRun& r : m_runs)
        if (r.counts) columns[{static_cast<int>(xOf(r.at) / wide), r.isOther}].push_back(r.goodput.bps());
    for (auto& [key, rates] : columns) {
        const auto y = [&, &rates = rates](double share) {
            return yOf(quantity::BitRate::bitsPerSecond(benchmark::quantile(rates, share)));
        };
        const double x = key.first * wide + (key.second ? wide / 2 : 0);
        const double half = key.second ? wide / 2 - 1 : wide - 2;
        p.setPen(QPen(theme().cool, 1));
        p.drawLine(QPointF(x + half / 2, y(0)), QPointF(x + half / 2, y(1)));
        p.setBrush(key.second ? theme().panel : theme().cool);
        p.drawRect(QRectF(x, y(0.75), half, std::max(y(0.25) - y(0.75), 1.5)));
        p.setPen(QPen(theme().ink, 1.6));
        p.drawLine(QPointF(x - 1, y(0.5)), QPointF(x + half + 1, y(0.5)));
    }
    for (const TimedRun& r : m_runs)
        if (r.id == m_current) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(theme().ink, 1.5));
            p.drawEllipse(QPointF(xOf(r.at), yOf(r.goodput)), 2.2 * mark, 2.2 * mark);
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
