// How exactly the search for plans reckons.
#pragma once

namespace metrodos::weigh {

/// Loads and shares within this of their bound are at it: they are sums of a few dozen doubles near 1, each
/// good to 1e-16.
inline constexpr double loadTolerance = 1e-9;

/// Whether `load` is more than `most` by more than rounding. Both in one unit, not below 0.
[[nodiscard]] inline bool exceeds(double load, double most) {
    return load > most * (1 + loadTolerance);
}

/// What is at least needed, less by the tolerance.
[[nodiscard]] inline double eased(double least) {
    return least * (1 - loadTolerance);
}

/// Whether `got` is less than `least` by more than rounding. Both in one unit, not below 0.
[[nodiscard]] inline bool fallsShort(double got, double least) {
    return got < eased(least);
}

} // namespace metrodos::weigh
