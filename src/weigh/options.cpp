#include "weigh/options.h"

#include "capacity/framing.h"
#include "quantity/format.h"
#include "weigh/as_practised.h"
#include "weigh/demand.h"
#include "weigh/spot_ways.h"

#include <algorithm>
#include <functional>
#include <set>

namespace metrodos::weigh {
namespace {

using namespace house;
using catalog::Catalog;

constexpr double carriedByAnything = 1000;
constexpr double almost = 0.99;

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
    std::ranges::sort(out, std::ranges::greater(), &Ports::goodput);
    return out;
}

std::string roomLabel(const House& house, const Spot& spot) {
    const Room* room = house.room(roomOf(house, spot));
    return room == nullptr ? "" : room->label;
}

// What the spots draw from devices of the house falls on the spot where the device stands, or on one of its
// own that is added to both lists: at once, and at least as much as the largest of them by itself.
void addPeers(const House& house, Options& options, std::vector<Spot>& places) {
    std::map<Id, Rates> atOnce;
    std::map<Id, Rates> most;
    for (const SpotOptions& spot : options.spots)
        for (const Traffic& t : spot.need.traffic) {
            const Device* device = house.device(t.peer);
            if (device == nullptr || house.room(device->room) == nullptr) continue;
            atOnce[t.peer] += {t.up.bps() * t.atOnce, t.down.bps() * t.atOnce};
            Rates& m = most[t.peer];
            m = {std::max(m.down, t.up.bps()), std::max(m.up, t.down.bps())};
        }
    for (const auto& [device, rates] : atOnce) {
        const Id& id = device; // clang takes no binding along
        auto at = std::find_if(places.begin(), places.end(), [&](const Spot& s) { return s.device == id; });
        if (at == places.end()) {
            Spot place;
            place.id = place.device = id;
            place.label = house.device(id)->label;
            place.room = house.device(id)->room;
            SpotOptions peer{id, place.label, roomLabel(house, place), {}, "", {}};
            peer.isPeer = true;
            options.spots.push_back(std::move(peer));
            places.push_back(std::move(place));
            at = places.end() - 1;
        }
        Need& need = options.spots[static_cast<std::size_t>(at - places.begin())].need;
        Traffic clients;
        clients.down = BitRate::bitsPerSecond(std::max(rates.down, most[id].down));
        clients.up = BitRate::bitsPerSecond(std::max(rates.up, most[id].up));
        clients.isOfClients = true;
        need.down = need.down + clients.down;
        need.up = need.up + clients.up;
        need.because.push_back("what others draw from it at once: " + quantity::plain(clients.up) +
                               " from it, " + quantity::plain(clients.down) + " to it");
        need.traffic.push_back(std::move(clients));
    }
}

} // namespace

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

house::Id roomOf(const House& house, const Spot& spot) {
    const Device* device = house.device(spot.device);
    return spot.room.empty() && device != nullptr ? device->room : spot.room;
}

EntryFilter entryFilterOf(const House& house, const Catalog& catalog) {
    const bool isThere = std::any_of(house.coaxParts.begin(), house.coaxParts.end(),
                                     [](const CoaxPart& p) { return p.kind == CoaxPartKind::filter; });
    if (isThere) return EntryFilter::isThere;
    const auto& top = house.coaxUse.cableInternetTop;
    return top && *top > catalog.coax.filterPass ? EntryFilter::behindModem : EntryFilter::atEntry;
}

int portsFrom(const std::vector<Ports>& ports, BitRate rate) {
    int out = 0;
    for (const Ports& p : ports)
        if (p.goodput >= rate) out += p.count;
    return out;
}

double carriedBy(const SpotWay& way, const SpotOptions& spot, const Options& options) {
    if (!way.isPossible()) return 0;
    const Need& need = spot.need;
    const Rates wanted = aloneOf(spot, options);
    double out = carriedByAnything;
    for (const bool down : {true, false})
        if (const auto& whole = down ? way.wholeDown : way.wholeUp; whole && wanted.of(down) > 0)
            out = std::min(out, whole->quantile(1 - options.share) / wanted.of(down));
    std::map<std::string_view, double> taken; // of each resource
    for (const Passage& p : way.passages)
        taken[p.resource] += wanted.of(p.down) / p.rate.quantile(1 - options.share);
    for (const auto& [resource, share] : taken)
        if (share > 0) out = std::min(out, 1 / share);
    const bool slow = need.delay && way.delayUs() > static_cast<double>(need.delay->count());
    if (slow || (need.steady && way.steadiness < options.steadyFrom)) out = std::min(out, almost);
    return out;
}

quantity::Result<Options> optionsOf(const House& house, const Catalog& catalog,
                                    const benchmark::RouteRuns& runs,
                                    const std::vector<benchmark::WatchReport>& watches) {
    if (house.spots.empty())
        return quantity::problem("no spot has a need yet", "",
                                 "say in Walk what is needed where: “Study / need / 200M down”");
    const auto hub = hubRoomOf(house);
    if (!hub)
        return quantity::problem("it is not known where the service comes in", "",
                                 "enter in Walk the router with its room, and the service at it");
    Options out;
    out.hub = *hub;
    out.hubLabel = house.room(*hub)->label;
    out.share = std::clamp(house.weighing.share, 0.5, 0.99);
    out.running = catalog.planning.running;
    out.entryFilter = entryFilterOf(house, catalog);
    out.steadyFrom = catalog.planning.steadyFrom;
    const std::vector<Measured> measured =
        runs.empty() && watches.empty() ? std::vector<Measured>() : measuredIn(house, catalog, runs, watches);
    if (house.service) {
        out.service = house.service->down;
        out.serviceUp = house.service->up;
        if (const catalog::Phy* uplink = catalog.phy(house.service->uplink)) {
            const BitRate port = capacity::goodput(uplink->rate, {});
            for (auto* rate : {&out.service, &out.serviceUp})
                if (*rate && **rate > port) {
                    *rate = port;
                    out.serviceLimit =
                        "what the " + uplink->label + " port of its box towards the operator carries";
                }
        }
    }
    std::vector<Spot> places = house.spots; // with the devices that others draw from
    for (const Spot& spot : house.spots)
        out.spots.push_back(
            {spot.id, spot.label, roomLabel(house, spot), needOf(house, spot, catalog), spot.pin, {}});
    addPeers(house, out, places);
    for (std::size_t i = 0; i < places.size(); ++i) {
        SpotOptions& spot = out.spots[i];
        spot.ways = waysTo(house, catalog, *hub, places[i], measured, aloneOf(spot, out));
        for (SpotWay& way : waysWithNic(house, catalog, *hub, places[i], measured, spot, out))
            spot.ways.push_back(std::move(way));
        applyPractices(house, catalog, spot);
    }
    out.freePorts = portsIn(house, catalog, *hub, true);
    const std::vector<Ports> all = portsIn(house, catalog, *hub, false);
    if (portsFrom(out.freePorts, BitRate()) == 0 && !all.empty()) {
        out.portsToMove = 1;
        out.freePorts = {{all.front().goodput, 1}};
    }
    out.uplink = all.empty() ? BitRate() : all.front().goodput;
    for (const catalog::SwitchModel& model : catalog.planning.switches) {
        const catalog::Phy* phy = catalog.phy(catalog.device(model.deviceClass)->ethernetPhy);
        out.offers.push_back({model.id, capacity::goodput(phy->rate, {}), model.ports});
    }
    return out;
}

} // namespace metrodos::weigh
