// Ways with another network adapter in the machine at the spot: the same ways in a house where it has one.
#include "weigh/spot_ways.h"

#include <algorithm>

namespace metrodos::weigh {

using namespace house;
using catalog::Catalog;
using catalog::Family;
using catalog::WayMeans;

House withNic(const House& house, const Catalog& catalog, const Device& machine,
              const catalog::DeviceClass& nic) {
    House out = house;
    const catalog::Bus* bus = catalog.bus(nic.busPhy);
    const PortKind kind = bus == nullptr ? PortKind::usb : bus->kind;
    const auto isUsed = [&](const Port& port) {
        return std::any_of(house.connections.begin(), house.connections.end(), [&](const Connection& c) {
            return std::find(c.ends.begin(), c.ends.end(), PortRef{machine.id, port.id}) != c.ends.end();
        });
    };
    Id socket;
    for (const Port& port : machine.ports)
        if (port.kind == kind && !isUsed(port)) socket = port.id;
    if (socket.empty()) {
        socket = "new-socket";
        out.device(machine.id)->ports.push_back({socket, "new socket", kind, nic.busPhy});
    }
    const Id id = out.freeId(machine.id.substr(0, 50) + "-nic");
    out.devices.push_back(
        {id,
         nic.label,
         DeviceKind::adapter,
         nic.id,
         machine.room,
         {{"lan", "LAN", PortKind::ethernet, nic.ethernetPhy}, {"plug", "plug", kind, nic.busPhy}}});
    Connection join;
    join.id = out.freeId(id + "-bus");
    join.label = "socket of " + machine.label;
    join.medium = Medium::bus;
    join.ends = {{id, "plug"}, {machine.id, socket}};
    out.connections.push_back(std::move(join));
    return out;
}

std::vector<SpotWay> waysWithNic(const House& house, const Catalog& catalog, const Id& hubRoom,
                                 const Spot& spot, const std::vector<Measured>& measured,
                                 const SpotOptions& options, const Options& all) {
    const Device* machine = house.device(spot.device);
    if (machine == nullptr || machine->kind != DeviceKind::host) return {};
    const auto carried = [&](const SpotWay& way) { return carriedBy(way, options, all); };
    // The machine falls short where even the best way does not carry what is wanted.
    if (std::any_of(options.ways.begin(), options.ways.end(),
                    [&](const SpotWay& w) { return carried(w) >= 1; }))
        return {};
    std::vector<const catalog::DeviceClass*> nics;
    for (const catalog::DeviceClass& cls : catalog.devices)
        if (cls.family == Family::bus) nics.push_back(&cls);
    std::ranges::stable_sort(nics, {}, &catalog::DeviceClass::price);
    std::vector<SpotWay> out;
    for (const catalog::DeviceClass* nic : nics)
        for (SpotWay& way : waysTo(withNic(house, catalog, *machine, *nic), catalog, hubRoom, spot, measured,
                                   aloneOf(options, all))) {
            if (!way.isPossible() || way.means == WayMeans::as_is) continue;
            const auto base = std::find_if(options.ways.begin(), options.ways.end(),
                                           [&](const SpotWay& w) { return w.key() == way.key(); });
            const auto kept = std::find_if(out.begin(), out.end(), [&](const SpotWay& w) {
                return w.id == way.id && w.deviceClass == way.deviceClass;
            });
            constexpr double more = 1.05; // less is not worth an adapter
            if ((base != options.ways.end() && carried(way) < more * carried(*base)) ||
                (kept != out.end() && (carried(*kept) >= 1 || carried(way) < more * carried(*kept))))
                continue;
            way.nicClass = nic->id;
            way.label += ", with a " + nic->label + " in " + machine->label;
            way.parts.push_back({nic->id, 1, ""});
            way.minutes += catalog.planning.nicMinutes;
            if (kept != out.end())
                *kept = std::move(way);
            else
                out.push_back(std::move(way));
        }
    return out;
}

} // namespace metrodos::weigh
