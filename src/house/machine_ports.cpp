#include "house/machine_ports.h"

#include <algorithm>

namespace metrodos::house {
namespace {

void addAdapters(const House& house, const PortRef& socket, std::vector<MachinePort>& out) {
    for (const Connection& bus : house.connections) {
        if (bus.medium != Medium::bus ||
            std::find(bus.ends.begin(), bus.ends.end(), socket) == bus.ends.end())
            continue;
        for (const PortRef& end : bus.ends) {
            const Device* adapter = end == socket ? nullptr : house.device(end.device);
            if (adapter == nullptr) continue;
            for (const Port& p : adapter->ports)
                if (p.kind == PortKind::ethernet) out.push_back({{adapter->id, p.id}, socket});
        }
    }
}

} // namespace

bool isOn(const Connection& connection, const Id& device) {
    return std::any_of(connection.ends.begin(), connection.ends.end(),
                       [&](const PortRef& end) { return end.device == device; });
}

std::vector<MachinePort> ethernetPorts(const House& house, const Device& machine) {
    std::vector<MachinePort> out;
    for (const Port& port : machine.ports) {
        const PortRef ref{machine.id, port.id};
        if (port.kind == PortKind::ethernet) out.push_back({ref, {}});
        if (port.kind == PortKind::usb || port.kind == PortKind::pcie) addAdapters(house, ref, out);
    }
    return out;
}

std::vector<MachinePort> machinePorts(const House& house, const Device& machine) {
    std::vector<MachinePort> out = ethernetPorts(house, machine);
    std::erase_if(out, [&](const MachinePort& p) { return house.cableAt(p.port) == nullptr; });
    return out;
}

std::vector<PortRef> portsAt(const House& house, const Connection& cable) {
    std::vector<PortRef> out;
    for (const Device& device : house.devices)
        for (const Port& port : device.ports)
            for (const PortRef& end : cable.ends)
                if (port.kind == PortKind::ethernet &&
                    (end == PortRef{device.id, port.id} || (!port.jack.empty() && end.device == port.jack))) {
                    out.push_back({device.id, port.id});
                    break;
                }
    return out;
}

} // namespace metrodos::house
