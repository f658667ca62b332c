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

/// Of a sample, with n − 1. At least two values.
[[nodiscard]] double standardDeviation(std::span<const double> values);

/// How many leading values to leave out: MSER-5 (White 1997). The values are averaged in batches of five and
/// the cut d minimises Σ_{i≥d}(x̄_i − mean)² / (n − d)²; at most a fifth of the values is cut and never more
/// than `most`, since a later change is a step of the rate and no warm-up. Nothing is cut where what would be
/// lies within the noise of the rest, or within one in a hundred of it: a flat run loses nothing.
[[nodiscard]] std::size_t warmupLength(std::span<const double> values, std::size_t most = 20);

struct Interval {
    double centre = 0;
    double low = 0;
    double high = 0;
};

/// Mean with its 95 % Student interval; nothing for fewer than two values.
[[nodiscard]] std::optional<Interval> meanInterval(std::span<const double> values);

/// Mean of values that follow each other evenly in time, with a 95 % interval that allows for their
/// autocorrelation, by a first-order autoregression: r is the correlation of neighbours, corrected for its
/// bias by (1 + 4r)/n (Marriott and Pope 1954), the variance of the mean s²/n · ((1 + r)/(1 − r) − 2r(1 −
/// rⁿ)/(n(1 − r)²)), and Student's t has n(1 − r)/(2(1 + r)) degrees of freedom, at least 1.5. Nothing for
/// fewer than ten values.
[[nodiscard]] std::optional<Interval> seriesInterval(std::span<const double> values);

/// The share `trim` (0–0.49) of the values cut at each end, mean of the rest, with the 95 % interval of Tukey
/// and McLaughlin (1963) from the winsorised variance; nothing where fewer than two values remain.
[[nodiscard]] std::optional<Interval> trimmedInterval(std::span<const double> values, std::size_t cutEachEnd);

/// Two-sided critical value of Student's t: P(|T| > value) = `level`, 0 < level < 1. Fewer than one degree of
/// freedom count as one.
[[nodiscard]] double studentT(double level, double degreesOfFreedom);

} // namespace metrodos::benchmark
