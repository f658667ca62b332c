#include "capacity/copper.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace metrodos::capacity {
namespace {

using Chances = std::map<const catalog::Phy*, double>;

// That a link comes up at this length: surely up to one length; from there on ever less, logistic in the
// length, through the catalog's chance at the length that it usually reaches. Crosstalk and loss grow evenly,
// and no link knows a last metre.
double linksAt(const catalog::Catalog& catalog, const catalog::Reach& reach, quantity::Length length) {
    const double certain = reach.certain.inMetres();
    const double likely = reach.likely.inMetres();
    const double metres = length.inMetres();
    if (metres <= certain) return 1;
    if (likely <= certain) return 0;
    constexpr double steepness = 5; // widths of the fall between the two lengths
    constexpr double none = 0.01;   // below, the link does not come up
    const double width = (likely - certain) / steepness;
    const double p = catalog.likelyLinkProbability;
    const double middle = likely + width * std::log(p / (1 - p));
    const double out = 1 / (1 + std::exp((metres - middle) / width));
    return out < none ? 0 : out;
}

// Walks the PHYs from the fastest: each takes its chance of what the faster ones left.
void addCategory(Chances& chances, const catalog::Catalog& catalog, const catalog::CableCategory& category,
                 quantity::Length length, int pairs, double weight) {
    double left = weight;
    for (auto phy = catalog.phys.rbegin(); phy != catalog.phys.rend(); ++phy) {
        const auto reach = category.reach.find(phy->id);
        if (reach == category.reach.end() || phy->pairs > pairs) continue;
        const double links = linksAt(catalog, reach->second, length);
        chances[&*phy] += left * links;
        left *= 1 - links;
    }
    chances[nullptr] += left;
}

} // namespace

std::vector<LinkChance> linkChances(const catalog::Catalog& catalog, const catalog::CableCategory* category,
                                    std::optional<quantity::Length> length, std::optional<int> pairs,
                                    const catalog::Termination* termination) {
    const quantity::Length run = length.value_or(catalog.unknownLength);
    const double ends = termination == nullptr ? 1 : termination->badPairFactor;
    const bool isLead = run <= quantity::Length::metres(3) && termination == nullptr;
    const double lost = pairs || isLead ? 0.0 : std::min(0.9, catalog.badPairProbability * ends);
    const int sound = pairs.value_or(4);
    Chances chances;
    const auto add = [&](const catalog::CableCategory& cable, double weight) {
        addCategory(chances, catalog, cable, run, sound, weight * (1 - lost));
        if (lost > 0) addCategory(chances, catalog, cable, run, 2, weight * lost);
    };
    if (category != nullptr) {
        add(*category, 1);
    } else {
        for (const auto& [id, weight] : catalog.unknownCable)
            add(*catalog.cable(id), weight);
    }
    std::vector<LinkChance> out;
    for (auto phy = catalog.phys.rbegin(); phy != catalog.phys.rend(); ++phy)
        if (const double p = chances[&*phy]; p > 0) out.push_back({&*phy, p});
    if (chances[nullptr] > 0) out.push_back({nullptr, chances[nullptr]});
    return out;
}

} // namespace metrodos::capacity
