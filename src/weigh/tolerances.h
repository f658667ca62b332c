// How exactly the search for plans reckons.
#pragma once

namespace metrodos::weigh {

/// Loads and shares within this of their bound are at it: they are sums of a few dozen doubles near 1, each
/// good to 1e-16.
inline constexpr double loadTolerance = 1e-9;

/// Whether a load is more than what there is (both in the same unit).
[[nodiscard]] inline bool exceeds(double load, double most) {
    return load > most * (1 + loadTolerance);
}

/// What is at least needed, less by the tolerance.
[[nodiscard]] inline double eased(double least) {
    return least * (1 - loadTolerance);
}

/// Whether there is less than what is needed (both in the same unit).
[[nodiscard]] inline bool fallsShort(double got, double least) {
    return got < eased(least);
}

} // namespace metrodos::weigh
