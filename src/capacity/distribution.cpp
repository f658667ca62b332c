#include "capacity/distribution.h"

#include <algorithm>
#include <cmath>

namespace metrodos::capacity {
namespace {

constexpr double z90 = 1.2815515655446004; // the 90th percentile of the standard normal

double normalCdf(double z) {
    return 0.5 * std::erfc(-z / std::sqrt(2.0));
}

double cdfOf(const RateSpread& s, double bps) {
    if (bps <= 0) return 0;
    const double middle = s.p50.bps();
    if (bps == middle) return 0.5;
    const double edge = bps < middle ? s.p10.bps() : s.p90.bps();
    const double width = std::fabs(std::log(edge / middle));
    if (width < 1e-12) return bps < middle ? 0 : 1;
    return normalCdf(std::log(bps / middle) * z90 / width);
}

} // namespace

Distribution Distribution::certain(BitRate value) {
    return Distribution({{1, {value, value, value}}});
}

Distribution Distribution::of(const RateSpread& spread) {
    return Distribution({{1, spread}});
}

Distribution Distribution::mixture(std::vector<Part> parts) {
    std::erase_if(parts, [](const Part& part) { return !(part.weight > 0); });
    double sum = 0;
    for (const Part& part : parts)
        sum += part.weight;
    for (Part& part : parts)
        part.weight /= sum;
    return Distribution(std::move(parts));
}

double Distribution::cdf(double bps) const {
    double sum = 0;
    for (const Part& part : m_parts)
        sum += part.weight * cdfOf(part.spread, bps);
    return sum;
}

double Distribution::quantile(double p) const {
    double low = 1;
    double high = 1e13;
    for (int i = 0; i < 100 && high / low > 1 + 1e-12; ++i) {
        const double middle = std::sqrt(low * high);
        (cdf(middle) < p ? low : high) = middle;
    }
    return high;
}

RateSpread Distribution::spread() const {
    if (m_parts.size() == 1) return m_parts.front().spread;
    return {BitRate::bitsPerSecond(quantile(0.1)), BitRate::bitsPerSecond(quantile(0.5)),
            BitRate::bitsPerSecond(quantile(0.9))};
}

Distribution Distribution::cappedAt(BitRate limit) const {
    std::vector<Part> parts = m_parts;
    for (Part& part : parts) {
        part.spread.p10 = std::min(part.spread.p10, limit);
        part.spread.p50 = std::min(part.spread.p50, limit);
        part.spread.p90 = std::min(part.spread.p90, limit);
    }
    return Distribution(std::move(parts));
}

Least leastOf(const std::vector<Distribution>& elements) {
    Least out;
    if (elements.empty()) return out;
    constexpr int steps = 48;
    std::vector<double> knots;
    for (const Distribution& element : elements)
        for (const Distribution::Part& part : element.parts()) {
            const Distribution alone = Distribution::of(part.spread);
            if (part.spread.p10 == part.spread.p90) {
                // A single value: an interval just around it catches its whole step.
                knots.push_back(part.spread.p50.bps() * (1 - 1e-9));
                knots.push_back(part.spread.p50.bps() * (1 + 1e-9));
                continue;
            }
            for (int k = 0; k <= steps; ++k)
                knots.push_back(alone.quantile(0.0005 + 0.999 * k / steps));
        }
    std::sort(knots.begin(), knots.end());
    knots.insert(knots.begin(), knots.front() * 0.1);
    knots.push_back(knots.back() * 10);

    const std::size_t n = elements.size();
    out.limiter.assign(n, 0.0);
    std::vector<double> before(n, 0.0);
    std::vector<double> after(n, 0.0);
    double cumulative = 0; // P(least ≤ upper end)
    const std::array<double, 3> wanted{0.1, 0.5, 0.9};
    std::array<double, 3> found{};
    std::size_t next = 0;
    double lower = knots.front();
    for (std::size_t i = 0; i < n; ++i)
        before[i] = elements[i].cdf(lower);
    for (std::size_t k = 1; k < knots.size(); ++k) {
        const double upper = knots[k];
        if (upper <= lower) continue;
        double survive = 1;
        for (std::size_t i = 0; i < n; ++i) {
            after[i] = elements[i].cdf(upper);
            survive *= 1 - after[i];
        }
        for (std::size_t i = 0; i < n; ++i) {
            const double step = after[i] - before[i];
            if (step <= 0) continue;
            double others = 1;
            for (std::size_t j = 0; j < n; ++j)
                if (j != i) others *= 1 - 0.5 * (before[j] + after[j]);
            out.limiter[i] += step * others;
        }
        const double reached = 1 - survive;
        while (next < wanted.size() && reached >= wanted[next]) {
            const double share =
                reached > cumulative ? (wanted[next] - cumulative) / (reached - cumulative) : 1;
            found[next++] = lower * std::pow(upper / lower, std::clamp(share, 0.0, 1.0));
        }
        cumulative = reached;
        lower = upper;
        std::swap(before, after);
    }
    while (next < wanted.size())
        found[next++] = lower;
    out.spread = {BitRate::bitsPerSecond(found[0]), BitRate::bitsPerSecond(found[1]),
                  BitRate::bitsPerSecond(found[2])};
    double sum = 0;
    for (const double p : out.limiter)
        sum += p;
    if (sum > 0)
        for (double& p : out.limiter)
            p /= sum;
    return out;
}

} // namespace metrodos::capacity
