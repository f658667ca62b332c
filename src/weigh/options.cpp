#include "weigh/options.h"

#include "capacity/framing.h"
#include "weigh/spot_ways.h"

#include <algorithm>
#include <set>

namespace metrodos::weigh {
namespace {

using namespace house;
using catalog::Catalog;

constexpr double carriedByAnything = 1000;
constexpr double almost = 0.99;

// The room that everything comes from: where the service ends; otherwise that of the first router or switch.
std::optional<Id> hubRoomOf(const House& house) {
    const auto roomWith = [&](const Device* device) {
        return device == nullptr || house.room(device->room) == nullptr ? std::nullopt
                                                                        : std::optional(device->room);
    };
    if (house.service)
        if (auto room = roomWith(house.device(house.service->device))) return room;
    for (const DeviceKind kind : {DeviceKind::router, DeviceKind::network_switch})
        for (const Device& device : house.devices)
            if (device.kind == kind)
                if (auto room = roomWith(&device)) return room;
    return std::nullopt;
}

// The ports of the boxes in a room by rate: those that nothing is plugged into, or all.
std::vector<Ports> portsIn(const House& house, const Catalog& catalog, const Id& room, bool free) {
    std::set<PortRef> taken;
    for (const Connection& c : house.connections)
        taken.insert(c.ends.begin(), c.ends.end());
    std::vector<Ports> out;
    for (const Device& device : house.devices) {
        if (device.room != room ||
            (device.kind != DeviceKind::router && device.kind != DeviceKind::network_switch))
            continue;
        for (const Port& port : device.ports) {
            const catalog::Phy* phy = catalog.phy(port.phy);
            if (port.kind != PortKind::ethernet || phy == nullptr ||
                (free && taken.contains({device.id, port.id})))
                continue;
            const BitRate rate = capacity::goodput(phy->rate, {});
            const auto same =
                std::find_if(out.begin(), out.end(), [&](const Ports& p) { return p.goodput == rate; });
            if (same == out.end())
                out.push_back({rate, 1});
            else
                ++same->count;
        }
    }
    std::sort(out.begin(), out.end(), [](const Ports& a, const Ports& b) { return a.goodput > b.goodput; });
    return out;
}

} // namespace

house::Id roomOf(const House& house, const Spot& spot) {
    const Device* device = house.device(spot.device);
    return spot.room.empty() && device != nullptr ? device->room : spot.room;
}

int portsFrom(const std::vector<Ports>& ports, BitRate rate) {
    int out = 0;
    for (const Ports& p : ports)
        if (p.goodput >= rate) out += p.count;
    return out;
}

double carriedBy(const SpotWay& way, const Need& need, const Options& options) {
    if (!way.isPossible()) return 0;
    double out = carriedByAnything;
    for (const Passage& p : way.passages) {
        const double wanted = (p.down ? need.down : need.up).bps();
        if (wanted > 0) out = std::min(out, p.rate.quantile(1 - options.share) / wanted);
    }
    const bool slow = need.delay && way.rttUs.p90 > static_cast<double>(need.delay->count());
    if (slow || (need.steady && way.steadiness < options.steadyFrom)) out = std::min(out, almost);
    return out;
}

quantity::Result<Options> optionsOf(const House& house, const Catalog& catalog,
                                    const benchmark::RouteRuns& runs) {
    if (house.spots.empty())
        return quantity::problem("no spot has a need yet", "",
                                 "say in Walk what is needed where: “Study / need 200M down”");
    const auto hub = hubRoomOf(house);
    if (!hub)
        return quantity::problem("it is not known where the service comes in", "",
                                 "enter in Walk the router with its room, and the service at it");
    Options out;
    out.hub = *hub;
    out.hubLabel = house.room(*hub)->label;
    out.share = std::clamp(house.weighing.share, 0.5, 0.99);
    out.steadyFrom = catalog.planning.steadyFrom;
    const std::vector<Measured> measured =
        runs.empty() ? std::vector<Measured>() : measuredIn(house, catalog, runs);
    for (const Spot& spot : house.spots) {
        const Room* room = house.room(roomOf(house, spot));
        out.spots.push_back({spot.id, spot.label, room == nullptr ? "" : room->label, needOf(spot, catalog),
                             spot.pin, waysTo(house, catalog, *hub, spot, measured)});
    }
    out.freePorts = portsIn(house, catalog, *hub, true);
    const std::vector<Ports> all = portsIn(house, catalog, *hub, false);
    if (portsFrom(out.freePorts, BitRate()) == 0 && !all.empty()) {
        out.portsToMove = 1;
        out.freePorts = {{all.front().goodput, 1}};
    }
    out.uplink = all.empty() ? BitRate() : all.front().goodput;
    if (house.service) out.service = house.service->down;
    for (const catalog::SwitchModel& model : catalog.planning.switches) {
        const catalog::Phy* phy = catalog.phy(catalog.device(model.deviceClass)->ethernetPhy);
        out.offers.push_back({model.id, capacity::goodput(phy->rate, {}), model.ports});
    }
    return out;
}

} // namespace metrodos::weigh
