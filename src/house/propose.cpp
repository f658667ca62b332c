#include "house/propose.h"

#include "house/route.h"
#include "quantity/text.h"

#include <algorithm>

namespace metrodos::house {
namespace {

using quantity::BitRate;

bool isService(const House& house, const Id& end) {
    return house.service && house.service->id == end;
}

// Whether the figures of a spot speak of traffic with this end: by its peer, else the service where there is
// one.
bool comesFrom(const House& house, const Spot& spot, const Id& end) {
    if (spot.peer.empty() || spot.peer == servicePeer) return isService(house, end);
    return spot.peer == house.deviceAt(end) && !isService(house, end);
}

std::optional<BitRate> larger(const std::optional<BitRate>& a, const std::optional<BitRate>& b) {
    return !a ? b : !b ? a : std::max(*a, *b);
}

bool exists(const House& house, const Id& a, const Id& b) {
    return std::any_of(house.routes.begin(), house.routes.end(), [&](const Route& r) {
        return (r.from == a && r.to == b) || (r.from == b && r.to == a);
    });
}

} // namespace

Route routeBetween(const House& house, const Id& from, const Id& to) {
    Route out;
    out.from = from;
    out.to = to;
    out.label = house.endLabel(from) + " to " + (isService(house, to) ? "the service" : house.endLabel(to));
    out.label = quantity::cutTo(out.label, 200);
    out.id = house.freeId((from + "-" + to).substr(0, 48));
    for (const Spot& spot : house.spots) {
        if (spot.device.empty()) continue;
        if (spot.device == house.deviceAt(to) && !isService(house, to) && comesFrom(house, spot, from)) {
            out.needForward = larger(out.needForward, spot.needDown);
            out.needBackward = larger(out.needBackward, spot.needUp);
        }
        if (spot.device == house.deviceAt(from) && !isService(house, from) && comesFrom(house, spot, to)) {
            out.needForward = larger(out.needForward, spot.needUp);
            out.needBackward = larger(out.needBackward, spot.needDown);
        }
    }
    return out;
}

std::vector<Route> proposedRoutes(const House& house) {
    std::vector<Route> out;
    House named = house; // with what was proposed, so that ids differ
    const auto propose = [&](const Endpoint& a, const Id& to) {
        if (house.deviceAt(a.id) == house.deviceAt(to) || exists(named, a.id, to)) return;
        if (!findRoute(house, a.id, to)) return; // nothing joins them yet
        out.push_back(routeBetween(named, a.id, to));
        named.routes.push_back(out.back());
    };
    if (house.service)
        for (const Endpoint& e : house.endpoints)
            propose(e, house.service->id);
    const std::size_t withService = out.size();
    for (const bool needed : {true, false})
        for (std::size_t i = 0; i < house.endpoints.size(); ++i)
            for (std::size_t k = i + 1; k < house.endpoints.size(); ++k) {
                if (out.size() - withService >= maxPairs) return out;
                const Route route = routeBetween(named, house.endpoints[i].id, house.endpoints[k].id);
                if (needed && !route.needForward && !route.needBackward) continue;
                propose(house.endpoints[i], house.endpoints[k].id);
            }
    return out;
}

} // namespace metrodos::house
