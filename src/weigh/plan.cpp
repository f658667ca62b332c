#include "weigh/plan.h"

#include "weigh/tolerances.h"

#include "quantity/format.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace metrodos::weigh {
namespace {

// Whether ports of falling rate serve needs of falling rate: the k-th fastest need takes the k-th fastest
// port.
bool serves(const std::vector<Ports>& ports, const std::vector<BitRate>& falling) {
    std::size_t next = 0;
    for (const Ports& p : ports)
        for (int i = 0; i < p.count && next < falling.size(); ++i)
            if (p.goodput >= falling[next])
                ++next;
            else
                return false;
    return next == falling.size();
}

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
        const auto best =
            std::min_element(items.begin(), items.end(),
                             [&](const std::string& a, const std::string& b) { return more(a) < more(b); });
        if (best == items.end()) continue;
        boxes[key] = *best;
        out[*best] += 1;
    }
    return out;
}

// A wire carries no more than the port that it gets at the hub: of falling needs the first takes the fastest.
void capAtPorts(Plan& plan, const Options& options, const std::vector<Pick>& picks,
                std::vector<std::size_t> wired, const std::vector<Ports>& ports) {
    const auto needOf = [&](std::size_t i) {
        return picks[i].carried ? portNeeded(options.spots[i].need) : BitRate();
    };
    std::stable_sort(wired.begin(), wired.end(),
                     [&](std::size_t a, std::size_t b) { return needOf(a) > needOf(b); });
    std::size_t next = 0;
    for (const Ports& p : ports)
        for (int k = 0; k < p.count && next < wired.size(); ++k, ++next) {
            SpotResult& spot = plan.spots[wired[next]];
            if (spot.p10 > p.goodput) spot.limit = "the port at the hub";
            spot.p10 = std::min(spot.p10, p.goodput);
            spot.p50 = std::min(spot.p50, p.goodput);
        }
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

BitRate portNeeded(const Need& need) {
    return std::max(need.down, need.up);
}

std::map<std::string, double> loadsOf(const Options& options, const std::vector<Pick>& picks) {
    std::map<std::string, double> out;
    for (std::size_t i = 0; i < picks.size(); ++i) {
        if (picks[i].way < 0 || !picks[i].carried) continue;
        const SpotOptions& spot = options.spots[i];
        for (const Passage& p : spot.way(picks[i].way).passages)
            out[p.resource] +=
                (p.down ? spot.need.down : spot.need.up).bps() / p.rate.quantile(1 - options.share);
    }
    return out;
}

std::vector<Hub> hubsOf(const Options& options, const Prices& prices) {
    std::vector<Hub> all;
    const auto attempt = [&](const std::vector<int>& bought) {
        std::vector<Ports> have = options.freePorts;
        if (bought.empty() && options.portsToMove > 0) have.clear();
        int toMove = options.portsToMove;
        for (const int k : bought) {
            // Each hangs on the fastest port that is free, and what was in that port moves over.
            const auto uplink =
                std::find_if(have.begin(), have.end(), [](const Ports& p) { return p.count > 0; });
            if (uplink == have.end()) return;
            --uplink->count;
            const SwitchOffer& offer = options.offers[static_cast<std::size_t>(k)];
            have.push_back({offer.goodput, offer.ports - 1 - std::exchange(toMove, 0)});
            std::sort(have.begin(), have.end(),
                      [](const Ports& a, const Ports& b) { return a.goodput > b.goodput; });
        }
        all.push_back({bought, std::move(have)});
    };
    attempt({});
    for (int a = 0; a < static_cast<int>(options.offers.size()); ++a) {
        attempt({a});
        for (int b = a; b < static_cast<int>(options.offers.size()); ++b)
            attempt({a, b});
    }
    const auto costOf = [&](const Hub& hub) {
        std::int64_t out = 0;
        for (const int k : hub.bought)
            out += prices.of(options.offers[static_cast<std::size_t>(k)].item).hundredths;
        return out;
    };
    const auto inVan = [&](const Hub& hub) {
        return std::any_of(hub.bought.begin(), hub.bought.end(), [&](int k) {
            return prices.stock(options.offers[static_cast<std::size_t>(k)].item) > 0;
        });
    };
    // a is as good as b at every rate.
    const auto covers = [](const Hub& a, const Hub& b) {
        return std::all_of(b.ports.begin(), b.ports.end(), [&](const Ports& p) {
            return portsFrom(a.ports, p.goodput) >= portsFrom(b.ports, p.goodput);
        });
    };
    std::vector<Hub> out;
    for (std::size_t i = 0; i < all.size(); ++i) {
        bool beaten = false;
        for (std::size_t k = 0; k < all.size() && !beaten && !inVan(all[i]); ++k)
            beaten = k != i && (all[k].bought.empty() || !all[i].bought.empty()) && covers(all[k], all[i]) &&
                     (costOf(all[k]) < costOf(all[i]) || (costOf(all[k]) == costOf(all[i]) && k < i));
        if (!beaten) out.push_back(all[i]);
    }
    return out;
}

bool uplinkHolds(const Options& options, const Hub& hub, BitRate allDown) {
    return hub.bought.empty() || (options.service && *options.service <= options.uplink) ||
           allDown <= options.uplink;
}

double uncarriedOf(const SpotOptions& spot, const Options& options, const Pick& pick) {
    constexpr double nothing = 3;
    if (pick.way < 0) return nothing;
    return pick.carried ? 0 : 2 - std::min(1.0, carriedBy(spot.way(pick.way), spot.need, options));
}

double uncarriedOf(const Options& options, const std::vector<Pick>& picks) {
    double out = 0;
    for (std::size_t i = 0; i < picks.size(); ++i)
        out += uncarriedOf(options.spots[i], options, picks[i]);
    return out;
}

std::optional<Plan> planOf(const Options& options, const Prices& prices, const std::vector<Pick>& picks) {
    return planOf(options, prices, picks, hubsOf(options, prices));
}

std::optional<Plan> planOf(const Options& options, const Prices& prices, const std::vector<Pick>& picks,
                           const std::vector<Hub>& hubs) {
    Plan out;
    out.id = idOf(options, picks);
    std::vector<BitRate> ports;
    std::vector<std::size_t> wired;       // spots with a port of their own at the hub
    std::map<std::string, double> shared; // hub adapters: down needs together
    double allDown = 0;
    out.headroom = std::numeric_limits<double>::infinity();
    const std::map<std::string, double> loads = loadsOf(options, picks);
    for (const auto& [resource, load] : loads)
        out.load = std::max(out.load, load);
    if (out.load > 1 + loadTolerance) return std::nullopt;
    out.carriesAll = true;
    for (std::size_t i = 0; i < picks.size(); ++i) {
        const SpotOptions& spot = options.spots[i];
        SpotResult result;
        result.spot = spot.spot;
        result.way = picks[i].way;
        result.need = spot.need.down.bps() > 0 ? spot.need.down : spot.need.up;
        if (picks[i].way < 0) {
            if (picks[i].carried) return std::nullopt;
            out.carriesAll = false;
            out.spots.push_back(std::move(result));
            continue;
        }
        const SpotWay& way = spot.way(picks[i].way);
        if (!spot.mayTake(way)) return std::nullopt;
        const bool can = carriedBy(way, spot.need, options) >= 1 - loadTolerance;
        if (picks[i].carried && !can) return std::nullopt;
        result.wayId = way.id;
        result.deviceClass = way.deviceClass;
        result.carried = picks[i].carried;
        out.carriesAll = out.carriesAll && picks[i].carried;
        const BitRate needed = picks[i].carried ? portNeeded(spot.need) : BitRate();
        if (picks[i].carried) allDown += spot.need.down.bps();
        if (way.takesPort && way.hubShare.empty()) {
            ports.push_back(needed);
            wired.push_back(i);
        } else if (way.takesPort) {
            shared[way.hubShare] += needed.bps();
        }
        out.holes += way.holes;
        out.years += way.years / static_cast<double>(picks.size());
        out.unsteady += 1 - way.steadiness;
        // What is left when all the others take what they need.
        double tightest = std::numeric_limits<double>::infinity();
        double worst = 0;
        struct Least {
            double p10 = std::numeric_limits<double>::infinity();
            double p50 = std::numeric_limits<double>::infinity();
        };
        std::map<bool, Least> least; // by direction, of all passages
        bool down = true;            // the direction of the tightest
        for (const Passage& p : way.passages) {
            const double wanted = (p.down ? spot.need.down : spot.need.up).bps();
            const double load = loads.contains(p.resource) ? loads.at(p.resource) : 0.0;
            const auto left = [&](double quantile) {
                const double rate = p.rate.quantile(quantile);
                const double own = picks[i].carried ? wanted / p.rate.quantile(1 - options.share) : 0;
                return rate * std::max(0.0, 1 - (load - own));
            };
            const double ratio =
                wanted > 0 ? left(1 - options.share) / wanted : left(1 - options.share) / 1e3;
            if (ratio < tightest) {
                tightest = ratio;
                down = p.down;
                result.need = p.down ? spot.need.down : spot.need.up;
                result.limit = p.label;
            }
            Least& l = least[p.down];
            l.p10 = std::min(l.p10, left(0.1));
            l.p50 = std::min(l.p50, left(0.5));
            worst =
                std::max(worst, load + (picks[i].carried ? 0 : wanted / p.rate.quantile(1 - options.share)));
        }
        if (const auto l = least.find(down); l != least.end()) {
            result.p10 = BitRate::bitsPerSecond(l->second.p10);
            result.p50 = BitRate::bitsPerSecond(l->second.p50);
        }
        result.headroom = worst > 0 ? 1 / worst : 1000;
        if (result.carried) out.headroom = std::min(out.headroom, result.headroom);
        out.spots.push_back(std::move(result));
    }
    if (!std::isfinite(out.headroom)) out.headroom = 0;
    for (const auto& [key, rate] : shared)
        ports.push_back(BitRate::bitsPerSecond(rate));
    std::sort(ports.rbegin(), ports.rend());
    const std::map<std::string, double> own = countsOf(options, prices, picks, out.hubBoxes);
    const auto bought = [&](std::map<std::string, double> counts, const Hub& hub) {
        for (const int k : hub.bought)
            counts[options.offers[static_cast<std::size_t>(k)].item] += 1;
        return counts;
    };
    std::optional<std::map<std::string, double>> best;
    std::vector<Ports> free;
    Money least;
    for (const Hub& hub : hubs) {
        if (!serves(hub.ports, ports) || !uplinkHolds(options, hub, BitRate::bitsPerSecond(allDown)))
            continue;
        std::map<std::string, double> counts = bought(own, hub);
        const Money cost = costOf(prices, counts);
        if (best && least <= cost) continue;
        best = std::move(counts);
        free = hub.ports;
        least = cost;
    }
    if (!best) return std::nullopt;
    capAtPorts(out, options, picks, wired, free);
    const std::map<std::string, double>& counts = *best;
    for (const auto& [item, count] : counts) {
        if (count <= 0) continue;
        PartLine line{item, prices.label(item), prices.unit(item), count, 0, prices.of(item), {}};
        line.fromStock = static_cast<int>(std::min<double>(prices.stock(item), std::floor(count)));
        line.total = costOf(prices, item, count);
        out.parts.push_back(std::move(line));
    }
    out.cost = least;
    if (const auto labour = counts.find("labour"); labour != counts.end()) out.minutes = labour->second * 60;
    return out;
}

} // namespace metrodos::weigh
