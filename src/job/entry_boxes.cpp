// Machines, boxes and adapters, their ports, and what they are plugged into.
#include "job/entry_reader.h"

#include "job/entry_ends.h"
#include "job/survey_fields.h"

#include <algorithm>

namespace metrodos::job {
namespace {

std::optional<std::string> phyNamed(const catalog::Catalog& catalog, const std::string& field) {
    const auto rate = quantity::parseBitRate(field);
    if (!rate) return std::nullopt;
    for (const auto& phy : catalog.phys)
        if (phy.rate == *rate) return phy.id;
    return std::nullopt;
}

} // namespace

using quantity::problem;
using quantity::Result;

Result<void> EntryReader::device() {
    const std::string word = m_fields[1];
    Device device;
    device.room = m_room;
    std::string phy;
    if (folded(word) == "switch" || folded(word) == "router") {
        device.kind = folded(word) == "switch" ? DeviceKind::network_switch : DeviceKind::router;
    } else if (folded(word) == "machine") {
        device.kind = DeviceKind::host;
    } else if (const auto host = classNamed(m_catalog.hosts, word)) {
        device.kind = DeviceKind::host;
        device.deviceClass = *host;
    } else if (const auto box = classNamed(m_catalog.devices, word)) {
        const catalog::DeviceClass* cls = m_catalog.device(*box);
        device.kind = cls->family == catalog::Family::network_switch ? DeviceKind::network_switch
                      : cls->family == catalog::Family::router       ? DeviceKind::router
                                                                     : DeviceKind::adapter;
        device.deviceClass = *box;
        phy = cls->ethernetPhy;
    } else {
        return notUnderstood(
            word, "after a room comes data, coax, outlet, phone, need, appliance, a machine like laptop, "
                  "switch or router");
    }
    int ports = device.kind == DeviceKind::host || device.kind == DeviceKind::adapter ? 1 : 5;
    std::optional<PortRef> socket; // of a machine, that it sits in
    std::optional<Strip> strip;
    Connection lead; // to what its LAN port is joined to; no ends: to nothing
    Id jack;
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        if (field.empty()) continue;
        if (const auto rate = phyNamed(m_catalog, field)) {
            phy = *rate;
        } else if (const auto machine = valueAfter(field, "in")) {
            const catalog::DeviceClass* cls = m_catalog.device(device.deviceClass);
            const auto found =
                socketNamed(m_house, m_catalog, cls == nullptr ? catalog::DeviceClass{} : *cls, *machine);
            if (!found) return tl::unexpected(found.error());
            socket = *found;
        } else if (const auto place = valueAfter(field, "at")) {
            const Jack* found = labelled(m_house.jacks, *place);
            if (found == nullptr) return notUnderstood(field, "name a jack or an outlet that is there");
            jack = found->id;
        } else if (const auto from = valueAfter(field, "from")) {
            const auto end = endNamed(m_house, Medium::data_cable, *from);
            if (!end) return notUnderstood(field, "name a data jack or a box with a free port");
            lead.ends = {*end};
        } else if (const auto how = stripOf(field)) {
            strip = *how;
        } else if (const auto type = category(m_catalog, field); type && !lead.ends.empty()) {
            lead.cableClass = *type;
        } else if (const auto length = lengthOf(field); length && !lead.ends.empty()) {
            lead.length = *length;
        } else if (const auto disk = classNamed(m_catalog.disks, field)) {
            device.storage = Storage{*disk};
        } else if (const auto bus = classNamed(m_catalog.buses, field)) {
            device.ports.push_back(busPort(device, *m_catalog.bus(*bus)));
        } else if (const auto n = quantity::parseWhole(field.substr(0, field.find(' ')), 1, 64);
                   n && folded(field).ends_with("ports")) {
            ports = static_cast<int>(*n);
        } else if (auto named = setNamed(m_house, device, m_catalog, field)) {
            if (!*named) return *named;
        } else if (device.label.empty()) {
            device.label = field;
        } else {
            return notUnderstood(
                field, "it takes a name, a port rate like 2.5G, a socket like USB 2, a disk, “at JACK”, "
                       "“from SWITCH”, and an adapter “in MACHINE SOCKET”");
        }
    }
    if (device.label.empty()) device.label = m_house.room(m_room)->label + " " + lower(word);
    device.id = m_house.freeId(stemOf(device.label));
    for (int i = 1; i <= ports; ++i)
        device.ports.push_back({ports == 1 ? "lan" : "p" + std::to_string(i),
                                ports == 1 ? "LAN" : "port " + std::to_string(i), PortKind::ethernet, phy});
    addLine(device, jack, strip);
    if (device.kind == DeviceKind::host)
        m_house.endpoints.push_back({m_house.freeId(device.id + "-end"), device.label, device.id, ""});
    const Id id = device.id;
    note(id, device.label);
    m_house.devices.push_back(std::move(device));
    if (socket) plugInto(id, *socket);
    joinOthers(m_house, m_catalog, id);
    return plugLan(id, jack, std::move(lead));
}

