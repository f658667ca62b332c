// The normal distribution.
#pragma once

namespace metrodos::quantity {

/// The x with P(X ≤ x) = p for a standard normal X, 0 < p < 1: P. J. Acklam's rational approximation,
/// relative error below 1.2e-9.
[[nodiscard]] double normalQuantile(double p);

} // namespace metrodos::quantity
