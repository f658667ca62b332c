// What this machine sees of its networks: its own addresses, the way out, and its neighbours, as the kernel
// tells by rtnetlink (RFC 3549).
#pragma once

#include "quantity/ip_address.h"

#include <vector>

namespace metrodos::probe {

struct LocalAddress {
    std::string interface; ///< "enp3s0"
    std::string hardware;  ///< "02:00:5e:10:00:01"; empty: it has none
    quantity::IpAddress address;
    quantity::IpPrefix prefix; ///< of its network
};
struct LocalGateway {
    std::string interface;
    quantity::IpAddress address;
};
struct Neighbour {
    std::string interface;
    std::string hardware;
    quantity::IpAddress address;
};

/// Without loopback and link-local addresses.
struct LocalNetwork {
    std::vector<LocalAddress> addresses;
    std::vector<LocalGateway> gateways;
    std::vector<Neighbour> neighbours; ///< that answered
};

/// Takes some milliseconds. A Problem where the kernel does not tell.
[[nodiscard]] quantity::Result<LocalNetwork> readLocalNetwork();

} // namespace metrodos::probe
