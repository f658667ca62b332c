// Why a step that was measured falls short of what was expected, as Trace has it.
#pragma once

#include "benchmark/route_runs.h"
#include "fit/steps.h"

#include <optional>

namespace metrodos::fit {

struct Suspicion {
    std::string label;      ///< of an element
    std::string state;      ///< how it is likely to be, beyond its class; empty: as its class says
    double probability = 0; ///< 0–1, that it limits
};
struct Cause {
    std::vector<Suspicion> suspects; ///< the first three, by falling probability; at least one
    std::string nextTest;            ///< in the imperative; empty: none would tell more
};

/// Of a step with a route that has runs; nothing for the others. Takes as long as a diagnosis, some tens of
/// milliseconds.
[[nodiscard]] std::optional<Cause> causeOf(const Step& step, const house::House& house,
                                           const catalog::Catalog& catalog, const benchmark::RouteRuns& runs);

} // namespace metrodos::fit
