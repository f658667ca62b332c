#include "trace/limiter.h"

#include <algorithm>
#include <cmath>

namespace metrodos::trace {
namespace {

using capacity::Distribution;

constexpr double reachesAtLeast = 0.95; // a run's goodput as a share of the least ceiling
constexpr double reachesAtMost = 1.02;
constexpr double unlistedPrior = 0.05;
constexpr double unlistedFrom = 1e6; // bit/s

double logSpan(double low, double high) {
    return std::log(high / low);
}

} // namespace

double binaryEntropy(double p) {
    if (p <= 0 || p >= 1) return 0;
    return -p * std::log2(p) - (1 - p) * std::log2(1 - p);
}

std::vector<double> limiterGiven(const std::vector<Distribution>& ceilings,
                                 std::optional<quantity::BitRate> measured) {
    const std::size_t n = ceilings.size();
    const capacity::Least least = capacity::leastOf(ceilings);
    std::vector<double> p(n + 1, 0.0);
    if (!measured || measured->bps() <= 0) {
        for (std::size_t i = 0; i < n; ++i)
            p[i] = least.limiter[i] * (1 - unlistedPrior);
        p[n] = unlistedPrior;
        return p;
    }
    // The least ceiling lies between these, if an element of the list is what limits.
    const double low = measured->bps() / reachesAtMost;
    const double high = measured->bps() / reachesAtLeast;
    double all = 1; // P(no ceiling below low)
    for (std::size_t i = 0; i < n; ++i)
        all *= 1 - ceilings[i].cdf(low);
    for (std::size_t i = 0; i < n; ++i) {
        const double inside = ceilings[i].cdf(high) - ceilings[i].cdf(low);
        double others = 1;
        for (std::size_t j = 0; j < n; ++j)
            if (j != i) others *= 1 - 0.5 * (ceilings[j].cdf(low) + ceilings[j].cdf(high));
        p[i] = (1 - unlistedPrior) * inside * others;
    }
    const double top = std::max(least.spread.p90.bps(), measured->bps() * 1.1);
    const double span = logSpan(std::min(unlistedFrom, measured->bps() / 10), top);
    // A result above all that the ceilings allow comes from outside the list as well: it must not vanish.
    p[n] = unlistedPrior * std::max(all, 1e-6) * logSpan(low, high) / span;
    double sum = 0;
    for (const double x : p)
        sum += x;
    for (double& x : p)
        x /= sum;
    return p;
}

double informationOfRun(const std::vector<Distribution>& ceilings) {
    const capacity::Least least = capacity::leastOf(ceilings);
    const auto entropy = [](const std::vector<double>& p) {
        double sum = 0;
        for (const double x : p)
            if (x > 0) sum -= x * std::log2(x);
        return sum;
    };
    // Outcomes: steps of a tenth between what is hardly ever undercut and hardly ever exceeded.
    const double from = least.spread.p10.bps() * 0.3;
    const double to = least.spread.p90.bps() * 1.5;
    double expected = 0;
    double mass = 0;
    double before = 0;
    for (double x = from; x < to; x *= 1.1) {
        double survive = 1;
        for (const Distribution& ceiling : ceilings)
            survive *= 1 - ceiling.cdf(x * 1.1);
        const double reached = 1 - survive;
        const double p = reached - before;
        before = reached;
        if (p < 1e-4) continue;
        mass += p;
        expected += p * entropy(limiterGiven(ceilings, quantity::BitRate::bitsPerSecond(x * 1.05 * 0.985)));
    }
    if (mass <= 0) return 0;
    return std::max(0.0, entropy(limiterGiven(ceilings, std::nullopt)) - expected / mass);
}

} // namespace metrodos::trace
