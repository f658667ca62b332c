// Why MSER-5 for the warm-up and not a fixed number of seconds: slow start over 200 µs is over in one sample,
// over 80 ms with a cold radio in thirty. It cuts where the standard error of the rest is least, which needs
// no threshold (White 1997; batches of five: White, Cobb and Spratt 2000). Cost: samples² / 50, a few hundred
// samples.
#include "benchmark/statistics.h"

#include <boost/math/distributions/students_t.hpp>
#include <boost/math/statistics/univariate_statistics.hpp>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>
#include <utility>

namespace metrodos::benchmark {
namespace {

double variance(std::span<const double> values) { // divided by their number
    return boost::math::statistics::variance(values.begin(), values.end());
}

} // namespace

double quantile(std::span<const double> values, double p) {
    std::vector<double> sorted(values.begin(), values.end());
    std::sort(sorted.begin(), sorted.end());
    const double at = std::clamp(p, 0.0, 1.0) * static_cast<double>(sorted.size() - 1);
    const auto below = static_cast<std::size_t>(at);
    const std::size_t above = std::min(below + 1, sorted.size() - 1);
    return std::lerp(sorted[below], sorted[above], at - static_cast<double>(below));
}

double mean(std::span<const double> values) {
    return std::accumulate(values.begin(), values.end(), 0.0) / static_cast<double>(values.size());
}

double standardDeviation(std::span<const double> values) {
    return std::sqrt(boost::math::statistics::sample_variance(values.begin(), values.end()));
}

std::size_t warmupLength(std::span<const double> values, std::size_t most) {
    constexpr std::size_t batch = 5;
    constexpr std::size_t atMost = 5; // of so many values one is cut
    const std::size_t batches = values.size() / batch;
    if (batches < 4) return 0;
    std::vector<double> means;
    for (std::size_t i = 0; i < batches; ++i)
        means.push_back(mean(values.subspan(i * batch, batch)));
    std::size_t best = 0;
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t d = 0; d <= std::min(batches / atMost, most / batch); ++d) {
        const std::span<const double> rest = std::span(means).subspan(d);
        const double statistic = variance(rest) / static_cast<double>(rest.size());
        if (statistic < least) {
            least = statistic;
            best = d;
        }
    }
    if (best == 0) return 0;
    // What is cut must differ from the rest by more than its noise and by more than matters.
    const std::span<const double> rest = std::span(means).subspan(best);
    const double centre = mean(rest);
    const double noise = std::sqrt(variance(rest) / static_cast<double>(best));
    const double off = std::fabs(mean(std::span(means).first(best)) - centre);
    constexpr double sure = 3;
    constexpr double matters = 0.01;
    return off > sure * noise && off > matters * std::fabs(centre) ? best * batch : 0;
}

double studentT(double level, double degreesOfFreedom) {
    // It takes microseconds, and comparisons ask for the same few thousands of times.
    constexpr std::size_t most = 4096;
    thread_local std::map<std::pair<double, double>, double> known;
    if (known.size() == most) known.clear();
    const double freedom = std::max(1.0, degreesOfFreedom); // 1 also for what is no number
    const auto [hit, isNew] = known.try_emplace({level, freedom});
    if (isNew)
        hit->second =
            boost::math::quantile(boost::math::complement(boost::math::students_t(freedom), level / 2));
    return hit->second;
}

std::optional<Interval> seriesInterval(std::span<const double> values) {
    constexpr std::size_t fewest = 10;
    constexpr double leastFreedom = 1.5; // a correlation near its bound is too uncertain to tell less
    constexpr double highest = 0.985;    // of the correlation: beyond, a series of a run is one value
    if (values.size() < fewest) return std::nullopt;
    const auto n = static_cast<double>(values.size());
    const double centre = mean(values);
    const double spread = variance(values);
    if (spread == 0) return Interval{centre, centre, centre};
    double neighbours = 0;
    for (std::size_t i = 1; i < values.size(); ++i)
        neighbours += (values[i] - centre) * (values[i - 1] - centre);
    double r = neighbours / (spread * n);
    r = std::clamp(r + (1 + 4 * r) / n, 0.0, highest);
    const double time = (1 + r) / (1 - r); // values that are worth one
    const double share = (time - 2 * r * (1 - std::pow(r, n)) / (n * (1 - r) * (1 - r))) / n;
    // What the mean itself varies is missing from the spread around it.
    const double whole = spread / std::max(1 - share, 0.02);
    const double half = studentT(0.05, std::max(leastFreedom, n / (2 * time))) * std::sqrt(whole * share);
    return Interval{centre, centre - half, centre + half};
}

std::optional<Interval> meanInterval(std::span<const double> values) {
    return trimmedInterval(values, 0);
}

std::optional<Interval> trimmedInterval(std::span<const double> values, std::size_t cut) {
    if (values.size() < 2 * cut + 2) return std::nullopt;
    std::vector<double> sorted(values.begin(), values.end());
    std::sort(sorted.begin(), sorted.end());
    const std::size_t n = sorted.size();
    const std::size_t kept = n - 2 * cut;
    const double centre = mean(std::span(sorted).subspan(cut, kept));
    std::vector<double> winsorised = sorted;
    for (std::size_t i = 0; i < cut; ++i) {
        winsorised[i] = sorted[cut];
        winsorised[n - 1 - i] = sorted[n - 1 - cut];
    }
    // Standard error: sqrt(SSD_w / (h (h − 1))) with h values kept.
    const auto h = static_cast<double>(kept);
    const double squares = variance(winsorised) * static_cast<double>(n);
    const double half = studentT(0.05, static_cast<double>(kept - 1)) * std::sqrt(squares / (h * (h - 1)));
    return Interval{centre, centre - half, centre + half};
}

} // namespace metrodos::benchmark
