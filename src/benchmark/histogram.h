// Quantiles of a stream of positive figures in constant memory.
#pragma once

#include "benchmark/run.h"

#include <cstdint>
#include <optional>
#include <vector>

namespace metrodos::benchmark {

/// Counts in logarithmic classes of 1 % width from 0.1 to 10⁹, so that a quantile is wrong by at most 0.5 %
/// however long it counts. What lies outside is counted in the outermost classes; the greatest is kept as it
/// is.
class LogHistogram {
  public:
    LogHistogram();
    void add(double value);
    void clear();
    [[nodiscard]] std::uint64_t count() const { return m_count; }
    /// 0 ≤ p ≤ 1; nothing while empty.
    [[nodiscard]] std::optional<double> quantile(double p) const;
    /// Nothing for fewer than three figures.
    [[nodiscard]] std::optional<Percentiles> percentiles() const;

  private:
    std::vector<std::uint32_t> m_classes;
    std::uint64_t m_count = 0;
    double m_most = 0;
};

} // namespace metrodos::benchmark
