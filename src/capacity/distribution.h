// What is believed about a ceiling before and after measuring: a mixture of two-piece log-normal parts.
#pragma once

#include "catalog/catalog.h"

#include <vector>

namespace metrodos::capacity {

using catalog::RateSpread;
using quantity::BitRate;

/// A distribution of a rate. Each part has ln q(p) = ln p50 + z(p)/z(0.9) · ln(p90/p50) above the median, and
/// with ln(p50/p10) below it; a part with p10 = p90 is a single value. Weights sum to 1.
class Distribution {
  public:
    struct Part {
        double weight = 1;
        RateSpread spread;
    };

    static Distribution certain(BitRate value);
    static Distribution of(const RateSpread& spread);
    /// Weights are scaled to sum to 1; parts of weight ≤ 0 are dropped. At least one part must remain.
    static Distribution mixture(std::vector<Part> parts);

    /// P(X ≤ x); the middle of the step at a single value.
    [[nodiscard]] double cdf(double bps) const;
    /// The x with P(X ≤ x) = p, 0 < p < 1.
    [[nodiscard]] double quantile(double p) const;
    [[nodiscard]] RateSpread spread() const;
    [[nodiscard]] const std::vector<Part>& parts() const { return m_parts; }
    /// No value above `limit`: what lies above is moved onto it.
    [[nodiscard]] Distribution cappedAt(BitRate limit) const;

  private:
    explicit Distribution(std::vector<Part> parts)
        : m_parts(std::move(parts)) {}
    std::vector<Part> m_parts;
};

/// The least of independent ceilings, which is the ceiling of a route.
struct Least {
    RateSpread spread;
    std::vector<double> limiter; ///< P(element i is the least), in the order given; sums to 1
};

/// Exact up to the grid: for intervals between the quantiles of all elements,
/// P(i least) = Σ ΔF_i · Π_{j≠i} (1 − F_j). Empty input gives an empty result.
[[nodiscard]] Least leastOf(const std::vector<Distribution>& elements);

} // namespace metrodos::capacity
