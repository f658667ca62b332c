#include "quantity/format.h"
#include "quantity/text.h"
#include "report/document.h"
#include "report/svg.h"

#include <algorithm>
#include <cmath>

namespace metrodos::report {
namespace {

constexpr double pageWidth = 680;
constexpr double elementHeight = 22;
constexpr double channelMiddle = 500;
constexpr double channelHalf = 110; // at full bore
constexpr double headHeight = 36;
constexpr double scaleHeight = 20;

// Full bore is 10 Gbit/s, nothing 1 Mbit/s: half of the width between the walls of a channel.
double bore(quantity::BitRate rate) {
    constexpr double decades = 4;
    return std::clamp(std::log10(std::max(rate.inMegabits(), 1.0)) / decades, 0.02, 1.0) * channelHalf;
}

} // namespace

std::string toSvg(const WayStrip& strip) {
    const double bottom = headHeight + elementHeight * static_cast<double>(strip.elements.size());
    std::string out = svgText(4, 13, "start", ink::black, quantity::shortened(strip.title, 60), 12, true);
    out += svgText(channelMiddle - 6, 30, "end", ink::quiet, "◂ backward", 10);
    out += svgText(channelMiddle + 6, 30, "start", ink::quiet, "forward ▸", 10);
    const auto walls = [&](std::size_t i) {
        const WayStrip::Element& e = strip.elements[i];
        const double back = bore(e.backward);
        return svgRect(channelMiddle - back, headHeight + elementHeight * static_cast<double>(i),
                       back + bore(e.forward), elementHeight,
                       svgFill(e.isLimit ? ink::warm : ink::line, 1, "#ffffff"));
    };
    for (std::size_t i = 0; i < strip.elements.size(); ++i) {
        const WayStrip::Element& e = strip.elements[i];
        const double top = headHeight + elementHeight * static_cast<double>(i);
        if (!e.isLimit) out += walls(i);
        out += svgText(4, top + 15, "start", e.isLimit ? ink::warm : ink::black,
                       quantity::shortened(e.label, 46), 11.5, e.isLimit);
        if (e.isLimit)
            out += svgText(channelMiddle + channelHalf + 6, top + 15, "start", ink::warm, "limit", 11, true);
    }
    // What went through, as wide as it was.
    const auto flow = [&](const std::optional<quantity::BitRate>& rate, double side) {
        if (!rate) return;
        const double wide = bore(*rate);
        out += svgRect(side < 0 ? channelMiddle - wide : channelMiddle, headHeight, wide, bottom - headHeight,
                       svgFill(ink::cool, 0.45));
        out += svgText(channelMiddle + side * 4, bottom + 14, side < 0 ? "end" : "start", ink::cool,
                       quantity::plain(*rate), 11, true);
    };
    flow(strip.measuredBackward, -1);
    flow(strip.measuredForward, 1);
    for (std::size_t i = 0; i < strip.elements.size(); ++i)
        if (strip.elements[i].isLimit) out += walls(i); // before what flows: it is what is looked for
    out += svgLine(channelMiddle, headHeight, channelMiddle, bottom, ink::black, 0.8);
    return svgDrawing(pageWidth, bottom + scaleHeight, wordsOf(strip), out);
}

std::string wordsOf(const WayStrip& strip) {
    std::string out = strip.title + ": ";
    for (std::size_t i = 0; i < strip.elements.size(); ++i) {
        const WayStrip::Element& e = strip.elements[i];
        const std::string there = quantity::plain(e.forward);
        const std::string back = quantity::plain(e.backward);
        out += (i == 0 ? "" : " → ") + e.label + " (" + (there == back ? there : there + " / " + back) +
               (e.isLimit ? ", the limit" : "") + ")";
    }
    if (strip.measuredForward || strip.measuredBackward) {
        out += "; measured";
        if (strip.measuredForward) out += " " + quantity::plain(*strip.measuredForward) + " forward";
        if (strip.measuredBackward)
            out += std::string(strip.measuredForward ? "," : "") + " " +
                   quantity::plain(*strip.measuredBackward) + " backward";
    }
    return out;
}

} // namespace metrodos::report
