#include "benchmark/welch.h"

#include "benchmark/statistics.h"

#include <algorithm>
#include <cmath>

namespace metrodos::benchmark {

Welch welch(std::span<const double> a, std::span<const double> b, double level) {
    const auto na = static_cast<double>(a.size());
    const auto nb = static_cast<double>(b.size());
    const double va = std::pow(standardDeviation(a), 2);
    const double vb = std::pow(standardDeviation(b), 2);
    const double ea = va / na;
    const double eb = vb / nb;
    const double error2 = ea + eb;
    const double freedom =
        error2 <= 0 ? na + nb - 2 : error2 * error2 / (ea * ea / (na - 1) + eb * eb / (nb - 1));
    return {mean(b) - mean(a), studentT(level, std::max(freedom, 1.0)) * std::sqrt(error2), va + vb};
}

} // namespace metrodos::benchmark
