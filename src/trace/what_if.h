// What a route would carry if one thing in it were another one, judged by what the runs have shown of the
// rest.
#pragma once

#include "trace/diagnose.h"

namespace metrodos::trace {

/// One exchange that can be made.
struct WhatIf {
    std::string choice; ///< catalog id of what would be there (catalog::choicesFor), "wall" or "streams-N"
    bool now = false;   ///< it is so now
    std::string label;
    catalog::RateSpread forward;
    catalog::RateSpread backward;
    std::string limiter; ///< label of what would limit then, in the slower direction
    std::optional<quantity::Money>
        price; ///< guide price of the part; nothing: none is known, or nothing is bought
};

/// The same for a route of a house; the runs by route id. Nothing where the route is not joined.
[[nodiscard]] std::vector<WhatIf> whatIfRoute(const house::House& house, const catalog::Catalog& catalog,
                                              const house::Route& route, const benchmark::RouteRuns& runs,
                                              const house::Id& element);

/// The choices for an element of the route, in the catalog's order, each with what the route would carry; the
/// one that is there now among them; of mains also without the strips. Last, other numbers of streams
/// ("streams-1" …).
[[nodiscard]] std::vector<WhatIf> whatIf(const Case& asked, const house::Id& element);

} // namespace metrodos::trace
