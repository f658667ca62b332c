// What an element of a route may be exchanged for, and the house after the exchange.
#pragma once

#include "catalog/catalog.h"
#include "house/edit.h"

namespace metrodos::catalog {

struct Choice {
    std::string id; ///< empty: unknown
    std::string label;
};

/// What decides the element's ceiling, in the catalog's order, "unknown" last: a port's rate, a cable's
/// category, a box's class among its family, a socket's generation, how the ends of a medium lie to each
/// other.
[[nodiscard]] std::vector<Choice> choicesFor(const house::House& house, const Catalog& catalog,
                                             const house::Element& element);
[[nodiscard]] std::string choiceOf(const house::House& house, const house::Element& element);

/// The house with another choice. A box of another class brings the ports of that class with it.
[[nodiscard]] quantity::Result<house::House> withChoice(const house::House& house, const Catalog& catalog,
                                                        const house::Element& element, const std::string& id);

/// What can be put into a data cable: a switch or a pair of adapters of each class.
[[nodiscard]] std::vector<house::NewUnit> newUnits(const Catalog& catalog);

/// The port of a bus that belongs to the host: the socket, not the plug.
[[nodiscard]] house::PortRef socketOf(const house::House& house, const house::Element& bus);

} // namespace metrodos::catalog
