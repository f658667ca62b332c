#include "quantity/format.h"
#include "report/document.h"
#include "report/svg.h"

#include <algorithm>
#include <cmath>

namespace metrodos::report {
namespace {

constexpr double weekWidth = 680;
constexpr double daysLeft = 40;
constexpr double scaleRight = 70;
constexpr double dayHeight = 30;
constexpr double titleTop = 22;
constexpr double hoursBelow = 18;
constexpr const char* dayNames[] = {"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"};

} // namespace

std::string toSvg(const WeekHours& hours) {
    double low = 1e13;
    double high = 0;
    for (const auto& day : hours.week)
        for (const benchmark::WeekHour& h : day) {
            if (!h.p10 || !h.p90) continue;
            low = std::min(low, h.p10->bps());
            high = std::max(high, h.p90->bps());
        }
    if (high <= 0) low = high = 1e6;
    // At least from half to twice, so that noise does not look like a difference.
    const double middle = std::sqrt(std::max(low, 1.0) * high);
    low = std::min(std::max(low, 1.0) * 0.9, middle / 2);
    high = std::max(high * 1.1, middle * 2);
    const double wide = (weekWidth - daysLeft - scaleRight) / benchmark::dayHours;
    std::string out = svgText(4, 13, "start", ink::black, hours.title, 12, true);
    for (int day = 0; day < benchmark::weekdays; ++day) {
        const double top = titleTop + day * dayHeight;
        out += svgRect(daysLeft, top + 1, wide * benchmark::dayHours, dayHeight - 2, svgFill("#f4efe4"));
        out += svgText(daysLeft - 6, top + 19, "end", ink::quiet, dayNames[day], 11);
        for (int hour = 0; hour < benchmark::dayHours; ++hour) {
            const benchmark::WeekHour& h =
                hours.week[static_cast<std::size_t>(day)][static_cast<std::size_t>(hour)];
            const double left = daysLeft + hour * wide;
            const auto y = [&](quantity::BitRate rate) {
                const double share = std::log(std::max(rate.bps(), 1.0) / low) / std::log(high / low);
                return top + dayHeight - 3 - std::clamp(share, 0.0, 1.0) * (dayHeight - 6);
            };
            if (h.p10 && h.p50 && h.p90) {
                // As high as the median, with the range across its top.
                out += svgRect(left + 2, y(*h.p50), wide - 4, top + dayHeight - 2 - y(*h.p50),
                               svgFill(ink::cool, 0.25));
                out += svgLine(left + 2, y(*h.p50), left + wide - 2, y(*h.p50), ink::cool, 1.6);
                out += svgLine(left + wide / 2, y(*h.p90), left + wide / 2, y(*h.p10), ink::cool, 3);
            }
            if (h.dropOuts > 0) out += svgText(left + wide / 2, top + 12, "middle", ink::warm, "×", 13, true);
        }
    }
    const double bottom = titleTop + benchmark::weekdays * dayHeight;
    constexpr int everyHours = 3;
    for (int hour = 0; hour < benchmark::dayHours; hour += everyHours)
        out += svgText(daysLeft + hour * wide, bottom + 13, "middle", ink::quiet, std::to_string(hour), 10);
    const double right = weekWidth - scaleRight + 6;
    out += svgText(right, titleTop + 11, "start", ink::quiet,
                   quantity::plain(quantity::BitRate::bitsPerSecond(high)), 10);
    out += svgText(right, titleTop + dayHeight - 2, "start", ink::quiet,
                   quantity::plain(quantity::BitRate::bitsPerSecond(low)), 10);
    return svgDrawing(weekWidth, bottom + hoursBelow, wordsOf(hours), out);
}

std::string wordsOf(const WeekHours& hours) {
    const std::string sentence = benchmark::sentenceOf(hours.week);
    return hours.title + (sentence.empty() ? "" : ". " + sentence);
}

} // namespace metrodos::report
