// Times within a run at which the rate changed for good.
#pragma once

#include "benchmark/run.h"

#include <vector>

namespace metrodos::benchmark {

struct RateStep {
    double t = 0; ///< s since the first byte
    BitRate before;
    BitRate after;
};

/// Splits the samples after the warm-up, or after the first second where that is longer, where the means of
/// both sides differ most, against the scatter of half-second means (from the median of their differences),
/// and again within the parts (binary segmentation). A step is one of at least 15 % with a statistic of at
/// least 8 that holds for a second on both sides; at most eight, by time.
[[nodiscard]] std::vector<RateStep> rateSteps(const Run& run);

} // namespace metrodos::benchmark
