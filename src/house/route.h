// Finds the way between two endpoints in the graph of ports and connections.
#pragma once

#include "house/house.h"
#include "quantity/problem.h"

#include <vector>

namespace metrodos::house {

/// What a stretch of a route is. Ports other than Ethernet are not elements: the connection speaks for them.
enum class ElementKind { host, port, cable, network_switch, router, adapter, coax, mains, air, bus };

[[nodiscard]] std::string_view name(ElementKind kind);

/// One thing that the bits pass, in the order of the route.
struct Element {
    Id id; ///< of the device or connection; "device.port" for a port
    ElementKind kind = ElementKind::host;
    std::string label;
    Id device;     ///< device or port: whose; empty for a connection
    Id port;       ///< port: which; empty otherwise
    Id connection; ///< connection: which; empty otherwise
    PortRef entry; ///< connection: the port on the side of `from`
    PortRef exit;  ///< connection: the port on the side of `to`

    friend bool operator==(const Element&, const Element&) = default;
};

/// The elements from the host of `from` to the host of `to`, both included, by the fewest connections; of
/// equal ways the one whose connections come first in the data. A host in between does not forward. Fails
/// when an endpoint is missing or nothing joins the two.
[[nodiscard]] quantity::Result<std::vector<Element>> findRoute(const House& house, const Id& from,
                                                               const Id& to);

} // namespace metrodos::house
