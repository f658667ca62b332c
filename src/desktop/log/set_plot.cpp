#include "desktop/log/set_plot.h"

#include "benchmark/statistics.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <map>

namespace metrodos::desktop {
namespace {

constexpr double laneHeight = 72;
constexpr double titleHeight = 18;
constexpr double axisHeight = 24;
constexpr double laneMargin = 14;
constexpr double dot = 3; // radius, pixels

std::vector<double> sorted(const std::vector<quantity::BitRate>& runs) {
    std::vector<double> out;
    for (const auto& r : runs)
        out.push_back(std::max(r.bps(), 1.0));
    std::sort(out.begin(), out.end());
    return out;
}

// 1, 2, 5, 10 … between the ends, in bit/s.
std::vector<double> ticksBetween(double low, double high) {
    std::vector<double> out;
    for (double decade = std::pow(10, std::floor(std::log10(low))); decade <= high; decade *= 10)
        for (const double step : {1.0, 2.0, 5.0})
            if (decade * step >= low && decade * step <= high) out.push_back(decade * step);
    return out;
}

} // namespace

SetPlot::SetPlot(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("set-plot"));
    setMinimumHeight(static_cast<int>(2 * laneHeight + axisHeight));
}

void SetPlot::setSets(Set first, Set second) {
    m_sets[0] = std::move(first);
    m_sets[1] = std::move(second);
    setAccessibleName(texts().join(QStringLiteral("; ")));
    update();
}

QStringList SetPlot::texts() const {
    QStringList out;
    for (const Set& set : m_sets) {
        QString text = set.title + QStringLiteral(", ") +
                       counted(static_cast<int>(set.runs.size()), tr("%1 run"), tr("%1 runs"));
        if (!set.runs.empty())
            text += tr(", median %1")
                        .arg(rateText(
                            quantity::BitRate::bitsPerSecond(benchmark::quantile(sorted(set.runs), 0.5))));
        out << text;
    }
    return out;
}

void SetPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const std::vector<double> rates[2] = {sorted(m_sets[0].runs), sorted(m_sets[1].runs)};
    double low = 1e12;
    double high = 0;
    for (const auto& set : rates)
        if (!set.empty()) {
            low = std::min(low, set.front());
            high = std::max(high, set.back());
        }
    if (high == 0) return;
    // At least from half to twice, so that noise does not look like a difference.
    const double middle = std::sqrt(low * high);
    low = std::min(low * 0.95, middle / 1.6);
    high = std::max(high * 1.05, middle * 1.6);
    const double left = laneMargin;
    const double span = width() - 2 * laneMargin;
    const auto x = [&](double bps) { return left + span * std::log(bps / low) / std::log(high / low); };
    const double bottom = 2 * laneHeight;
    p.setFont(figureFont(9));
    double last = -100;
    for (const double tick : ticksBetween(low, high)) {
        p.setPen(QPen(theme().line, 1));
        p.drawLine(QPointF(x(tick), 0), QPointF(x(tick), bottom));
        if (x(tick) - last < 60) continue;
        last = x(tick);
        p.setPen(theme().quiet);
        p.drawText(QRectF(x(tick) - 40, bottom + 4, 80, axisHeight - 4), Qt::AlignHCenter | Qt::AlignTop,
                   shortRate(quantity::BitRate::bitsPerSecond(tick)));
    }
    const QStringList titles = texts();
    for (int i = 0; i < 2; ++i) {
        const double top = i * laneHeight;
        const double base = top + laneHeight - 8;
        p.setPen(theme().ink);
        p.setFont(textFont(11, true));
        const QString title = fittedText(titles[i], p.font(), static_cast<int>(span), 1);
        const QRectF line(left, top, p.fontMetrics().horizontalAdvance(title) + 6, titleHeight);
        p.fillRect(line, theme().ground);
        p.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, title);
        if (rates[i].empty()) continue;
        const double from = x(benchmark::quantile(rates[i], 0.1));
        const double to = x(benchmark::quantile(rates[i], 0.9));
        p.setPen(QPen(theme().cool, 1.2));
        p.setBrush(i == 0 ? QBrush(theme().cool, Qt::Dense6Pattern) : QBrush(theme().panel));
        p.drawRect(QRectF(from, base - 14, std::max(to - from, 2.0), 14));
        // Runs stand on each other where they are alike; a lane holds so many.
        std::map<int, int> stacked;
        const int most = static_cast<int>((laneHeight - titleHeight - 10) / (2 * dot));
        p.setBrush(i == 0 ? theme().cool : theme().panel);
        for (const double rate : rates[i]) {
            const int column = static_cast<int>(std::lround(x(rate) / (2 * dot)));
            const int level = std::min(stacked[column]++, most - 1);
            p.drawEllipse(QPointF(column * 2 * dot, base - dot - level * 2 * dot), dot - 0.6, dot - 0.6);
        }
        const double median = x(benchmark::quantile(rates[i], 0.5));
        p.setPen(QPen(theme().ink, 2));
        p.drawLine(QPointF(median, base - 18), QPointF(median, base + 4));
    }
}

} // namespace metrodos::desktop
