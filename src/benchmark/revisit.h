// The runs of an earlier day once more, under the same conditions, and what has changed since.
#pragma once

#include "benchmark/route_runs.h"
#include "benchmark/set_comparison.h"
#include "quantity/problem.h"

namespace metrodos::benchmark {

/// A day on which runs were made, by the clock of this machine's time zone.
struct Visit {
    std::string day; ///< "2026-05-04"
    int runs = 0;    ///< whole ones
};
/// Oldest first.
[[nodiscard]] std::vector<Visit> visitsOf(const RouteRuns& runs);

/// A trial that repeats what was run on that day, each way, place and number of streams once, in the same
/// directions and as long; what has to be set by hand stands in the words of each step: the place, the
/// appliances, who else used the network, the hour. At most 40 steps. A Problem where that day has no whole
/// run over a route that is still there.
[[nodiscard]] quantity::Result<house::Trial> revisitOf(const house::House& house, const RouteRuns& runs,
                                                       const std::string& day);

/// What one way in one direction was and is.
struct Since {
    house::Id route;
    Direction direction = Direction::forward;
    SetComparison comparison;                ///< then against now
    std::vector<house::DatedChange> between; ///< exchanges on this way since then
    std::string sentence; ///< what has changed or not, how sure that is, and the likely cause
};
/// Of each way and direction that a trial of revisitOf has repeated by now.
[[nodiscard]] std::vector<Since> changedSince(const house::House& house, const house::Trial& revisit,
                                              const RouteRuns& runs, Rule rule);

} // namespace metrodos::benchmark
