#include "job/entry_ends.h"

#include "house/edit.h"
#include "quantity/text.h"

namespace metrodos::job {
namespace {

using quantity::problem;
using quantity::Result;

bool isFree(const House& house, const PortRef& end) {
    return std::none_of(house.connections.begin(), house.connections.end(), [&](const Connection& c) {
        return std::find(c.ends.begin(), c.ends.end(), end) != c.ends.end();
    });
}

// The device that a place begins with, with what is left of the place: "Stacking workstation front USB
// socket". The longest label counts, so that "Desk" does not hide "Desk 2".
std::pair<const Device*, std::string> deviceThenRest(const House& house, const std::string& place) {
    const std::string typed = folded(place);
    const Device* found = nullptr;
    std::size_t length = 0;
    for (const Device& d : house.devices)
        for (const std::string& name : {folded(d.label), folded(d.id)}) {
            if (name.empty() || !typed.starts_with(name) || name.size() < length) continue;
            if (found != nullptr && found != &d && name.size() == length)
                throw Ambiguous{d.label, found->id, d.id};
            found = &d;
            length = name.size();
        }
    return {found, typed.substr(found == nullptr ? 0 : length)};
}

const catalog::DeviceClass* adapterAt(const catalog::Catalog& catalog, const Device& device, Medium medium) {
    return catalog.adapterOf(device.deviceClass, catalog::familyOf(medium));
}

} // namespace

Id freePort(const Device& device, const std::string& stem) {
    for (int n = 1;; ++n) {
        Id id = stem + "-" + std::to_string(n);
        if (std::none_of(device.ports.begin(), device.ports.end(), [&](const Port& p) { return p.id == id; }))
            return id;
    }
}

std::optional<PortRef> endNamed(const House& house, Medium medium, const std::string& place) {
    if (const Jack* jack = labelled(house.jacks, place); jack != nullptr && jackOf(medium) == jack->kind)
        return PortRef{jack->id, ""};
    if (const CoaxPart* part = labelled(house.coaxParts, place); part != nullptr && medium == Medium::coax) {
        std::vector<Id> ports = portsOf(*part);
        std::stable_partition(ports.begin(), ports.end(), [](const Id& port) { return port != "in"; });
        for (const Id& port : ports)
            if (isFree(house, {part->id, port})) return PortRef{part->id, port};
    }
    if (medium == Medium::data_cable) {
        for (const Device& device : house.devices)
            for (const Port& port : device.ports)
                if (port.kind == PortKind::ethernet &&
                    folded(device.label + " " + (port.label.empty() ? port.id : port.label)) == folded(place))
                    return PortRef{device.id, port.id};
        if (const Device* device = labelled(house.devices, place))
            for (const Port& port : device->ports)
                if (port.kind == PortKind::ethernet && isFree(house, {device->id, port.id}) &&
                    port.jack.empty())
                    return PortRef{device->id, port.id};
    }
    if (const Room* room = labelled(house.rooms, place)) return PortRef{room->id, ""};
    return std::nullopt;
}

Result<PortRef> socketNamed(House& house, const catalog::Catalog& catalog,
                            const catalog::DeviceClass& adapter, const std::string& place) {
    const catalog::Bus* plug = catalog.bus(adapter.busPhy);
    if (adapter.family != catalog::Family::bus || plug == nullptr)
        return problem("“" + adapter.label + "” does not go into a machine", "",
                       "choose a network adapter or card, or leave “in” out");
    const auto [machine, socket] = deviceThenRest(house, place);
    if (machine == nullptr)
        return problem("there is no machine " + quantity::inQuotes(place), "",
                       "enter it first: “ROOM / desktop computer / NAME”");
    Device& host = *house.device(machine->id);
    const auto fits = [&](const Port& p) { return p.kind == plug->kind && isFree(house, {host.id, p.id}); };
    if (socket.empty()) {
        const auto free = std::count_if(host.ports.begin(), host.ports.end(), fits);
        if (free == 1) return PortRef{host.id, std::find_if(host.ports.begin(), host.ports.end(), fits)->id};
        return problem("“" + host.label + "” has " + (free == 0 ? "no free socket" : "several free sockets") +
                           " for it in the survey",
                       "", "say which, like “in " + host.label + " " + plug->label + "”");
    }
    for (const Port& p : host.ports)
        if (fits(p) && (folded(p.label) == socket || folded(p.id) == socket)) return PortRef{host.id, p.id};
    for (const catalog::Bus& bus : catalog.buses) {
        if (bus.kind != plug->kind || (folded(bus.label) != socket && folded(bus.id) != socket)) continue;
        for (const Port& p : host.ports)
            if (fits(p) && p.phy == bus.id) return PortRef{host.id, p.id};
        host.ports.push_back(
            {freePort(host, bus.kind == PortKind::usb ? "usb" : "slot"), bus.label, bus.kind, bus.id});
        return PortRef{host.id, host.ports.back().id};
    }
    return problem("“" + host.label + "” has no free socket of that name", "",
                   "write the socket's label, or its class like “in " + host.label + " " + plug->label + "”");
}

void joinOthers(House& house, const catalog::Catalog& catalog, const Id& adapter) {
    for (const Medium medium : {Medium::coax, Medium::mains, Medium::air}) {
        const auto lineOf = [&](const Device& d) -> const Port* {
            if (adapterAt(catalog, d, medium) == nullptr) return nullptr;
            const auto line = std::find_if(d.ports.begin(), d.ports.end(),
                                           [&](const Port& p) { return joins(medium, p.kind); });
            return line == d.ports.end() ? nullptr : &*line;
        };
        const Device& own = *house.device(adapter);
        const Port* line = lineOf(own);
        if (line == nullptr) continue;
        const auto speaksAlike = [&](const Device& d) {
            const auto* cls = adapterAt(catalog, d, medium);
            return cls != nullptr && cls->speaks == adapterAt(catalog, own, medium)->speaks;
        };
        const PortRef end{adapter, line->id};
        Connection* network = nullptr;
        for (Connection& c : house.connections)
            if (c.medium == medium && std::any_of(c.ends.begin(), c.ends.end(), [&](const PortRef& e) {
                    const Device* d = house.device(e.device);
                    return d != nullptr && speaksAlike(*d);
                }))
                network = &c;
        if (network != nullptr) {
            network->ends.push_back(end);
            continue;
        }
        for (const Device& d : house.devices) {
            const Port* other = d.id == adapter || !speaksAlike(d) ? nullptr : lineOf(d);
            if (other == nullptr) continue;
            Connection c;
            c.id = house.freeId(std::string(name(medium)));
            c.label = catalog.medium(medium)->label;
            c.medium = medium;
            c.ends = {{d.id, other->id}, end};
            house.connections.push_back(std::move(c));
            break;
        }
    }
}

} // namespace metrodos::job
