// What this machine sees of its networks, taken over into the address plan.
#pragma once

#include "house/house.h"
#include "probe/local_network.h"

namespace metrodos::probe {

/// An address that is there and that no port of the plan has.
struct SeenAddress {
    quantity::IpAddress address;
    std::string hardware; ///< empty: not known
    std::string where;    ///< "this computer, enp3s0", "neighbour at enp3s0"
};

struct NotedNetwork {
    house::House house;
    std::vector<std::string> changes; ///< in words; empty: the plan has it all
    std::vector<SeenAddress> seen;    ///< whose they are, a person has to say
};

/// Networks that the plan does not have with their gateway, and the hardware addresses of addresses that it
/// has; nothing that was typed is changed.
[[nodiscard]] NotedNetwork noteNetwork(const house::House& house, const LocalNetwork& local);

} // namespace metrodos::probe
