// The comparisons that are asked for most, as pairs of filters that can be typed as well.
#pragma once

#include "benchmark/route_runs.h"

namespace metrodos::benchmark {

struct ComparisonPreset {
    std::string label; ///< "before and after: …"
    std::string first; ///< a filter of run_filter.h
    std::string second;
};

/// Those that the runs of the route have something for, of all routes where `route` is empty: before and
/// after the latest exchanges, one way against the other, each outlet or port that was tried against the
/// first, this year and last, the first day and the last, alone and with others, an appliance on and off, the
/// adapters on the bench against the place, with a part of the way left out and with it.
[[nodiscard]] std::vector<ComparisonPreset> presetsOf(const house::House& house, const RouteRuns& runs,
                                                      const house::Id& route);

} // namespace metrodos::benchmark
