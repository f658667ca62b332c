// Why MSER-5 for the warm-up and not a fixed number of seconds: slow start over 200 µs is over in one sample,
// over 80 ms with a cold radio in thirty. It cuts where the standard error of the rest is least, which needs
// no threshold (White 1997; batches of five: White, Cobb and Spratt 2000). Cost: samples² / 50, a few hundred
// samples.
#include "benchmark/statistics.h"

#include "quantity/normal.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace metrodos::benchmark {

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
    const double centre = mean(values);
    double squares = 0;
    for (const double value : values)
        squares += (value - centre) * (value - centre);
    return std::sqrt(squares / (static_cast<double>(values.size()) - 1));
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
    double least = -1;
    for (std::size_t d = 0; d <= std::min(batches / atMost, most / batch); ++d) {
        const std::span<const double> rest = std::span(means).subspan(d);
        const double centre = mean(rest);
        double sum = 0;
        for (const double m : rest)
            sum += (m - centre) * (m - centre);
        const auto n = static_cast<double>(rest.size());
        const double statistic = sum / (n * n);
        if (least < 0 || statistic < least) {
            least = statistic;
            best = d;
        }
    }
    if (best == 0) return 0;
    // What is cut must differ from the rest by more than its noise and by more than matters.
    const std::span<const double> rest = std::span(means).subspan(best);
    const double centre = mean(rest);
    double squares = 0;
    for (const double m : rest)
        squares += (m - centre) * (m - centre);
    const double noise = std::sqrt(squares / static_cast<double>(rest.size()) / static_cast<double>(best));
    const double off = std::fabs(mean(std::span(means).first(best)) - centre);
    constexpr double sure = 3;
    constexpr double matters = 0.01;
    return off > sure * noise && off > matters * std::fabs(centre) ? best * batch : 0;
}

double studentT975(double df) {
    static constexpr std::array<double, 30> table{12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306,
                                                  2.262,  2.228, 2.201, 2.179, 2.160, 2.145, 2.131, 2.120,
                                                  2.110,  2.101, 2.093, 2.086, 2.080, 2.074, 2.069, 2.064,
                                                  2.060,  2.056, 2.052, 2.048, 2.045, 2.042};
    if (df <= 1) return table[0];
    if (df < static_cast<double>(table.size())) {
        const auto below = static_cast<std::size_t>(df);
        const double low = 1 / static_cast<double>(below);
        const double high = 1 / static_cast<double>(below + 1);
        return std::lerp(table[below - 1], table[below], (low - 1 / df) / (low - high));
    }
    // Cornish–Fisher expansion of the t quantile around the normal one.
    const double z = 1.959964;
    return z + (z * z * z + z) / (4 * df);
}

double studentT(double level, double df) {
    const double n = std::max(1.0, df);
    constexpr double pi = 3.14159265358979323846;
    // One and two degrees are known exactly; between whole ones of so few, even in 1 / degrees.
    if (n < 3) {
        const double two = std::sqrt(2 / (level * (2 - level)) - 2);
        const double low = n < 2 ? std::cos(level * pi / 2) / std::sin(level * pi / 2) : two;
        const double high = n < 2 ? two : studentT(level, 3);
        const double whole = std::floor(n);
        return high + (low - high) * (1 / n - 1 / (whole + 1)) / (1 / whole - 1 / (whole + 1));
    }
    const double a = 1 / (n - 0.5);
    const double b = 48 / (a * a);
    double c = ((20700 * a / b - 98) * a - 16) * a + 96.36;
    const double d = ((94.5 / (b + c) - 3) / b + 1) * std::sqrt(a * pi / 2) * n;
    double y = std::pow(d * level, 2 / n);
    if (y > 0.05 + a) {
        // The normal quantile of level / 2, and Cornish and Fisher's terms around it.
        const double x = -quantity::normalQuantile(level / 2);
        y = x * x;
        if (n < 5) c += 0.3 * (n - 4.5) * (x + 0.6);
        c += (((0.05 * d * x - 5) * x - 7) * x - 2) * x + b;
        y = (((((0.4 * y + 6.3) * y + 36) * y + 94.5) / c - y - 3) / b + 1) * x;
        y = a * y * y;
        y = y > 0.002 ? std::exp(y) - 1 : 0.5 * y * y + y;
    } else {
        y = ((1 / (((n + 6) / (n * y) - 0.089 * d - 0.822) * (n + 2) * 3) + 0.5 / (n + 4)) * y - 1) *
                (n + 1) / (n + 2) +
            1 / y;
    }
    return std::sqrt(n * y);
}

std::optional<Interval> seriesInterval(std::span<const double> values) {
    constexpr std::size_t fewest = 10;
    constexpr double leastFreedom = 1.5; // a correlation near its bound is too uncertain to tell less
    constexpr double highest = 0.985;    // of the correlation: beyond, a series of a run is one value
    if (values.size() < fewest) return std::nullopt;
    const auto n = static_cast<double>(values.size());
    const double centre = mean(values);
    double squares = 0;
    double neighbours = 0;
    for (std::size_t i = 0; i < values.size(); ++i) {
        squares += (values[i] - centre) * (values[i] - centre);
        if (i > 0) neighbours += (values[i] - centre) * (values[i - 1] - centre);
    }
    if (squares <= 0) return Interval{centre, centre, centre};
    double r = neighbours / squares;
    r = std::clamp(r + (1 + 4 * r) / n, 0.0, highest);
    const double time = (1 + r) / (1 - r); // values that are worth one
    const double share = (time - 2 * r * (1 - std::pow(r, n)) / (n * (1 - r) * (1 - r))) / n;
    // What the mean itself varies is missing from the spread around it.
    const double variance = squares / n / std::max(1 - share, 0.02);
    const double half = studentT975(std::max(leastFreedom, n / (2 * time))) * std::sqrt(variance * share);
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
    const double winsorisedMean = mean(winsorised);
    double squares = 0;
    for (const double w : winsorised)
        squares += (w - winsorisedMean) * (w - winsorisedMean);
    // Standard error: sqrt(SSD_w / (h (h − 1))) with h values kept.
    const auto h = static_cast<double>(kept);
    const double half = studentT975(static_cast<double>(kept - 1)) * std::sqrt(squares / (h * (h - 1)));
    return Interval{centre, centre - half, centre + half};
}

} // namespace metrodos::benchmark
