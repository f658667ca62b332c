// Two samples of unequal spread against each other (Welch 1947): the difference of their means with its
// interval.
#pragma once

#include <span>

namespace metrodos::benchmark {

struct Welch {
    double difference = 0; ///< mean of b less mean of a
    double half = 0;       ///< of the interval about it
    double variances = 0;  ///< sum of both samples' variances
};

/// Each of at least two values; `level` is the share of such intervals that miss. Degrees of freedom by
/// Welch and Satterthwaite; samples without any spread have n − 2.
[[nodiscard]] Welch welch(std::span<const double> a, std::span<const double> b, double level);

} // namespace metrodos::benchmark
