#include "weigh/way_choice.h"

#include <algorithm>

namespace metrodos::weigh {

WayCost costOf(const SpotWay& way, const Prices& prices) {
    const double hour = prices.of("labour").inUnits();
    double each = way.minutes / 60 * hour;
    double once = way.minutesOnce / 60 * hour;
    for (const PartUse& part : way.parts)
        (part.shared.empty() ? each : once) += prices.of(part.item).inUnits() * part.count;
    if (!way.hubBox.empty()) {
        const auto cheapest = std::min_element(
            way.hubBox.begin(), way.hubBox.end(),
            [&](const std::string& a, const std::string& b) { return prices.of(a) < prices.of(b); });
        once += prices.of(*cheapest).inUnits();
    }
    return {Money::units(each), Money::units(once)};
}

std::vector<std::size_t> oneOfEach(const SpotOptions& spot, const Options& options, const Prices& prices,
                                   int chosen) {
    struct Best {
        std::size_t way = 0;
        double carried = 0; // 0–1
        double cost = 0;
    };
    std::vector<Best> shown; // in the order of the ways
    for (std::size_t w = 0; w < spot.ways.size(); ++w) {
        const SpotWay& way = spot.ways[w];
        const WayCost cost = costOf(way, prices);
        const Best one{w, std::min(1.0, carriedBy(way, spot.need, options)),
                       cost.each.inUnits() + cost.once.inUnits()};
        const auto known = std::find_if(shown.begin(), shown.end(),
                                        [&](const Best& b) { return spot.ways[b.way].id == way.id; });
        if (known == shown.end()) {
            shown.push_back(one);
            continue;
        }
        if (static_cast<int>(known->way) == chosen) continue;
        if (static_cast<int>(w) == chosen || one.carried > known->carried ||
            (one.carried == known->carried && one.cost < known->cost))
            *known = one;
    }
    std::vector<std::size_t> out;
    for (const bool possible : {true, false})
        for (const Best& b : shown)
            if (spot.ways[b.way].isPossible() == possible) out.push_back(b.way);
    return out;
}

} // namespace metrodos::weigh
