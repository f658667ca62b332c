// Changes to the row of boxes on a route: each edits the graph and returns the new house, or says why not.
#pragma once

#include "house/chain.h"

#include <optional>

namespace metrodos::house {

/// A box or a pair of adapters to be put into a route.
struct NewUnit {
    std::string label;       ///< "Switch", "Coax pair"
    std::string deviceClass; ///< catalog id
    std::string ethernetPhy; ///< catalog id of its Ethernet ports
    DeviceKind kind = DeviceKind::network_switch;
    std::optional<Medium> crossing; ///< a shared medium: two adapters with it between them
    std::string patchCategory;      ///< category of the patch lead that comes with it
};

/// Splits the data cable `link` of the route and puts the unit there: the cable stays on the near side, a
/// patch lead of 1 m joins the far side.
[[nodiscard]] quantity::Result<House> insertUnit(const House& house, const Route& route, const Id& link,
                                                 const NewUnit& unit);

/// Takes out the box (or pair) that `id`, a device or a medium, belongs to, with the cable behind it. Fails
/// for the machines at the ends and for a box that other cables use.
[[nodiscard]] quantity::Result<House> removeUnit(const House& house, const Route& route, const Id& id);

/// Swaps the box (or pair) that `id` belongs to with its neighbour, towards `to` (+1) or `from` (−1). The
/// machines at the ends stay.
[[nodiscard]] quantity::Result<House> moveUnit(const House& house, const Route& route, const Id& id,
                                               int step);

/// A port of a device by its place, "device.port"; without a dot the port is empty.
[[nodiscard]] PortRef portOfPlace(const std::string& place);

/// What a place is called: "Loft outlet 2", "Loft computer, USB 3".
[[nodiscard]] std::string labelOfPlace(const House& house, const std::string& place);

/// The house with what passes `element` plugged in at `place`: a jack, for the adapter of a medium that is in
/// a jack of the same room; or "device.port", for what is joined to that device over a bus, or to the port
/// that the element is. A Problem where that does not fit.
[[nodiscard]] quantity::Result<House> pluggedAt(const House& house, const Id& element,
                                                const std::string& place);

} // namespace metrodos::house
