// Cautions where the work meets them, each with why. Guidance, not certification.
#pragma once

#include "house/house.h"

#include <string>
#include <vector>

namespace metrodos::fit {

struct Caution {
    house::Id where;  ///< the thing or room that it belongs to; empty: the whole house
    std::string what; ///< one sentence in the imperative
    std::string why;
};

/// Every caution that this survey gives reason for, in the order of rooms, plant and devices.
[[nodiscard]] std::vector<Caution> cautionsOf(const house::House& house);

/// Those that belong to one thing: an element of a route, a jack, a part, a circuit, a room.
[[nodiscard]] std::vector<Caution> cautionsAt(const house::House& house, const house::Id& where);

} // namespace metrodos::fit
