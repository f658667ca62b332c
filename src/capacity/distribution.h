// What is believed about a ceiling before and after measuring: a mixture of two-piece log-normal parts,
// tables of draws and single values.
#pragma once

#include "catalog/catalog.h"

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::capacity {

using catalog::RateSpread;
using quantity::BitRate;

/// A distribution of a rate. Each part has ln q(p) = ln p50 + z(p)/z(0.9) · ln(p90/p50) above the median, and
/// with ln(p50/p10) below it; a part with p10 = p90 is a single value; a part with a table has its quantiles
/// at i / (size − 1) and between them runs evenly in ln. Weights sum to 1. Tails beyond one in two thousand
/// are cut.
class Distribution {
  public:
    struct Part {
        double weight = 1;
        RateSpread spread;
        std::vector<double> table = {}; ///< bit/s, rising; empty: the spread speaks
    };

    /// A point of the cumulative distribution, which runs evenly in ln x between two of them; two with the
    /// same x are a step.
    struct Knot {
        double lnX = 0; ///< of bit/s
        double p = 0;
    };

    static Distribution certain(BitRate value);
    static Distribution of(const RateSpread& spread);
    /// Of draws of a simulation, in bit/s and above 0; at least one. If every draw rises, no quantile falls.
    /// The draws are kept in their order: the n-th is what it is in the n-th house like this one.
    static Distribution ofDraws(std::vector<double> draws);
    /// Weights are scaled to sum to 1; parts of weight ≤ 0 are dropped. At least one part must remain.
    static Distribution mixture(std::vector<Part> parts);

    /// A ceiling with the name that its draws go by: the same thing has the same everywhere.
    struct Named {
        std::string name;
        const Distribution* rate = nullptr;
    };
    /// The least of independent ceilings, at least one, exact up to the knots, with its draws: each the least
    /// of theirs, so that what two such share is shared in the draws.
    static Distribution least(const std::vector<Named>& elements);

    /// P(X ≤ x); the middle of the step at a single value.
    [[nodiscard]] double cdf(double bps) const;
    /// The x with P(X ≤ x) = p, 0 < p < 1.
    [[nodiscard]] double quantile(double p) const;
    [[nodiscard]] RateSpread spread() const { return m_spread; }
    [[nodiscard]] const std::vector<Part>& parts() const { return m_parts; }
    /// From p = 0 to p = 1, at most some hundred.
    [[nodiscard]] const std::vector<Knot>& knots() const { return m_knots; }
    /// The value in the n-th of the houses like this one: the n-th draw, from the first again after the last;
    /// where there are none, a fixed pseudo-random one of `name` and n. Whatever shares a draw's cause has it
    /// in the same n.
    [[nodiscard]] double drawn(std::uint64_t n, std::string_view name) const;
    /// No value above `limit`: what lies above is moved onto it.
    [[nodiscard]] Distribution cappedAt(BitRate limit) const;
    /// Every value times `factor`, above 0.
    [[nodiscard]] Distribution scaledBy(double factor) const;

  private:
    explicit Distribution(std::vector<Part> parts);
    std::vector<Part> m_parts;
    std::vector<Knot> m_knots;
    RateSpread m_spread;
    std::shared_ptr<const std::vector<double>> m_draws; // in their order; nullptr: none
};

/// The least of independent ceilings, which is the ceiling of a route.
struct Least {
    RateSpread spread;
    std::vector<double> limiter; ///< P(element i is the least), in the order given; sums to 1
};

/// Exact up to the knots: over the intervals between the knots of all elements,
/// P(i least) = Σ ΔF_i · Π_{j≠i} (1 − F_j). Empty input gives an empty result.
[[nodiscard]] Least leastOf(const std::vector<Distribution>& elements);
/// The same without copies.
[[nodiscard]] Least leastOf(const std::vector<const Distribution*>& elements);

} // namespace metrodos::capacity