// What an adapter, or one that is built in, joins the coax, the mains or the air with. Its jack is the
// one that was named, or the only one of the room.
void EntryReader::addLine(Device& device, const Id& at, const std::optional<Strip>& strip) const {
    for (const Medium medium : {Medium::coax, Medium::mains, Medium::air}) {
        if (m_catalog.adapterOf(device.deviceClass, catalog::familyOf(medium)) == nullptr) continue;
        Port line{"line", "line", house::portFor(medium), ""};
        const auto kind = jackOf(line.kind); // radio has none
        std::vector<Id> jacks;
        for (const Jack& jack : m_house.jacks)
            if (jack.room == m_room && jack.kind == kind) jacks.push_back(jack.id);
        if (const Jack* named = m_house.jack(at); named != nullptr && named->kind == kind)
            line.jack = at;
        else if (jacks.size() == 1)
            line.jack = jacks.front();
        if (medium == Medium::mains && strip) line.strip = *strip;
        device.ports.push_back(std::move(line));
    }
}

Port EntryReader::busPort(const Device& device, const catalog::Bus& bus) {
    return {freePort(device, bus.kind == PortKind::usb ? "usb" : "slot"), bus.label, bus.kind, bus.id};
}

// The plug of a network adapter, in a socket of a machine.
void EntryReader::plugInto(const Id& adapter, const PortRef& socket) {
    Device& device = *m_house.device(adapter);
    const catalog::Bus& plug = *m_catalog.bus(m_catalog.device(device.deviceClass)->busPhy);
    device.ports.push_back({"plug", "plug", plug.kind, plug.id});
    Connection bus;
    bus.id = m_house.freeId(stemOf(adapter + "-socket"));
    bus.label = m_house.port(socket)->label;
    bus.medium = Medium::bus;
    bus.ends = {{adapter, "plug"}, socket};
    m_house.connections.push_back(std::move(bus));
}

// Its first Ethernet port into a data jack, or by a lead to another box.
Result<void> EntryReader::plugLan(const Id& id, const Id& jack, Connection lead) {
    Device& device = *m_house.device(id);
    const auto lan = std::find_if(device.ports.begin(), device.ports.end(),
                                  [](const Port& p) { return p.kind == PortKind::ethernet; });
    const Jack* at = m_house.jack(jack);
    if (at != nullptr && jackOf(lan->kind) == at->kind) lan->jack = jack;
    const bool isPlugged = at == nullptr || std::any_of(device.ports.begin(), device.ports.end(),
                                                        [&](const Port& p) { return p.jack == jack; });
    if (!isPlugged)
        return problem("nothing of it is plugged into " + quantity::inQuotes(at->label), "",
                       "name a jack of the kind that its ports have, or leave “at” out");
    if (lead.ends.empty()) return {};
    return joinByCable(std::move(lead), {id, lan->id}, "lead to " + device.label);
}

// "port / Stacking workstation / USB 2 / front USB socket": one more of a device that is there.
Result<void> EntryReader::port() {
    Device* device = labelled(m_house.devices, m_fields[1]);
    if (device == nullptr) return notUnderstood(m_fields[1], "name a device that is there");
    std::optional<Port> added;
    std::string label;
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        if (field.empty()) continue;
        if (const auto bus = classNamed(m_catalog.buses, field); bus && !added)
            added = busPort(*device, *m_catalog.bus(*bus));
        else if (const auto rate = phyNamed(m_catalog, field); rate && !added)
            added = Port{freePort(*device, "lan"), "LAN", PortKind::ethernet, *rate};
        else if (label.empty())
            label = field;
        else
            return notUnderstood(field, "a port takes a rate like 2.5G or a class like USB 2, and a label");
    }
    if (!added) return problem("it is not said what port", "", "add a rate like 2.5G or a class like USB 2");
    if (!label.empty()) added->label = label;
    note(device->id, device->label + ", " + added->label);
    device->ports.push_back(std::move(*added));
    return {};
}

} // namespace metrodos::job
