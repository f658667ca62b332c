// One belief about the logarithm of a figure, fast to ask: a single value, or a table of its distribution.
#pragma once

#include "capacity/distribution.h"

#include <vector>

namespace metrodos::trace {

/// Values closer than this in ln are the same value: a hundredth of a per cent.
inline constexpr double sameValue = 1e-4;

class Curve {
  public:
    /// The single value `lnX`.
    static Curve at(double lnX);
    static Curve of(const capacity::Distribution::Part& part);
    static Curve of(const capacity::Distribution& distribution);
    static Curve of(const catalog::RateSpread& spread);

    [[nodiscard]] bool single() const { return m_cells.empty(); }
    /// The single value; for a table its lowest.
    [[nodiscard]] double lowest() const { return m_from; }
    /// P(ln X ≥ lnX).
    [[nodiscard]] double above(double lnX) const {
        if (m_cells.empty()) return m_from >= lnX - sameValue ? 1 : 0;
        return 1 - below(lnX);
    }
    /// P(low < ln X < high); of a table only.
    [[nodiscard]] double mass(double low, double high) const {
        return high <= low ? 0 : below(high) - below(low);
    }
    /// The value that the share `u` of what lies between the bounds is below; the nearer bound where nothing
    /// is.
    [[nodiscard]] double draw(double low, double high, double u) const;

  private:
    [[nodiscard]] double below(double lnX) const {
        const double place = (lnX - m_from) * m_perCell;
        if (place <= 0) return 0;
        const auto cell = static_cast<std::size_t>(place);
        if (cell + 1 >= m_cells.size()) return 1;
        return m_cells[cell] + (m_cells[cell + 1] - m_cells[cell]) * (place - static_cast<double>(cell));
    }

    double m_from = 0;
    double m_perCell = 0;
    std::vector<double> m_cells; ///< P(ln X ≤ from + i / perCell), rising from 0 to 1
};

} // namespace metrodos::trace
