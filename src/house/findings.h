// What a survey still lacks or contradicts: none of it keeps a job from being opened, all of it should be
// seen to.
#pragma once

#include "house/house.h"
#include "quantity/problem.h"

#include <vector>

namespace metrodos::house {

/// A run with one end or none, a jack on no run, an outlet on no circuit, a loop in the coax tree, a device
/// with no way to the service, a length that no house has. Each with the thing's id in `where`.
[[nodiscard]] std::vector<quantity::Problem> findings(const House& house);

/// A cable of which one end is not known yet, and the jacks that it could lead to.
struct OpenEnd {
    Id connection;
    std::vector<Id> candidates; ///< jacks of its kind that no run ends in
};

/// The cables whose far end still has to be found with a tester: those with fewer than two ends.
[[nodiscard]] std::vector<OpenEnd> continuityList(const House& house);

/// Records that the tester's tone or flash on the cable was found at `end`: a jack, a port, or a room where
/// it ends loose. Fails when the cable has two ends already or another cable ends there.
[[nodiscard]] quantity::Result<House> withEndFound(const House& house, const Id& connection,
                                                   const PortRef& end);

/// Takes the cable's end off `end` again.
[[nodiscard]] quantity::Result<House> withEndLost(const House& house, const Id& connection,
                                                  const PortRef& end);

} // namespace metrodos::house
