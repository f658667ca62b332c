#include "capacity/copper.h"

#include <algorithm>
#include <map>

namespace metrodos::capacity {
namespace {

using Chances = std::map<const catalog::Phy*, double>;

// Walks the PHYs from the fastest: each takes its chance of what the faster ones left.
void addCategory(Chances& chances, const catalog::Catalog& catalog, const catalog::CableCategory& category,
                 quantity::Length length, int pairs, double weight) {
    double left = weight;
    for (auto phy = catalog.phys.rbegin(); phy != catalog.phys.rend(); ++phy) {
        const auto reach = category.reach.find(phy->id);
        if (reach == category.reach.end() || phy->pairs > pairs) continue;
        double links = 0;
        if (length <= reach->second.certain)
            links = 1;
        else if (length <= reach->second.likely)
            links = catalog.likelyLinkProbability;
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
