// How honest probabilities are: what was said against how often it was so.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <ostream>

namespace metrodos::testing {

/// Statements in ten bins of what was said.
class Calibration {
  public:
    void add(double said, bool isTrue) {
        Bin& bin = m_bins[std::min<std::size_t>(9, static_cast<std::size_t>(said * 10))];
        bin.said += said;
        bin.right += isTrue ? 1 : 0;
        ++bin.all;
        ++m_statements;
    }
    /// The expected calibration error: the mean distance over all statements.
    [[nodiscard]] double error() const {
        double out = 0;
        for (const Bin& b : m_bins)
            out += std::fabs(b.said - b.right);
        return m_statements == 0 ? 0 : out / m_statements;
    }
    /// A line for each bin that has any.
    void print(std::ostream& out) const {
        for (const Bin& b : m_bins)
            if (b.all > 0)
                out << "  said " << b.said / b.all << ", true " << static_cast<double>(b.right) / b.all
                    << " of " << b.all << '\n';
    }

  private:
    struct Bin {
        double said = 0;
        int right = 0;
        int all = 0;
    };
    std::array<Bin, 10> m_bins;
    int m_statements = 0;
};

} // namespace metrodos::testing
