#include "report/run_svg.h"

#include "quantity/format.h"
#include "report/svg.h"

#include <algorithm>
#include <cmath>

namespace metrodos::report {
namespace {

constexpr double runWidth = 680;
constexpr double plotLeft = 74;
constexpr double plotRight = 14;
constexpr double plotTop = 24;
constexpr double plotHeight = 170;
constexpr double plotFoot = 30; // with the axis of time

// The next 1, 2 or 5 times a power of ten: a scale that can be read.
double roundUp(double value) {
    const double power = std::pow(10, std::floor(std::log10(std::max(value, 1.0))));
    for (const double step : {1.0, 2.0, 5.0})
        if (value <= step * power) return step * power;
    return 10 * power;
}

} // namespace

std::string toSvg(const benchmark::Run& run, const std::string& title) {
    double most = run.goodput.bps();
    double last = std::max(run.seconds, 0.1);
    for (const benchmark::Sample& s : run.samples) {
        most = std::max(most, s.goodputBps);
        last = std::max(last, s.t);
    }
    most = roundUp(most);
    const double wide = runWidth - plotLeft - plotRight;
    const auto x = [&](double t) { return plotLeft + wide * t / last; };
    const auto y = [&](double bps) { return plotTop + plotHeight * (1 - std::clamp(bps / most, 0.0, 1.0)); };
    const double foot = plotTop + plotHeight;
    std::string out = svgText(4, 14, "start", ink::black, title, 12, true);
    constexpr int parts = 4;
    for (int i = 0; i <= parts; ++i) {
        const double bps = most * i / parts;
        out += svgLine(plotLeft, y(bps), runWidth - plotRight, y(bps), ink::line, 0.8);
        out += svgText(plotLeft - 6, y(bps) + 4, "end", ink::quiet,
                       quantity::plain(quantity::BitRate::bitsPerSecond(bps)), 10);
        const double t = last * i / parts;
        out += svgText(x(t), foot + 14,
                       i == 0       ? "start"
                       : i == parts ? "end"
                                    : "middle",
                       ink::quiet, quantity::significant(t, 3) + " s", 10);
    }
    if (run.warmupSeconds > 0)
        out +=
            svgRect(plotLeft, plotTop, x(run.warmupSeconds) - plotLeft, plotHeight, svgFill(ink::line, 0.5));
    std::string points;
    for (const benchmark::Sample& s : run.samples)
        points += svgNumber(x(s.t)) + "," + svgNumber(y(s.goodputBps)) + " ";
    if (!points.empty())
        out += "<polyline fill=\"none\" stroke=\"" + std::string(ink::cool) +
               "\" stroke-width=\"1.4\" points=\"" + points + "\"/>\n";
    out +=
        svgLine(plotLeft, y(run.goodput.bps()), runWidth - plotRight, y(run.goodput.bps()), ink::black, 1.2);
    out += svgText(runWidth - plotRight, y(run.goodput.bps()) - 4, "end", ink::black,
                   quantity::plain(run.goodput), 11, true);
    return svgDrawing(runWidth, foot + plotFoot, title + ": " + quantity::plain(run.goodput), out);
}

} // namespace metrodos::report
