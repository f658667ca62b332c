#include "weigh/way_choice.h"

#include <algorithm>

namespace metrodos::weigh {
namespace {

const std::string& cheapestBox(const SpotWay& way, const Prices& prices) {
    return *std::ranges::min_element(way.hubBox, {},
                                     [&](const std::string& item) { return prices.of(item); });
}

} // namespace

WayCost costOf(const SpotWay& way, const Prices& prices) {
    const Money hour = prices.of("labour");
    WayCost out{hour * (way.minutes / 60), {{"once " + way.id, hour * (way.minutesOnce / 60)}}};
    for (const PartUse& part : way.parts) {
        const Money cost = prices.of(part.item) * part.count;
        if (part.shared.empty())
            out.each = out.each + cost;
        else
            out.once[part.shared] = cost;
    }
    if (!way.hubBox.empty()) {
        out.once[way.hubShare] = prices.of(cheapestBox(way, prices));
    }
    return out;
}

std::vector<PartLine> partsOf(const SpotWay& way, const Prices& prices) {
    std::vector<PartLine> out;
    const auto add = [&](const std::string& item, double count, bool isOnce) {
        if (count <= 0) return;
        const std::string label = prices.label(item) + (isOnce ? ", once for all on this way" : "");
        const Money each = prices.of(item);
        out.push_back({item, label, prices.unit(item), count, 0, each, each * count});
    };
    for (const PartUse& part : way.parts)
        add(part.item, part.count, !part.shared.empty());
    if (!way.hubBox.empty()) add(cheapestBox(way, prices), 1, true);
    constexpr double perHour = 60;
    add("labour", way.minutes / perHour, false);
    add("labour", way.minutesOnce / perHour, true);
    return out;
}

Money WayCost::first() const {
    Money out;
    for (const auto& [key, money] : once)
        out = out + money;
    return out;
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
        const Best one{w, std::min(1.0, carriedBy(way, spot, options)), (cost.each + cost.first()).inUnits()};
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

std::vector<std::size_t> eachOfThem(const SpotOptions& spot) {
    std::vector<std::size_t> out;
    for (std::size_t first = 0; first < spot.ways.size(); ++first) {
        const auto isSame = [&](std::size_t w) { return spot.ways[w].id == spot.ways[first].id; };
        bool isFirst = true;
        for (std::size_t w = 0; w < first; ++w)
            isFirst = isFirst && !isSame(w);
        for (std::size_t w = first; isFirst && w < spot.ways.size(); ++w)
            if (isSame(w)) out.push_back(w);
    }
    std::stable_partition(out.begin(), out.end(), [&](std::size_t w) { return spot.ways[w].isPossible(); });
    return out;
}

} // namespace metrodos::weigh
