#include "benchmark/rate_steps.h"

#include "benchmark/statistics.h"

#include <algorithm>
#include <cmath>
#include <span>

namespace metrodos::benchmark {
namespace {

constexpr std::size_t minPart = 10; // samples: a second
constexpr std::size_t block = 5;    // samples whose mean is taken as independent of the next
constexpr double minChange = 0.15;
constexpr double minStatistic = 8;
constexpr double maxRampUp = 1.0;    // s
constexpr int deepest = 3;           // 2³ parts
constexpr double minScatter = 0.003; // relative: below, a rate is as even as the clock that times it

// The scatter of block means, from the differences of neighbours: those do not see the levels, only the steps
// between them, and the median not even those.
double scatterOf(std::span<const double> values) {
    std::vector<double> means;
    for (std::size_t i = 0; i + block <= values.size(); i += block)
        means.push_back(mean(values.subspan(i, block)));
    std::vector<double> differences;
    for (std::size_t i = 1; i < means.size(); ++i)
        differences.push_back(std::fabs(means[i] - means[i - 1]));
    if (differences.empty()) return 0;
    constexpr double toDeviation = 1.4826 / 1.4142; // of a normal difference of two
    return toDeviation * quantile(differences, 0.5);
}

class Splitter {
  public:
    explicit Splitter(std::span<const double> values)
        : m_values(values)
        , m_scatter(std::max(scatterOf(values), minScatter * quantile(values, 0.5))) {
        split(0, values.size(), deepest);
    }
    [[nodiscard]] std::vector<std::size_t> cuts() && { return std::move(m_cuts); }

  private:
    // Cuts [begin, end) where the squares about two means are least.
    void split(std::size_t begin, std::size_t end, int depth) {
        if (depth == 0 || end - begin < 2 * minPart) return;
        double whole = 0;
        for (std::size_t i = begin; i < end; ++i)
            whole += m_values[i];
        double left = 0;
        double most = -1;
        std::size_t best = begin;
        for (std::size_t i = begin; i + minPart < end; ++i) {
            left += m_values[i];
            const auto n = static_cast<double>(i + 1 - begin);
            const auto m = static_cast<double>(end - i - 1);
            if (i + 1 - begin < minPart) continue;
            const double difference = left / n - (whole - left) / m;
            if (const double gain = difference * difference * n * m; gain > most) {
                most = gain;
                best = i + 1;
            }
        }
        if (best == begin || !isStep(begin, best, end)) return;
        split(begin, best, depth - 1);
        m_cuts.push_back(best);
        split(best, end, depth - 1);
    }
    [[nodiscard]] bool isStep(std::size_t begin, std::size_t at, std::size_t end) const {
        const double before = mean(m_values.subspan(begin, at - begin));
        const double after = mean(m_values.subspan(at, end - at));
        const double change = std::fabs(before - after);
        const double error =
            m_scatter * std::sqrt(static_cast<double>(block) *
                                  (1 / static_cast<double>(at - begin) + 1 / static_cast<double>(end - at)));
        return change >= minChange * std::max(before, after) && change >= minStatistic * error;
    }

    std::span<const double> m_values;
    double m_scatter;
    std::vector<std::size_t> m_cuts;
};

} // namespace

std::vector<RateStep> rateSteps(const Run& run) {
    // A step early in the run may have been taken for its warm-up: only the first second is left out for
    // sure.
    const double begin = std::min(run.warmupSeconds, maxRampUp);
    std::vector<double> times;
    std::vector<double> values;
    for (const Sample& s : run.samples)
        if (s.t > begin + 1e-9) {
            times.push_back(s.t);
            values.push_back(s.goodputBps);
        }
    if (values.size() < 2 * minPart) return {};
    const std::vector<std::size_t> cuts = Splitter(values).cuts();
    std::vector<RateStep> out;
    const auto level = [&](std::size_t from, std::size_t to) {
        return BitRate::bitsPerSecond(quantile(std::span(values).subspan(from, to - from), 0.5));
    };
    for (std::size_t i = 0; i < cuts.size(); ++i)
        out.push_back({times[cuts[i] - 1], level(i == 0 ? 0 : cuts[i - 1], cuts[i]),
                       level(cuts[i], i + 1 < cuts.size() ? cuts[i + 1] : values.size())});
    // What a part seemed to be while it still held a step may not be one between its neighbours.
    std::erase_if(out, [](const RateStep& s) {
        return std::fabs(s.before.bps() - s.after.bps()) < minChange * std::max(s.before, s.after).bps();
    });
    return out;
}

} // namespace metrodos::benchmark
