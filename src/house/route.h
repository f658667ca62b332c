// Finds the way between two endpoints in the graph of ports and connections.
#pragma once

#include "house/house.h"
#include "quantity/problem.h"

#include <map>
#include <vector>

namespace metrodos::house {

/// What a stretch of a route is. Ports other than Ethernet are not elements: the connection speaks for them.
enum class ElementKind {
    host,
    port,
    cable,
    network_switch,
    router,
    adapter,
    coax,
    mains,
    air,
    bus,
    service, ///< what the internet service carries
    storage, ///< the disks at an end, where files are copied
};

[[nodiscard]] std::string_view name(ElementKind kind);

/// A shared medium that adapters speak over.
[[nodiscard]] constexpr bool isMedium(ElementKind kind) {
    return kind == ElementKind::coax || kind == ElementKind::mains || kind == ElementKind::air;
}
/// A machine, or its disks: what stands at an end of a route and can run.
[[nodiscard]] constexpr bool isMachine(ElementKind kind) {
    return kind == ElementKind::host || kind == ElementKind::storage;
}

/// One thing that the bits pass, in the order of the route.
struct Element {
    Id id; ///< of the device or connection; "device.port" for a port
    ElementKind kind = ElementKind::host;
    std::string label;
    Id device;     ///< device or port: whose; empty for a connection
    Id port;       ///< port: which; empty otherwise
    Id connection; ///< connection: which; empty otherwise
    PortRef
        entry;    ///< connection: the port on the side of `from`; service or disks at the end `to`: their box
    PortRef exit; ///< connection: the port on the side of `to`; service or disks at the end `from`: their box
    Id entryJack; ///< cable: the jack between entry and the run in the wall; empty: none
    Id exitJack;

    friend bool operator==(const Element&, const Element&) = default;
};

/// Where the data cables of a route lie, and the units between them: a unit is what one can take in the hand,
/// a box, a pair of adapters with their medium, or an end with its machine. Cables belong to the unit behind
/// them.
struct RouteShape {
    std::vector<std::size_t> unit; ///< of each element, from 0
    std::vector<bool> overMedium;  ///< by unit: it is a pair of adapters with their medium
    std::size_t firstCable = 0;    ///< index; the number of elements where there is none
    std::size_t lastCable = 0;

    [[nodiscard]] std::size_t lastUnit() const { return overMedium.size() - 1; }
    /// Whether it goes with the machine at an end, when that changes its place: its sockets and ports do.
    [[nodiscard]] bool isAtEnd(std::size_t element) const {
        return element < firstCable || element > lastCable;
    }
};
[[nodiscard]] RouteShape shapeOf(const std::vector<Element>& route);

/// Finds routes in one house. Its index holds pointers: the house must stay where it is, unchanged.
class RouteFinder {
  public:
    explicit RouteFinder(const House& house);

    /// The elements from the host of `from` to the host of `to`, both included, by the fewest connections; of
    /// equal ways the one whose connections come first in the data. Either end may be the service: then its
    /// box and the service itself end the route. A host in between does not forward. Two ports are joined by
    /// a connection that ends in both, or by a run between the jacks that they are plugged into. Fails when
    /// an end is missing or nothing joins the two.
    [[nodiscard]] quantity::Result<std::vector<Element>> find(const Id& from, const Id& to) const;
    /// The same for a route; where files are copied, with the disks at both ends.
    [[nodiscard]] quantity::Result<std::vector<Element>> find(const Route& route) const;
    /// The devices that a device is joined to, over whatever lies between, itself included.
    [[nodiscard]] std::vector<Id> reachable(const Id& device) const;

  private:
    struct Edge {
        const Connection* connection = nullptr;
        PortRef entry;
        PortRef exit;
        Id entryJack;
        Id exitJack;
        std::size_t target = 0; // index of a device
    };
    struct Step {
        std::size_t from = 0;
        const Edge* edge = nullptr;
    };
    [[nodiscard]] std::vector<Step> search(std::size_t first, std::size_t last) const;
    [[nodiscard]] std::vector<Element> elementsOf(std::size_t first, const std::vector<Step>& steps) const;
    [[nodiscard]] const Port* port(const PortRef& ref) const;

    const House& m_house;
    std::map<std::string_view, std::size_t> m_devices;
    std::vector<std::vector<Edge>> m_edges; // by device, in the order of the data
};

/// One search in a house: RouteFinder(house).find(from, to).
[[nodiscard]] quantity::Result<std::vector<Element>> findRoute(const House& house, const Id& from,
                                                               const Id& to);

} // namespace metrodos::house
