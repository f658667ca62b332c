// What a new job begins with.
#pragma once

#include "catalog/catalog.h"
#include "house/house.h"

namespace metrodos::job {

/// What lies between the two machines of a first measurement.
enum class Between { cable, network_switch, coax_pair, mains_pair };

/// Two machines in rooms of their own with a cable, or what `between` says, between them, and a route to
/// measure: to be filled in from there. The first machine is this one; the other answers at `address`.
[[nodiscard]] house::House starterHouse(const catalog::Catalog& catalog, Between between,
                                        const std::string& address);

/// Nothing but a name: a house to be surveyed.
[[nodiscard]] house::House emptyHouse();

} // namespace metrodos::job
