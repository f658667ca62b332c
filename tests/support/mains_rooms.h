// A pair of adapters over the mains of two rooms with several outlets each.
#pragma once

#include "support/houses.h"
#include "support/plant.h"

namespace metrodos::testing {

/// The plant of mainsHouse() with: desk – lead – adapter "mains-a" in an outlet of the hall – mains – adapter
/// "mains-b" in an outlet of the loft (o0-4, the circuit of the first) – lead – shelf. The loft's other
/// outlets are free. Both adapters are of the plan.
inline House mainsRooms() {
    House h = mainsHouse();
    const House machines = wiredHouse();
    h.name = machines.name;
    h.rooms.insert(h.rooms.end(), machines.rooms.begin(), machines.rooms.end());
    h.endpoints = machines.endpoints;
    h.routes = machines.routes;
    h.devices = {*machines.device("desk"), *machines.device("shelf")};
    const auto adapter = [&](const Id& id, const std::string& label, const Id& room, const Id& jack) {
        h.devices.push_back({id,
                             label,
                             DeviceKind::adapter,
                             "mains-1200",
                             room,
                             {{"lan", "LAN", PortKind::ethernet, "1000base-t"},
                              {"plug", "plug", PortKind::mains, "", jack}}});
        h.fitting.planned.push_back(id);
    };
    adapter("mains-a", "Hall adapter", "hall", "o0-0");
    adapter("mains-b", "Loft adapter", "loft", "o0-4");
    Connection lead = *machines.connection("run-2");
    lead.id = "lead-a";
    lead.ends = {{"desk", "lan"}, {"mains-a", "lan"}};
    Connection other = lead;
    other.id = "lead-b";
    other.ends = {{"mains-b", "lan"}, {"shelf", "lan"}};
    Connection mains;
    mains.id = "mains";
    mains.label = "mains wiring";
    mains.medium = Medium::mains;
    mains.ends = {{"mains-a", "plug"}, {"mains-b", "plug"}};
    h.connections = {lead, other, mains};
    h.fitting.planned.push_back("mains");
    return h;
}

} // namespace metrodos::testing
