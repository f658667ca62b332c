// Why max–min fairness: TCP flows of like delay over one queue get like shares, and a flow that is held
// elsewhere leaves its share to the others (Bertsekas and Gallager, Data Networks, 6.5). Proportional
// fairness (Kelly 1997) lies nearer to some congestion controls, but needs each flow's delay, which nobody
// knows before the work. On a half-duplex medium the level is that of the rates, not of the air time: a slow
// station takes more of it, as carrier sense gives each sender like chances. Cost: a round per resource that
// fills or demand that is met, each over all loads: flows² × elements at the most.
#include "capacity/sharing.h"

#include "capacity/plant_ceiling.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace metrodos::capacity {
namespace {

using house::Element;
using house::ElementKind;

// The name of what a flow uses of an element: the same name, the same resource.
std::string resourceOf(const std::vector<Element>& elements, std::size_t i, bool forward, bool shared) {
    const Element& e = elements[i];
    if (shared) return e.id;
    switch (e.kind) {
    case ElementKind::cable:
    case ElementKind::bus:
        return e.id + ">" + (forward ? e.exit.device : e.entry.device);
    case ElementKind::port: {
        // Out of its device when the cable comes after it in the direction of the flow.
        const bool cableAfter = elements[i + 1].kind == ElementKind::cable; // no route ends with a port
        return e.id + (cableAfter == forward ? ">out" : ">in");
    }
    case ElementKind::host:
    case ElementKind::storage:
    case ElementKind::service: {
        const bool atStart = i < elements.size() / 2;
        return e.id + (atStart == forward ? ">send" : ">receive");
    }
    case ElementKind::adapter:
        return e.id + ">" + (i > 0 ? elements[forward ? i - 1 : i + 1].id : "");
    default:
        return e.id;
    }
}

} // namespace

std::vector<FairShare> maxMinShares(const std::vector<Resource>& resources, std::size_t flows,
                                    const std::vector<double>& demands) {
    std::vector<FairShare> out(flows, {0, resources.size()});
    constexpr double endless = std::numeric_limits<double>::infinity();
    std::vector<double> wanted = demands;
    wanted.resize(flows, endless);
    for (double& bps : wanted)
        if (bps <= 0) bps = endless;
    std::vector<bool> stopped(flows, true); // until a resource has it
    std::vector<double> room(resources.size(), 1.0);
    for (const Resource& r : resources)
        for (const SharedLoad& load : r.loads)
            stopped[load.flow] = false;
    for (std::size_t f = 0; f < flows; ++f)
        if (stopped[f] && std::isfinite(wanted[f])) out[f].bps = wanted[f];
    double level = 0; // what every flow that still rises has
    while (std::find(stopped.begin(), stopped.end(), false) != stopped.end()) {
        // How much further until a resource is full or a demand is met.
        double step = endless;
        std::vector<double> weights(resources.size(), 0.0);
        for (std::size_t r = 0; r < resources.size(); ++r) {
            for (const SharedLoad& load : resources[r].loads)
                if (!stopped[load.flow]) weights[r] += load.weight;
            if (weights[r] > 0) step = std::min(step, room[r] / weights[r]);
        }
        for (std::size_t f = 0; f < flows; ++f)
            if (!stopped[f]) step = std::min(step, wanted[f] - level);
        if (!std::isfinite(step)) break; // only resources that cost nothing: nothing stops them
        level += step;
        for (std::size_t r = 0; r < resources.size(); ++r)
            room[r] -= weights[r] * step;
        for (std::size_t f = 0; f < flows; ++f)
            if (!stopped[f]) {
                out[f].bps = level;
                stopped[f] = level >= wanted[f] * (1 - 1e-12);
            }
        for (std::size_t r = 0; r < resources.size(); ++r) {
            if (room[r] > 1e-9) continue;
            for (const SharedLoad& load : resources[r].loads)
                if (!stopped[load.flow] && load.weight > 0) {
                    stopped[load.flow] = true;
                    out[load.flow].limit = r;
                }
        }
    }
    return out;
}

quantity::Result<std::vector<FlowForecast>>
shareFlows(const house::House& house, const catalog::Catalog& catalog, const std::vector<Flow>& flows) {
    const house::RouteFinder finder(house);
    const Plants plants(house, catalog); // one working-out for all flows
    std::vector<Resource> resources;
    std::vector<house::Id> elementOf;
    std::map<std::string, std::size_t> byName;
    std::vector<FlowForecast> out;
    std::vector<double> demands;
    for (std::size_t f = 0; f < flows.size(); ++f) {
        const Flow& flow = flows[f];
        const auto elements = finder.find(flow.route);
        if (!elements) return tl::unexpected(elements.error());
        double alone = std::numeric_limits<double>::infinity();
        for (std::size_t i = 0; i < elements->size(); ++i) {
            const Ceiling ceiling = ceilingOn(house, catalog, flow.route, (*elements)[i], &plants);
            const double carries = (flow.forward ? ceiling.forward : ceiling.backward).spread().p50.bps();
            alone = std::min(alone, carries);
            const auto [hit, fresh] =
                byName.try_emplace(resourceOf(*elements, i, flow.forward, ceiling.shared), resources.size());
            if (fresh) {
                resources.push_back({hit->first, (*elements)[i].label, {}});
                elementOf.push_back((*elements)[i].id);
            }
            resources[hit->second].loads.push_back({f, 1 / carries});
        }
        FlowForecast forecast;
        forecast.alone = BitRate::bitsPerSecond(alone);
        out.push_back(std::move(forecast));
        demands.push_back(flow.demand ? flow.demand->bps() : 0);
    }
    const std::vector<FairShare> shares = maxMinShares(resources, flows.size(), demands);
    for (std::size_t f = 0; f < flows.size(); ++f) {
        out[f].shared = BitRate::bitsPerSecond(shares[f].bps);
        if (shares[f].limit >= resources.size()) {
            out[f].because = "it asks for no more";
            continue;
        }
        const Resource& limit = resources[shares[f].limit];
        out[f].limit = elementOf[shares[f].limit];
        const std::size_t others = limit.loads.size() - 1;
        out[f].because = others == 0 ? "alone at " + limit.label
                                     : "shares " + limit.label + " with " + std::to_string(others) +
                                           (others == 1 ? " other flow" : " other flows");
    }
    return out;
}

} // namespace metrodos::capacity
