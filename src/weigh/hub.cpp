#include "weigh/hub.h"

#include "weigh/tolerances.h"

#include <algorithm>
#include <functional>
#include <numeric>
#include <utility>

namespace metrodos::weigh {

UplinkPart uplinkPartOf(const SpotWay& way, const Demand& demand) {
    const bool ownPort = way.takesPort && way.hubShare.empty();
    UplinkPart out{demand.serviceAtOnce, {}, false};
    const bool isEnd = demand.inHouse.larger() > 0;
    if (ownPort && isEnd) {
        // Counted at the other end as well, which is a client of this one.
        out.apart = {demand.inHouse.down - demand.ofClients.down, demand.inHouse.up - demand.ofClients.up};
        out.isInside = true;
    } else {
        out.always += demand.inHouse;
    }
    return out;
}

std::vector<Hub> hubsOf(const Options& options, const Prices& prices) {
    std::vector<Hub> all;
    const auto attempt = [&](const std::vector<int>& bought) {
        std::vector<Ports> have = options.freePorts;
        if (bought.empty() && options.portsToMove > 0) have.clear();
        int toMove = options.portsToMove;
        int inside = 0;
        for (const int k : bought) {
            // Each hangs on the fastest port that is free, and what was in that port moves over.
            const auto uplink =
                std::find_if(have.begin(), have.end(), [](const Ports& p) { return p.count > 0; });
            if (uplink == have.end()) return;
            --uplink->count;
            const SwitchOffer& offer = options.offers[static_cast<std::size_t>(k)];
            const int left = offer.ports - 1 - std::exchange(toMove, 0);
            inside = std::max(inside, left);
            have.push_back({offer.goodput, left});
            std::ranges::sort(have, std::ranges::greater(), &Ports::goodput);
        }
        all.push_back({bought, have, 0});
        if (inside > 0) all.push_back({bought, std::move(have), inside});
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
        if ((b.together > 0) != (a.together > 0) || a.together < b.together) return false;
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

HubTraffic hubTrafficOf(const Options& options, const std::vector<Demand>& demands,
                        const std::vector<Pick>& picks) {
    struct Shared {
        Rates fed;
        Rates wanted;
        double most = 0;
        double mostWanted = 0;
    };
    HubTraffic out;
    std::map<std::string, Shared> shared;
    for (std::size_t i = 0; i < picks.size(); ++i) {
        if (picks[i].way < 0) continue;
        const SpotWay& way = options.spots[i].way(picks[i].way);
        const bool carried = picks[i].carried;
        const Demand demand = carried ? demands[i] : Demand();
        if (way.takesPort && way.hubShare.empty()) {
            out.ports.push_back({i, demand.alone.larger(), demand.wanted.larger()});
        } else if (way.takesPort) {
            Shared& s = shared[way.hubShare];
            s.fed += demand.atOnce;
            s.wanted += demand.wantedAtOnce;
            s.most = std::max(s.most, demand.alone.larger());
            s.mostWanted = std::max(s.mostWanted, demand.wanted.larger());
        }
        if (!carried) continue;
        const UplinkPart c = uplinkPartOf(way, demand);
        out.always += c.always;
        out.apart += c.apart;
        out.inside += c.isInside ? 1 : 0;
        const UplinkPart w = uplinkPartOf(way, demand.ifAllWereGiven());
        out.wantedAlways += w.always;
        out.wantedApart += w.apart;
    }
    for (const auto& [key, s] : shared)
        out.ports.push_back(
            {noSpot, std::max(s.fed.larger(), s.most), std::max(s.wanted.larger(), s.mostWanted), key});
    return out;
}

namespace {

std::vector<BitRate> fastestOf(const std::vector<Ports>& ports, std::size_t count) {
    std::vector<BitRate> out;
    for (const Ports& p : ports)
        for (int i = 0; i < p.count && out.size() < count; ++i)
            out.push_back(p.goodput);
    return out;
}

} // namespace

std::optional<HubUse> useOf(const Options& options, const Hub& hub, const HubTraffic& traffic,
                            const HubChoice& choice) {
    HubUse out;
    out.ports = fastestOf(hub.ports, traffic.ports.size());
    if (out.ports.size() < traffic.ports.size()) return std::nullopt;
    out.order.resize(traffic.ports.size());
    std::iota(out.order.begin(), out.order.end(), 0U);
    const auto serves = [&](const auto& needed) {
        std::ranges::stable_sort(out.order, std::ranges::greater(),
                                 [&](std::size_t port) { return needed(traffic.ports[port]); });
        for (std::size_t k = 0; k < out.order.size(); ++k)
            if (exceeds(traffic.ports[out.order[k]].fed, out.ports[k].bps())) return false;
        return true;
    };
    const auto must = [&](const PortUse& use) { return std::max(use.fed, use.wanted / choice.maxLoad); };
    // The order of what is wanted is best for the headroom, where it serves.
    if (!(choice.fastest && serves([](const PortUse& use) { return use.wanted; })) && !serves(must))
        return std::nullopt;
    for (std::size_t k = 0; k < out.order.size(); ++k)
        out.load = std::max(out.load, traffic.ports[out.order[k]].wanted / out.ports[k].bps());
    if (hub.bought.empty()) return out;
    if (hub.together > 0 && traffic.inside > hub.together) return std::nullopt;
    for (const bool down : {true, false}) {
        const double apart = hub.together > 0 ? 0 : traffic.apart.of(down);
        const double wantedApart = hub.together > 0 ? 0 : traffic.wantedApart.of(down);
        if (exceeds(traffic.always.of(down) + apart, options.uplink.bps())) return std::nullopt;
        out.uplinkLoad =
            std::max(out.uplinkLoad, (traffic.wantedAlways.of(down) + wantedApart) / options.uplink.bps());
    }
    out.load = std::max(out.load, out.uplinkLoad);
    return out;
}

} // namespace metrodos::weigh
