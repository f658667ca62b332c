// A route seen as what one can take in the hand: boxes in a row, joined by data cables.
#pragma once

#include "house/route.h"

#include <vector>

namespace metrodos::house {

/// A box, or a pair of adapters with the medium between them, or an end with its host: all that lies between
/// two data cables of a route.
struct Unit {
    std::vector<Id> devices;     ///< in route order
    std::vector<Id> connections; ///< the bus or medium inside
    PortRef in;                  ///< Ethernet port towards `from`; empty device for the first unit
    PortRef out;                 ///< Ethernet port towards `to`; empty device for the last unit
};

/// A data cable between two units, with the jacks that the units are plugged into where it is a run in the
/// wall; an empty jack: the cable goes into the unit itself.
struct Link {
    Id connection;
    Id nearJack; ///< towards `from`
    Id farJack;
};

/// units.size() == links.size() + 1; links[i] lies between units[i] and units[i + 1].
struct Chain {
    std::vector<Unit> units;
    std::vector<Link> links;

    /// The index of the unit that holds this device or connection, or units.size().
    [[nodiscard]] std::size_t unitOf(const Id& deviceOrConnection) const;
    /// The index of the link that is this connection or that the port at its end belongs to, or links.size().
    [[nodiscard]] std::size_t linkOf(const Id& connection) const;
};

[[nodiscard]] Chain chainOf(const std::vector<Element>& route);

/// Which elements of a route a run passes, by element: on the bench only the ends, with or without the
/// adapters of the media; and never what was left out or exchanged for a part known to be good.
[[nodiscard]] std::vector<bool> passed(const std::vector<Element>& route, Setup setup,
                                       const std::vector<Id>& bypassed);

} // namespace metrodos::house
