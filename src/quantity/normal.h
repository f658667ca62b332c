// The normal distribution.
#pragma once

namespace metrodos::quantity {

/// The x with P(X ≤ x) = p for a standard normal X, 0 < p < 1.
[[nodiscard]] double normalQuantile(double p);

} // namespace metrodos::quantity
