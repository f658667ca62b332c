#include "catalog/refit.h"

#include <algorithm>

namespace metrodos::catalog {
namespace {

using house::ElementKind;

Family familyOf(const Catalog& catalog, const house::Device& device) {
    if (const DeviceClass* cls = catalog.device(device.deviceClass)) return cls->family;
    if (device.kind == house::DeviceKind::network_switch) return Family::network_switch;
    if (device.kind == house::DeviceKind::router) return Family::router;
    // An adapter of unknown class: its other port tells.
    for (const house::Port& port : device.ports) {
        if (port.kind == house::PortKind::coax) return Family::coax;
        if (port.kind == house::PortKind::mains) return Family::mains;
        if (port.kind == house::PortKind::radio) return Family::air;
    }
    return Family::bus;
}

template <typename Items, typename Keep>
std::vector<Choice> choices(const Items& items, Keep keep) {
    std::vector<Choice> out;
    for (const auto& item : items)
        if (keep(item)) out.push_back({item.id, item.label});
    out.push_back({"", "unknown"});
    return out;
}

const auto all = [](const auto&) { return true; };

} // namespace

house::PortRef socketOf(const house::House& house, const house::Element& bus) {
    for (const house::PortRef& end : {bus.entry, bus.exit})
        if (const house::Device* device = house.device(end.device);
            device != nullptr && device->kind == house::DeviceKind::host)
            return end;
    return bus.exit;
}

std::vector<Choice> choicesFor(const house::House& house, const Catalog& catalog,
                               const house::Element& element) {
    switch (element.kind) {
    case ElementKind::port:
        return choices(catalog.phys, all);
    case ElementKind::cable:
        return choices(catalog.cables, all);
    case ElementKind::host:
        return choices(catalog.hosts, all);
    case ElementKind::bus: {
        const house::Port* socket = house.port(socketOf(house, element));
        return choices(catalog.buses,
                       [&](const Bus& bus) { return socket == nullptr || bus.kind == socket->kind; });
    }
    case ElementKind::coax:
    case ElementKind::mains:
    case ElementKind::air: {
        const house::Connection* connection = house.connection(element.connection);
        const MediumClass* medium = connection == nullptr ? nullptr : catalog.medium(connection->medium);
        return medium == nullptr ? std::vector<Choice>{} : choices(medium->situations, all);
    }
    case ElementKind::storage:
        return choices(catalog.disks, all);
    default:
        break;
    }
    const house::Device* device = house.device(element.device);
    if (device == nullptr) return {};
    const Family family = familyOf(catalog, *device);
    // A plug fits only sockets of its kind.
    const auto plug = std::find_if(device->ports.begin(), device->ports.end(), [](const house::Port& port) {
        return port.kind == house::PortKind::usb || port.kind == house::PortKind::pcie;
    });
    return choices(catalog.devices, [&](const DeviceClass& cls) {
        const Bus* bus = catalog.bus(cls.busPhy);
        return cls.family == family &&
               (plug == device->ports.end() || bus == nullptr || bus->kind == plug->kind);
    });
}

std::string choiceOf(const house::House& house, const house::Element& element) {
    if (const house::Connection* connection = house.connection(element.connection)) {
        if (element.kind == ElementKind::cable) return connection->cableClass;
        if (element.kind != ElementKind::bus) return connection->situation;
        const house::Port* socket = house.port(socketOf(house, element));
        return socket == nullptr ? "" : socket->phy;
    }
    if (const house::Port* port = house.port({element.device, element.port})) return port->phy;
    const house::Device* device = house.device(element.device);
    if (device == nullptr) return "";
    if (element.kind == ElementKind::storage) return device->storage ? device->storage->diskClass : "";
    return device->deviceClass;
}

quantity::Result<house::House> withChoice(const house::House& house, const Catalog& catalog,
                                          const house::Element& element, const std::string& id) {
    const std::vector<Choice> offered = choicesFor(house, catalog, element);
    if (std::none_of(offered.begin(), offered.end(), [&](const Choice& choice) { return choice.id == id; }))
        return quantity::problem("“" + id + "” is not a choice for " + element.label, "",
                                 "choose one that the catalog offers");
    house::House out = house;
    if (house::Connection* connection = out.connection(element.connection)) {
        if (element.kind == ElementKind::cable) {
            connection->cableClass = id;
            connection->linkedAt.reset(); // another cable, another link
        } else if (element.kind != ElementKind::bus) {
            connection->situation = id;
        } else if (house::Port* socket = out.port(socketOf(house, element))) {
            socket->phy = id;
            connection->linkedAt.reset(); // said, not read
        }
        return out;
    }
    if (house::Port* port = out.port({element.device, element.port})) {
        port->phy = id;
        out.forgetLinks(element.device);
        return out;
    }
    house::Device* device = out.device(element.device);
    if (element.kind == ElementKind::storage) {
        if (!device->storage) device->storage.emplace();
        device->storage->diskClass = id;
        return out;
    }
    device->deviceClass = id;
    if (const DeviceClass* cls = catalog.device(id))
        for (house::Port& port : device->ports) {
            if (port.kind == house::PortKind::ethernet) port.phy = cls->ethernetPhy;
            if (const Bus* bus = catalog.bus(cls->busPhy); bus != nullptr && bus->kind == port.kind)
                port.phy = cls->busPhy;
        }
    out.forgetLinks(element.device);
    return out;
}

std::vector<house::NewUnit> newUnits(const Catalog& catalog) {
    std::vector<house::NewUnit> out;
    const std::string patch = catalog.cables.empty() ? "" : catalog.cables.front().id;
    for (const DeviceClass& cls : catalog.devices) {
        house::NewUnit unit{cls.label, cls.id, cls.ethernetPhy, house::DeviceKind::network_switch, {}, patch};
        switch (cls.family) {
        case Family::network_switch:
            break;
        case Family::router:
            unit.kind = house::DeviceKind::router;
            break;
        case Family::coax:
            unit.crossing = house::Medium::coax;
            break;
        case Family::mains:
            unit.crossing = house::Medium::mains;
            break;
        case Family::air:
            unit.crossing = house::Medium::air;
            break;
        case Family::bus:
            continue; // belongs to a machine, not into a cable
        }
        if (unit.crossing) unit.kind = house::DeviceKind::adapter;
        out.push_back(std::move(unit));
    }
    return out;
}

} // namespace metrodos::catalog
