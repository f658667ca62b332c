#include "benchmark/delay_statistics.h"

#include "benchmark/statistics.h"

#include <algorithm>

namespace metrodos::benchmark {
namespace {

constexpr std::size_t maxSpikesKept = 20;
constexpr std::size_t maxRecent = 4096; // if nobody takes them
constexpr double spikeFactor = 3;
constexpr double spikeAboveUs = 5000;

} // namespace

void DelayStatistics::add(double t, double rttUs) {
    m_all.add(rttUs);
    if (m_recent.size() < maxRecent) m_recent.push_back(rttUs);
    if (m_highest.size() < maxSpikesKept) {
        m_highest.push_back({t, rttUs});
    } else if (const auto least = std::ranges::min_element(m_highest, {}, &DelaySpike::rttUs);
               least->rttUs < rttUs) {
        *least = {t, rttUs};
    }
}

void DelayStatistics::clear() {
    m_all.clear();
    m_highest.clear();
    m_recent.clear();
    m_lost = 0;
}

std::vector<DelaySpike> DelayStatistics::spikes() const {
    std::vector<DelaySpike> out;
    const double median = m_all.quantile(0.5).value_or(0);
    for (const DelaySpike& s : m_highest)
        if (s.rttUs > spikeFactor * median && s.rttUs > median + spikeAboveUs) out.push_back(s);
    std::ranges::sort(out, {}, &DelaySpike::t);
    return out;
}

std::optional<double> DelayStatistics::takeMedian() {
    if (m_recent.empty()) return std::nullopt;
    const double median = quantile(m_recent, 0.5);
    m_recent.clear();
    return median;
}

std::optional<Percentiles> percentilesOf(const std::vector<double>& rttsUs) {
    if (rttsUs.size() < 3) return std::nullopt;
    return Percentiles{quantile(rttsUs, 0.5), quantile(rttsUs, 0.95)};
}

double roundTripsPerMinute(double rttUs) {
    return 60e6 / std::max(rttUs, 1.0);
}

std::optional<double> queueBytes(const Run& run) {
    if (!run.rttIdleUs || !run.rttLoadedUs || run.rttLoadedUs->p50 <= run.rttIdleUs->p50) return std::nullopt;
    return (run.rttLoadedUs->p50 - run.rttIdleUs->p50) * 1e-6 * run.goodput.bps() / 8;
}

} // namespace metrodos::benchmark
