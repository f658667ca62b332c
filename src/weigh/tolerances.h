// How exactly the search for plans reckons.
#pragma once

namespace metrodos::weigh {

/// Loads and shares within this of their bound are at it: they are sums of a few dozen doubles near 1, each
/// good to 1e-16.
inline constexpr double loadTolerance = 1e-9;

} // namespace metrodos::weigh
