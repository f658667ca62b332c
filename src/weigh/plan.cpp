#include "weigh/plan.h"

#include "weigh/plan_limits.h"
#include "weigh/tolerances.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>
#include <utility>

namespace metrodos::weigh {
namespace {

// Of what must be bought.
Money costOf(const Prices& prices, const std::string& item, double count) {
    return prices.of(item) * std::max(0.0, count - prices.stock(item));
}
Money costOf(const Prices& prices, const std::map<std::string, double>& counts) {
    Money out;
    for (const auto& [item, count] : counts)
        out = out + costOf(prices, item, count);
    return out;
}

// Parts by item: their own counts, each shared key once, and for each key of boxes at the hub the cheapest
// that serves all its ways, which `boxes` then names.
std::map<std::string, double> countsOf(const Options& options, const Prices& prices,
                                       const std::vector<Pick>& picks,
                                       std::map<std::string, std::string>& boxes) {
    std::map<std::string, double> out;
    std::map<std::string, bool> shared;
    std::map<std::string, std::vector<std::string>> serve; // all ways of the key
    for (std::size_t i = 0; i < picks.size(); ++i) {
        if (picks[i].way < 0) continue;
        const SpotWay& way = options.spots[i].way(picks[i].way);
        out["labour"] += way.minutes / 60;
        if (!std::exchange(shared["once " + way.id], true)) out["labour"] += way.minutesOnce / 60;
        for (const PartUse& part : way.parts)
            if (part.shared.empty() || !std::exchange(shared[part.shared], true))
                out[part.item] += part.count;
        if (way.hubBox.empty()) continue;
        const auto [it, isNew] = serve.try_emplace(way.hubShare, way.hubBox);
        if (!isNew)
            std::erase_if(it->second, [&](const std::string& item) {
                return std::find(way.hubBox.begin(), way.hubBox.end(), item) == way.hubBox.end();
            });
    }
    for (const auto& [key, items] : serve) {
        const auto more = [&](const std::string& item) {
            return costOf(prices, item, out[item] + 1).hundredths -
                   costOf(prices, item, out[item]).hundredths;
        };
        const auto best = std::ranges::min_element(items, {}, more);
        if (best == items.end()) continue;
        boxes[key] = *best;
        out[*best] += 1;
    }
    return out;
}

std::string idOf(const Options& options, const std::vector<Pick>& picks) {
    std::uint64_t hash = 1469598103934665603ULL; // FNV-1a
    const auto mix = [&](const std::string& text) {
        for (const unsigned char c : text + "/")
            hash = (hash ^ c) * 1099511628211ULL;
    };
    for (std::size_t i = 0; i < picks.size(); ++i) {
        mix(options.spots[i].spot);
        mix(picks[i].way < 0 ? "none" : options.spots[i].way(picks[i].way).key());
    }
    static constexpr std::string_view digits = "0123456789abcdefghijklmnopqrstuvwxyz";
    std::string out = "plan-";
    constexpr int letters = 8;
    for (int i = 0; i < letters; ++i, hash /= digits.size())
        out += digits[hash % digits.size()];
    return out;
}

} // namespace

Prepared::Prepared(const Options& options)
    : demands(demandsOf(options)) {
    for (const SpotOptions& spot : options.spots) {
        auto& share = carried.emplace_back();
        auto& atShare = rates.emplace_back();
        for (const SpotWay& way : spot.ways) {
            share.push_back(carriedBy(way, spot, options));
            auto& each = atShare.emplace_back();
            for (const Passage& p : way.passages)
                each.push_back(p.rate.quantile(1 - options.share));
        }
    }
}

std::map<std::string, double> lostTime(const std::vector<const SpotWay*>& ways) {
    std::map<std::string, double> out;
    std::map<std::string, int> spots;
    std::map<std::string, std::string> languages;
    std::set<std::string> disturbed;
    for (const SpotWay* way : ways)
        for (const Passage& p : way->passages) {
            if (p.perNode > 0 && p.down && ++spots[p.resource] > 1) out[p.resource] += p.perNode;
            if (p.lostToOthers > 0 &&
                languages.try_emplace(p.resource, p.language).first->second != p.language &&
                disturbed.insert(p.resource).second)
                out[p.resource] += p.lostToOthers;
        }
    return out;
}

Loads loadsOf(const Options& options, const std::vector<Demand>& demands, const std::vector<Pick>& picks,
              const Prepared* prepared) {
    Loads out;
    for (std::size_t i = 0; i < picks.size(); ++i) {
        if (picks[i].way < 0 || !picks[i].carried) continue;
        const std::vector<Passage>& passages = options.spots[i].way(picks[i].way).passages;
        for (std::size_t k = 0; k < passages.size(); ++k) {
            const Passage& p = passages[k];
            const double rate = prepared != nullptr
                                    ? prepared->rates[i][static_cast<std::size_t>(picks[i].way)][k]
                                    : p.rate.quantile(1 - options.share);
            out.fed[p.resource] += demands[i].atOnce.of(p.down) / rate;
            out.wanted[p.resource] +=
                (p.isOwn ? demands[i].wanted : demands[i].wantedAtOnce).of(p.down) / rate;
        }
    }
    std::vector<const SpotWay*> ways;
    for (std::size_t i = 0; i < picks.size(); ++i)
        if (picks[i].way >= 0 && picks[i].carried) ways.push_back(&options.spots[i].way(picks[i].way));
    for (const auto& [resource, lost] : lostTime(ways)) {
        out.fed[resource] += lost;
        out.wanted[resource] += lost;
    }
    return out;
}

double uncarriedOf(const SpotOptions& spot, const Options& options, const Pick& pick) {
    constexpr double nothing = 3;
    if (pick.way < 0) return nothing;
    return pick.carried ? 0 : 2 - std::min(1.0, carriedBy(spot.way(pick.way), spot, options));
}

double uncarriedOf(const Options& options, const std::vector<Pick>& picks) {
    double out = 0;
    for (std::size_t i = 0; i < picks.size(); ++i)
        out += uncarriedOf(options.spots[i], options, picks[i]);
    return out;
}

std::optional<Plan> planOf(const Options& options, const Prices& prices, const std::vector<Pick>& picks,
                           const HubChoice& choice) {
    return planOf(options, prices, picks, hubsOf(options, prices), choice);
}

namespace {

// What one spot gets, by its way alone; the hub and the service are still to come.
SpotResult resultOf(const SpotOptions& spot, const Demand& demand, const Options& options, const Loads& loads,
                    const Pick& pick) {
    SpotResult out;
    out.spot = spot.spot;
    out.way = pick.way;
    out.need = spot.need.down.bps() > 0 ? spot.need.down : spot.need.up;
    if (pick.way < 0) return out;
    const SpotWay& way = spot.way(pick.way);
    out.wayId = way.id;
    out.deviceClass = way.deviceClass;
    out.nicClass = way.nicClass;
    out.carried = pick.carried;
    const double at = 1 - options.share;
    double tightest = std::numeric_limits<double>::infinity();
    double worst = 0; // load by what is wanted
    struct Least {
        double p10 = std::numeric_limits<double>::infinity();
        double p50 = std::numeric_limits<double>::infinity();
    };
    std::map<bool, Least> least; // by direction
    bool down = true;            // the direction of the tightest
    const auto take = [&](bool isDown, const std::string& label, const std::string& id, double ratio,
                          double p10, double p50) {
        Least& l = least[isDown];
        l.p10 = std::min(l.p10, p10);
        l.p50 = std::min(l.p50, p50);
        if (ratio >= tightest) return;
        tightest = ratio;
        down = isDown;
        out.limit = label;
        out.limitId = id;
    };
    const auto ratioOf = [&](double carries, double wanted) {
        constexpr double anything = 1e3; // bit/s: without a need the slowest decides
        return wanted > 0 ? carries / wanted : carries / anything;
    };
    for (const Passage& p : way.passages) {
        // What is left when all the others take what they need.
        const auto found = loads.fed.find(p.resource);
        const double own = pick.carried ? demand.atOnce.of(p.down) / p.rate.quantile(at) : 0;
        const double free = std::max(0.0, 1 - ((found == loads.fed.end() ? 0.0 : found->second) - own));
        take(p.down, p.label, p.isOwn ? spot.spot : p.resource,
             ratioOf(p.rate.quantile(at) * free, demand.alone.of(p.down)), p.rate.quantile(0.1) * free,
             p.rate.quantile(0.5) * free);
        const auto wanted = loads.wanted.find(p.resource);
        const double mine = demand.wanted.of(p.down) / p.rate.quantile(at);
        worst = std::max(
            {worst, mine, (wanted == loads.wanted.end() ? 0.0 : wanted->second) + (pick.carried ? 0 : mine)});
    }
    for (const bool isDown : {true, false})
        if (const auto& whole = isDown ? way.wholeDown : way.wholeUp) {
            const double wanted = demand.wanted.of(isDown);
            worst = std::max(worst, wanted / whole->quantile(at));
            Least& l = least[isDown];
            l.p10 = std::min(l.p10, whole->quantile(0.1));
            l.p50 = std::min(l.p50, whole->quantile(0.5));
        }
    out.need =
        BitRate::bitsPerSecond(demand.wanted.of(down) > 0 ? demand.wanted.of(down) : demand.wanted.larger());
    if (const auto l = least.find(down); l != least.end()) {
        out.p10 = BitRate::bitsPerSecond(l->second.p10);
        out.p50 = BitRate::bitsPerSecond(l->second.p50);
    }
    constexpr double endless = 1000;
    out.houseHeadroom = worst > 0 ? std::min(endless, 1 / worst) : endless;
    return out;
}

// The ports and the uplink of the hub are on the way as well.
void addHub(Plan& plan, const Options& options, const std::vector<Demand>& demands,
            const std::vector<Pick>& picks, const Hub& hub, const HubTraffic& traffic, const HubUse& use) {
    for (std::size_t k = 0; k < use.order.size(); ++k) {
        const PortUse& port = traffic.ports[use.order[k]];
        if (port.spot == noSpot) continue;
        SpotResult& spot = plan.spots[port.spot];
        const BitRate rate = use.ports[k];
        if (spot.p10 > rate) {
            spot.limit = "the port at the hub";
            spot.limitId = "hub-port";
        }
        spot.p10 = std::min(spot.p10, rate);
        spot.p50 = std::min(spot.p50, rate);
        if (const double wanted = demands[port.spot].wanted.larger(); wanted > 0)
            spot.houseHeadroom = std::min(spot.houseHeadroom, rate.bps() / wanted);
    }
    for (std::size_t k = 0; k < use.order.size(); ++k) {
        const PortUse& port = traffic.ports[use.order[k]];
        if (port.spot != noSpot || port.wanted <= 0) continue;
        for (std::size_t i = 0; i < picks.size(); ++i)
            if (picks[i].way >= 0 && picks[i].carried) {
                const SpotWay& way = options.spots[i].way(picks[i].way);
                if (way.takesPort && way.hubShare == port.share)
                    plan.spots[i].houseHeadroom =
                        std::min(plan.spots[i].houseHeadroom, use.ports[k].bps() / port.wanted);
            }
    }
    if (hub.bought.empty() || use.uplinkLoad <= 0) return;
    for (std::size_t i = 0; i < picks.size(); ++i) {
        if (picks[i].way < 0 || !picks[i].carried) continue;
        const UplinkPart c = uplinkPartOf(options.spots[i].way(picks[i].way), demands[i]);
        if (c.always.larger() > 0 || (hub.together == 0 && c.apart.larger() > 0))
            plan.spots[i].houseHeadroom = std::min(plan.spots[i].houseHeadroom, 1 / use.uplinkLoad);
    }
}

} // namespace

std::optional<Plan> planOf(const Options& options, const Prices& prices, const std::vector<Pick>& picks,
                           const std::vector<Hub>& hubs, const HubChoice& choice, const Prepared* prepared) {
    const std::vector<Demand> worked = prepared == nullptr ? demandsOf(options) : std::vector<Demand>();
    const std::vector<Demand>& demands = prepared == nullptr ? worked : prepared->demands;
    const Loads loads = loadsOf(options, demands, picks, prepared);
    for (const auto& [resource, load] : loads.fed)
        if (exceeds(load, 1)) return std::nullopt;
    Plan out;
    for (const auto& [resource, load] : loads.wanted)
        out.load = std::max(out.load, load);
    if (exceeds(out.load, choice.maxLoad)) return std::nullopt;
    if (prepared == nullptr) out.id = idOf(options, picks);
    for (std::size_t i = 0; i < picks.size(); ++i) {
        const SpotOptions& spot = options.spots[i];
        if (picks[i].way >= 0) {
            const SpotWay& way = spot.way(picks[i].way);
            if (!spot.mayTake(way)) return std::nullopt;
            const double carries = prepared == nullptr
                                       ? carriedBy(way, spot, options)
                                       : prepared->carried[i][static_cast<std::size_t>(picks[i].way)];
            if (picks[i].carried && fallsShort(carries, 1)) return std::nullopt;
            out.holes += way.holes;
            out.years += way.years / static_cast<double>(picks.size());
            out.unsteady += 1 - way.steadiness;
        } else if (picks[i].carried) {
            return std::nullopt;
        }
        if (prepared == nullptr) out.spots.push_back(resultOf(spot, demands[i], options, loads, picks[i]));
    }
    const std::map<std::string, double> own = countsOf(options, prices, picks, out.hubBoxes);
    const HubTraffic traffic = hubTrafficOf(options, demands, picks);
    std::optional<std::map<std::string, double>> best;
    const Hub* hub = nullptr;
    HubUse use;
    for (const Hub& one : hubs) {
        auto found = useOf(options, one, traffic, choice);
        if (!found || exceeds(found->load, choice.maxLoad)) continue;
        std::map<std::string, double> counts = own;
        for (const int k : one.bought)
            counts[options.offers[static_cast<std::size_t>(k)].item] += 1;
        const Money cost = costOf(prices, counts);
        const double better =
            choice.fastest ? std::max(found->load, out.load) - std::max(use.load, out.load) : 0;
        if (best && (better > loadTolerance || (better >= -loadTolerance && out.cost <= cost))) continue;
        best = std::move(counts);
        hub = &one;
        use = std::move(*found);
        out.cost = cost;
    }
    if (!best) return std::nullopt;
    out.load = std::max(out.load, use.load);
    if (prepared != nullptr) return out;
    addHub(out, options, demands, picks, *hub, traffic, use);
    for (const auto& [item, count] : *best) {
        if (count <= 0) continue;
        PartLine line{item, prices.label(item), prices.unit(item), count, 0, prices.of(item), {}};
        line.fromStock = static_cast<int>(std::min<double>(prices.stock(item), std::floor(count)));
        line.total = costOf(prices, item, count);
        out.parts.push_back(std::move(line));
    }
    if (const auto labour = best->find("labour"); labour != best->end()) out.minutes = labour->second * 60;
    out.headroom = std::numeric_limits<double>::infinity();
    for (const SpotResult& spot : out.spots)
        if (spot.carried) out.headroom = std::min(out.headroom, spot.houseHeadroom);
    if (!std::isfinite(out.headroom)) out.headroom = 0;
    addLimits(out, options, demands);
    if (options.entryFilter == EntryFilter::behindModem &&
        std::any_of(out.spots.begin(), out.spots.end(),
                    [](const SpotResult& s) { return s.wayId == "coax"; }))
        out.notes.emplace_back(
            "The cable internet goes above what an entry filter passes: the modem is split off first and "
            "the filter goes onto the branch that feeds the house; where that cannot be, no filter is "
            "fitted and link privacy keeps the neighbours out");
    return out;
}

} // namespace metrodos::weigh
