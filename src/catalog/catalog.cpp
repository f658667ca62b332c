#include "catalog/catalog.h"
#include "catalog/check.h"

#include <algorithm>

namespace metrodos::catalog {
namespace {

template <typename Items>
auto find(const Items& items, std::string_view id) -> decltype(items.data()) {
    const auto hit =
        std::find_if(items.begin(), items.end(), [&](const auto& item) { return item.id == id; });
    return hit == items.end() ? nullptr : &*hit;
}

} // namespace

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
const MediumClass* Catalog::medium(house::Medium wanted) const {
    const auto hit =
        std::find_if(media.begin(), media.end(), [&](const MediumClass& m) { return m.medium == wanted; });
    return hit == media.end() ? nullptr : &*hit;
}

std::vector<quantity::Problem> check(const house::House& house, const Catalog& catalog) {
    std::vector<quantity::Problem> faults;
    const auto fault = [&](std::string where, const std::string& cls) {
        faults.push_back({"the class “" + cls.substr(0, 64) + "” is not in the catalog", std::move(where),
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
    for (const house::Connection& connection : house.connections) {
        if (!connection.cableClass.empty() && catalog.cable(connection.cableClass) == nullptr)
            fault("connection " + connection.id, connection.cableClass);
        const MediumClass* medium = catalog.medium(connection.medium);
        if (!connection.situation.empty() &&
            (medium == nullptr || find(medium->situations, connection.situation) == nullptr))
            fault("connection " + connection.id, connection.situation);
    }
    return faults;
}

} // namespace metrodos::catalog
