// Two sets of runs against each other: before and after, outlet A and B, this year and last.
//
// Runs that took turns are compared pair by pair (comparison.h). These did not: each set has its own level
// and spread, and the logarithms of their rates are compared by Welch's test (1947). What else differs
// between the sets is said, since it may be the cause just as well.
#pragma once

#include "benchmark/route_runs.h"
#include "benchmark/summary.h"

#include <optional>
#include <string>
#include <vector>

namespace metrodos::benchmark {

struct SetComparison {
    int runsA = 0; ///< that count: whole, and of the direction and streams that both sets have
    int runsB = 0;
    std::optional<double> ratio; ///< of B to A; nothing where one of them has none
    std::optional<double> low;   ///< its 95 % interval; nothing with fewer than two runs in one of them
    std::optional<double> high;
    std::optional<bool>
        real;           ///< B is another one than A; false: alike within `negligible`; nothing: not settled
    int runsNeeded = 0; ///< of each set in all, that would settle it four times of five; 0: it is settled
    std::vector<std::string>
        differs; ///< what is not the same in both, in words: "the hour: 10 to 11 against 20"
    std::vector<std::string>
        confoundedBy; ///< the same where it is more than one thing: each may be the cause
    std::string sentence;
};

/// `nameA` and `nameB` for the sentence. By `best` the mean speaks, since a best run has no interval.
[[nodiscard]] SetComparison compareSets(const RouteRuns& a, const RouteRuns& b, const std::string& nameA,
                                        const std::string& nameB, const house::House& house, Rule rule);

} // namespace metrodos::benchmark
