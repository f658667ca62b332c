#include "catalog/catalog.h"
#include "catalog/check.h"
#include "catalog/find.h"
#include "quantity/text.h"

#include <algorithm>

namespace metrodos::catalog {
const Phy* Catalog::phy(std::string_view id) const {
    return find(phys, id);
}
const CableCategory* Catalog::cable(std::string_view id) const {
    return find(cables, id);
}
const Bus* Catalog::bus(std::string_view id) const {
    return find(buses, id);
}
const HostClass* Catalog::host(std::string_view id) const {
    return find(hosts, id);
}
const DeviceClass* Catalog::device(std::string_view id) const {
    return find(devices, id);
}
const DeviceClass* Catalog::adapterOf(std::string_view deviceClass, Family medium) const {
    const DeviceClass* box = device(deviceClass);
    if (box == nullptr || box->family == medium) return box;
    const DeviceClass* inside = box->builtIn.empty() ? nullptr : device(box->builtIn);
    return inside != nullptr && inside->family == medium ? inside : nullptr;
}
bool Catalog::hasInside(const house::Device& box, const std::vector<std::string>& adapters) const {
    const DeviceClass* cls = device(box.deviceClass);
    const DeviceClass* inside = cls == nullptr || cls->builtIn.empty() ? nullptr : device(cls->builtIn);
    return inside != nullptr && std::find(adapters.begin(), adapters.end(), inside->id) != adapters.end() &&
           std::any_of(box.ports.begin(), box.ports.end(), [&](const house::Port& port) {
               return house::joins(mediumOf(inside->family), port.kind);
           });
}
const Termination* Catalog::termination(std::string_view id) const {
    return find(terminations, id);
}
const DiskClass* Catalog::disk(std::string_view id) const {
    return find(disks, id);
}
const FileProtocol* Catalog::protocol(std::string_view id) const {
    return find(protocols, id);
}
const CoaxCable* CoaxModel::cable(std::string_view id) const {
    return find(cables, id);
}
const CoaxClass* CoaxModel::classOf(std::string_view id) const {
    return find(classes, id);
}
const MainsClass* MainsModel::classOf(std::string_view id) const {
    return find(classes, id);
}
const ApplianceClass* MainsModel::appliance(std::string_view id) const {
    return find(appliances, id);
}
const Wiring* MainsModel::wiring(std::string_view id) const {
    return find(wirings, id);
}
const ProtectionLoss* MainsModel::protection(std::string_view id) const {
    return find(protections, id);
}
const StripLoss* MainsModel::strip(std::string_view id) const {
    return find(strips, id);
}
const MediumClass* Catalog::medium(house::Medium wanted) const {
    const auto hit =
        std::find_if(media.begin(), media.end(), [&](const MediumClass& m) { return m.medium == wanted; });
    return hit == media.end() ? nullptr : &*hit;
}

std::vector<quantity::Problem> check(const house::House& house, const Catalog& catalog) {
    std::vector<quantity::Problem> faults;
    const auto fault = [&](std::string where, const std::string& cls) {
        faults.push_back({"the class " + quantity::inQuotes(cls) + " is not in the catalog", std::move(where),
                          "choose a class of the catalog, or leave it empty for unknown"});
    };
    for (const house::Device& device : house.devices) {
        const bool isHost = device.kind == house::DeviceKind::host;
        if (!device.deviceClass.empty() && (isHost ? catalog.host(device.deviceClass) == nullptr
                                                   : catalog.device(device.deviceClass) == nullptr))
            fault("device " + device.id, device.deviceClass);
        for (const house::Port& port : device.ports) {
            const bool isBus = port.kind == house::PortKind::usb || port.kind == house::PortKind::pcie;
            const bool known =
                port.phy.empty() ||
                (isBus ? catalog.bus(port.phy) != nullptr && catalog.bus(port.phy)->kind == port.kind
                       : port.kind != house::PortKind::ethernet || catalog.phy(port.phy) != nullptr);
            if (!known) fault("device " + device.id + " port " + port.id, port.phy);
        }
    }
    for (const house::Device& device : house.devices)
        if (device.storage && !device.storage->diskClass.empty() &&
            catalog.disk(device.storage->diskClass) == nullptr)
            fault("device " + device.id + " storage", device.storage->diskClass);
    for (const house::Circuit& circuit : house.circuits)
        if (!circuit.wiring.empty() && catalog.mains.wiring(circuit.wiring) == nullptr)
            fault("circuit " + circuit.id, circuit.wiring);
    for (const house::Appliance& appliance : house.appliances)
        if (!appliance.applianceClass.empty() && catalog.mains.appliance(appliance.applianceClass) == nullptr)
            fault("appliance " + appliance.id, appliance.applianceClass);
    for (const house::Spot& spot : house.spots)
        for (const house::Use& use : spot.uses)
            if (catalog.planning.use(use.useClass) == nullptr) fault("spot " + spot.id, use.useClass);
    for (const house::Route& route : house.routes)
        if (!route.fileProtocol.empty() && catalog.protocol(route.fileProtocol) == nullptr)
            fault("route " + route.id, route.fileProtocol);
    for (const house::Connection& connection : house.connections) {
        const bool isCoax = connection.medium == house::Medium::coax;
        if (!connection.cableClass.empty() && (isCoax ? catalog.coax.cable(connection.cableClass) == nullptr
                                                      : catalog.cable(connection.cableClass) == nullptr))
            fault("connection " + connection.id, connection.cableClass);
        if (!connection.termination.empty() && catalog.termination(connection.termination) == nullptr)
            fault("connection " + connection.id, connection.termination);
        const MediumClass* medium = catalog.medium(connection.medium);
        if (!connection.situation.empty() &&
            (medium == nullptr || find(medium->situations, connection.situation) == nullptr))
            fault("connection " + connection.id, connection.situation);
    }
    return faults;
}

} // namespace metrodos::catalog
