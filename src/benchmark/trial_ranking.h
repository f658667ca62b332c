// The arms of a trial against each other: what each carried, which is the faster, and of which it is not
// known yet.
#pragma once

#include "benchmark/trial.h"

namespace metrodos::benchmark {

struct RankedArm {
    std::string arm; ///< "A"
    house::Id route;
    std::string label; ///< of the route
    Summary summary;   ///< of its complete runs with the most streams
};

/// In one direction, the fastest first.
struct Ranking {
    std::vector<RankedArm> arms;
    /// Each arm against the one behind it, all held together to the risk of one comparison. One entry fewer
    /// than arms.
    std::vector<Comparison> neighbours;
    int morePairs = 0; ///< runs of each that are likely to settle what can be settled; 0: nothing is open
    std::string words; ///< "A, B are faster than C; A and B: not settled …", a sentence without its full stop
};

/// Nothing when the trial compares nothing, or fewer than two of its arms have a run.
[[nodiscard]] std::optional<Ranking> rankArms(const house::House& house, const house::Trial& trial,
                                              const RouteRuns& runs, Direction direction);

} // namespace metrodos::benchmark
