#include "benchmark/histogram.h"

#include <algorithm>
#include <cmath>

namespace metrodos::benchmark {
namespace {

constexpr double minTenthMs = 0.1;
constexpr double greatest = 1e9;
const double width = std::log(1.01);
const std::size_t classes = static_cast<std::size_t>(std::ceil(std::log(greatest / minTenthMs) / width)) + 1;

} // namespace

LogHistogram::LogHistogram()
    : m_classes(classes, 0) {}

void LogHistogram::add(double value) {
    const double bounded = std::clamp(value, minTenthMs, greatest);
    const auto index = static_cast<std::size_t>(std::log(bounded / minTenthMs) / width);
    ++m_classes[std::min(index, m_classes.size() - 1)];
    ++m_count;
    m_most = std::max(m_most, value);
}

void LogHistogram::clear() {
    std::fill(m_classes.begin(), m_classes.end(), 0U);
    m_count = 0;
    m_most = 0;
}

std::optional<double> LogHistogram::quantile(double p) const {
    if (m_count == 0) return std::nullopt;
    const double wanted = std::clamp(p, 0.0, 1.0) * static_cast<double>(m_count - 1);
    std::uint64_t seen = 0;
    for (std::size_t i = 0; i < m_classes.size(); ++i) {
        seen += m_classes[i];
        if (static_cast<double>(seen) > wanted)
            return std::min(m_most, minTenthMs * std::exp((static_cast<double>(i) + 0.5) * width));
    }
    return m_most;
}

std::optional<Percentiles> LogHistogram::percentiles() const {
    if (m_count < 3) return std::nullopt;
    return Percentiles{*quantile(0.5), *quantile(0.95), quantile(0.99), m_most};
}

} // namespace metrodos::benchmark
