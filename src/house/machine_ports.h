// Where a machine meets its data cables: by its own ports, or by those of an adapter in one of its sockets.
#pragma once

#include "house/house.h"

#include <vector>

namespace metrodos::house {

struct MachinePort {
    PortRef port;   ///< Ethernet, of the machine or of its adapter
    PortRef socket; ///< of the machine, that the adapter sits in; empty: the port is the machine's own
};

/// All of them, in the order of the data.
[[nodiscard]] std::vector<MachinePort> ethernetPorts(const House& house, const Device& machine);

/// Those that a data cable is joined to, in the order of the data.
[[nodiscard]] std::vector<MachinePort> machinePorts(const House& house, const Device& machine);

/// Whether one of the ends is a port of this device.
[[nodiscard]] bool isOn(const Connection& connection, const Id& device);

/// The ports that a data cable joins, by itself or by the jacks that it ends in.
[[nodiscard]] std::vector<PortRef> portsAt(const House& house, const Connection& cable);

} // namespace metrodos::house
