// What one element of a route can carry, and why.
#pragma once

#include "capacity/distribution.h"
#include "capacity/framing.h"
#include "house/route.h"

#include <string>
#include <vector>

namespace metrodos::capacity {

/// The most goodput that an element can carry in each direction, as a belief, with its explanation.
struct Ceiling {
    Distribution forward;
    Distribution backward;
    bool shared = false;                 ///< one total for both directions and all users
    std::string because;                 ///< one clause for a list: "USB 2 socket: 280 to 350 Mbit/s usable"
    std::vector<std::string> arithmetic; ///< line by line, for the sheet
    std::string source;                  ///< standard or working value behind the figures
};

struct Plants; // capacity/plant_ceiling.h

/// The ceiling of `element` of a route with this framing. Unknown classes widen it; they never fail. For many
/// elements of one house, `plants` of that house saves working them out each time.
[[nodiscard]] Ceiling ceilingOf(const house::House& house, const catalog::Catalog& catalog,
                                const house::Element& element, const Framing& framing,
                                const Plants* plants = nullptr);

/// The framing of the runs of a route.
[[nodiscard]] Framing framingOf(const house::Route& route);

} // namespace metrodos::capacity
