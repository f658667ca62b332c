// Random choices of ways, and their best plan by trying all: what the programme is held against.
#pragma once

#include "catalog/load.h"
#include "weigh/program.h"

#include <algorithm>
#include <map>
#include <random>

namespace metrodos::testing {

using Random = std::mt19937_64;

inline double uniform(Random& random, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
}

constexpr int allKinds = 10; // of ways that there are in these choices

/// Spots with up to `ways` ways each: wires of their own, and adapters on up to three shared media, with
/// parts that are shared, ports at the hub, and needs from next to nothing to too much.
inline weigh::Options randomOptions(Random& random, int spots, int ways, bool steadyNeeds = true) {
    using capacity::Distribution;
    using quantity::BitRate;
    struct Kind {
        const char* id;
        const char* resource; // empty: a wire of its own
        const char* part;     // over a medium: the class of its adapters
        double mbps;
        double steadiness;
        double years;
        int holes;
    };
    static const std::vector<Kind> kinds{{"data", "", "patch-lead", 941, 0.9999, 20, 0},
                                         {"new-own", "", "new-cable", 9414, 0.9999, 20, 2},
                                         {"new-hired", "", "hired-run", 9414, 0.9999, 20, 2},
                                         {"coax", "coax", "coax-2500", 1900, 0.999, 8, 0},
                                         {"coax", "coax", "coax-500", 430, 0.999, 8, 0},
                                         {"mains", "mains", "mains-2000", 120, 0.97, 6, 0},
                                         {"mains", "mains", "mains-200", 50, 0.97, 6, 0},
                                         {"mains", "mains", "mains-ghn-2400", 90, 0.97, 6, 0},
                                         {"air", "air", "radio-2400", 400, 0.9, 5, 0},
                                         {"phone", "", "phone-adapter", 180, 0.995, 6, 0}};
    weigh::Options out;
    out.hub = "hall";
    out.hubLabel = "Hall";
    out.steadyFrom = 0.95;
    out.share = 0.9;
    const auto spread = [&](double mbps, double width) {
        return Distribution::of(
            {BitRate::megabits(mbps / width), BitRate::megabits(mbps), BitRate::megabits(mbps * width)});
    };
    for (int i = 0; i < spots; ++i) {
        weigh::SpotOptions spot;
        spot.spot = "spot-" + std::to_string(i);
        spot.label = "Spot " + std::to_string(i);
        if (uniform(random, 0, 1) > 0.05) {
            spot.need.down = BitRate::megabits(std::exp(uniform(random, std::log(5.0), std::log(1500.0))));
            spot.need.up = BitRate::megabits(std::exp(uniform(random, std::log(1.0), std::log(100.0))));
        }
        spot.need.steady = steadyNeeds && uniform(random, 0, 1) < 0.3;
        std::vector<Kind> offered = kinds;
        std::shuffle(offered.begin(), offered.end(), random);
        for (int w = 0; w < ways && w < static_cast<int>(offered.size()); ++w) {
            const Kind& kind = offered[static_cast<std::size_t>(w)];
            weigh::SpotWay way;
            way.id = kind.id;
            way.label = kind.id;
            way.steadiness = kind.steadiness;
            way.years = kind.years;
            way.holes = kind.holes;
            way.minutes = std::floor(uniform(random, 5, 120));
            way.minutesOnce = 3 * kind.years;
            way.rttUs = {500, 800, 1200};
            const std::string resource = kind.resource;
            const Distribution rate = resource.empty() ? Distribution::certain(BitRate::megabits(kind.mbps))
                                                       : spread(kind.mbps * uniform(random, 0.3, 1.2), 1.5);
            way.down = way.up = rate.spread();
            for (const bool down : {true, false})
                way.passages.push_back({resource.empty() ? spot.spot + (down ? "/down" : "/up") : resource,
                                        kind.id,
                                        rate,
                                        down,
                                        false,
                                        {},
                                        resource == "coax" ? 0.015 : 0,
                                        kind.part == std::string("mains-ghn-2400") ? "g.hn" : "",
                                        resource == "mains" ? 0.35 : 0});
            way.parts.push_back(
                {kind.part, kind.part == std::string("new-cable") ? std::floor(uniform(random, 5, 40)) : 1,
                 ""});
            if (!resource.empty()) {
                way.hubShare =
                    resource + (kind.part == std::string("mains-ghn-2400") ? ", g.hn" : "") + " at the hub";
                way.deviceClass = kind.part;
                // The faster class serves the slower one too.
                static const std::map<std::string, std::string> faster{{"coax-500", "coax-2500"},
                                                                       {"mains-200", "mains-2000"}};
                way.hubBox = {kind.part};
                if (const auto it = faster.find(kind.part); it != faster.end())
                    way.hubBox.push_back(it->second);
            }
            if (uniform(random, 0, 1) < 0.08) way.ruledOut = "cannot be";
            spot.ways.push_back(std::move(way));
        }
        out.spots.push_back(std::move(spot));
    }
    out.freePorts = {{BitRate::megabits(941), static_cast<int>(uniform(random, 0, 4))}};
    if (out.freePorts[0].count == 0) {
        out.freePorts[0].count = 1;
        out.portsToMove = 1;
    }
    out.uplink = BitRate::megabits(941);
    if (uniform(random, 0, 1) < 0.5) out.service = BitRate::megabits(uniform(random, 100, 2000));
    out.offers = {{"switch-1g-5", BitRate::megabits(941), 5},
                  {"switch-1g-8", BitRate::megabits(941), 8},
                  {"switch-2.5g-5", BitRate::megabits(2353), 5},
                  {"switch-10g-8", BitRate::megabits(9414), 8}};
    return out;
}

/// The lexicographic value of a choice: needs that are not carried as the programme counts them, then cost.
struct Value {
    double uncarried = 1e9;
    double cost = 1e9;

    [[nodiscard]] bool betterThan(const Value& other) const {
        constexpr double equal = 1e-6;
        if (std::fabs(uncarried - other.uncarried) > equal) return uncarried < other.uncarried;
        return cost < other.cost - 0.005;
    }
};

inline std::optional<Value> valueOf(const weigh::Options& options, const weigh::Prices& prices,
                                    const std::vector<weigh::Pick>& picks) {
    const auto plan = weigh::planOf(options, prices, picks);
    if (!plan) return std::nullopt;
    return Value{weigh::uncarriedOf(options, picks), plan->cost.inUnits()};
}

/// The best of all choices, one after another.
inline Value bestOfAll(const weigh::Options& options, const weigh::Prices& prices) {
    Value best;
    std::vector<weigh::Pick> picks(options.spots.size());
    const auto descend = [&](const auto& self, std::size_t i) -> void {
        if (i == picks.size()) {
            if (const auto value = valueOf(options, prices, picks); value && value->betterThan(best))
                best = *value;
            return;
        }
        const weigh::SpotOptions& spot = options.spots[i];
        for (int w = -1; w < static_cast<int>(spot.ways.size()); ++w)
            for (const bool carried : {true, false}) {
                if (w < 0 && carried) continue;
                if (w >= 0 && !carried && !spot.need.any()) continue;
                picks[i] = {w, carried};
                self(self, i + 1);
            }
    };
    descend(descend, 0);
    return best;
}

} // namespace metrodos::testing
