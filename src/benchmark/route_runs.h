// The runs of a job with the routes that they were made on: the one shape in which they are kept, asked about
// and judged.
#pragma once

#include "benchmark/run.h"

#include <vector>

namespace metrodos::benchmark {

struct RouteRun {
    house::Id route;
    Run run;
};

/// Oldest first.
using RouteRuns = std::vector<RouteRun>;

/// Those of one route; they share their samples with `all`.
[[nodiscard]] inline std::vector<Run> runsOf(const RouteRuns& all, const house::Id& route) {
    std::vector<Run> out;
    for (const RouteRun& one : all)
        if (one.route == route) out.push_back(one.run);
    return out;
}

} // namespace metrodos::benchmark
