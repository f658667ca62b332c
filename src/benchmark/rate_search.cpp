#include "benchmark/rate_search.h"

#include <algorithm>
#include <cmath>

namespace metrodos::benchmark {
namespace {

// Just below what arrived: at exactly that pace the queue would still overflow now and then.
constexpr double belowArrived = 0.995;

} // namespace

RateSearch::RateSearch(const SearchSettings& settings)
    : m_settings(settings) {}

std::optional<BitRate> RateSearch::next() const {
    if (m_trials >= m_settings.maxTrials) return std::nullopt;
    if (m_trials == 0) return m_settings.high;
    if (!m_failed) return std::nullopt; // the upper end passed
    const double low = m_passed.value_or(m_settings.low).bps();
    const double high = m_failed->bps();
    if (m_passed && high <= low * (1 + m_settings.resolution)) return std::nullopt;
    if (!m_passed && high <= m_settings.low.bps()) return std::nullopt; // the lower end failed
    if (m_guess && m_guess->bps() > low && m_guess->bps() < high) return m_guess;
    // Rates are spread over decades: the middle is the geometric one, and at last the lower end itself.
    const double middle = std::sqrt(low * high);
    if (!m_passed && middle < low * (1 + m_settings.resolution)) return BitRate::bitsPerSecond(low);
    return BitRate::bitsPerSecond(middle);
}

void RateSearch::tell(BitRate pace, double lossRatio) {
    ++m_trials;
    const bool guessed = m_guess.has_value();
    m_guess.reset();
    if (lossRatio <= m_settings.acceptedLoss) {
        m_passed = std::max(m_passed.value_or(pace), pace);
        if (!guessed) return;
        m_step = m_step == 0 ? m_settings.resolution * 0.99 : m_step * 3;
        m_guess = pace * (1 + m_step);
        return;
    }
    m_step = 0;
    m_failed = std::min(m_failed.value_or(pace), pace);
    // A pace above one that failed before does not pass; what passed above it was luck.
    if (m_passed && *m_passed >= *m_failed) m_passed.reset();
    m_guess =
        BitRate::bitsPerSecond(std::max(pace.bps() * (1 - lossRatio) * belowArrived, m_settings.low.bps()));
}

double doneOf(const SearchSettings& settings, const std::vector<Run>& trials) {
    RateSearch search(settings);
    for (const Run& trial : trials)
        if (trial.config.rate && trial.datagrams)
            search.tell(*trial.config.rate, trial.datagrams->shortfall());
    const double low = search.best().value_or(settings.low).bps();
    const double high = search.failed().value_or(settings.high).bps();
    const double narrow = std::log(1 + settings.resolution);
    const double whole = std::log(settings.high.bps() / settings.low.bps()) - narrow;
    const double open = std::log(high / low) - narrow;
    const double byRange = whole > 0 ? 1 - open / whole : 1;
    const double byCount = static_cast<double>(trials.size()) / std::max(settings.maxTrials, 1);
    return std::clamp(std::max(byRange, byCount), 0.0, 1.0);
}

quantity::Result<SearchResult> searchRate(const SearchSettings& settings, RunConfig config,
                                          const std::function<quantity::Result<Run>(const RunConfig&)>& run) {
    RateSearch search(settings);
    SearchResult out;
    config.protocol = Protocol::udp;
    config.streams = 1;
    while (const auto pace = search.next()) {
        config.rate = *pace;
        auto trial = run(config);
        if (!trial) return tl::unexpected(trial.error());
        const bool usable = trial->complete && trial->datagrams;
        if (usable) search.tell(*pace, trial->datagrams->shortfall());
        out.trials.push_back(std::move(*trial));
        if (!usable) break;
    }
    out.best = search.best();
    out.failed = search.failed();
    return out;
}

} // namespace metrodos::benchmark
