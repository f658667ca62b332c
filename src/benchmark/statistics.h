// The statistics of runs: warm-up, robust centres, intervals.
#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <vector>

namespace metrodos::benchmark {

/// Linear-interpolated quantile of unsorted values (Hyndman and Fan, type 7). Values must not be empty.
[[nodiscard]] double quantile(std::span<const double> values, double p);
[[nodiscard]] double mean(std::span<const double> values);

/// How many leading values to leave out: MSER-5 (White 1997). The values are averaged in batches of five and
/// the cut d minimises Σ_{i≥d}(x̄_i − mean)² / (n − d)²; at most half of the values are cut.
[[nodiscard]] std::size_t warmupLength(std::span<const double> values);

struct Interval {
    double centre = 0;
    double low = 0;
    double high = 0;
};

/// Mean with its 95 % Student interval; nothing for fewer than two values.
[[nodiscard]] std::optional<Interval> meanInterval(std::span<const double> values);

/// The share `trim` (0–0.49) of the values cut at each end, mean of the rest, with the 95 % interval of Tukey
/// and McLaughlin (1963) from the winsorised variance; nothing where fewer than two values remain.
[[nodiscard]] std::optional<Interval> trimmedInterval(std::span<const double> values, std::size_t cutEachEnd);

/// 97.5th percentile of Student's t.
[[nodiscard]] double studentT975(std::size_t degreesOfFreedom);

} // namespace metrodos::benchmark
