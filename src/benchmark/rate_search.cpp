#include "benchmark/rate_search.h"

#include "quantity/format.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

namespace metrodos::benchmark {
namespace {

// Just below what arrived: at exactly that pace the queue would still overflow now and then.
constexpr double belowArrived = 0.995;

} // namespace

RateSearch::RateSearch(const SearchSettings& settings)
    : m_settings(settings) {}

std::optional<BitRate> RateSearch::next() const {
    if (m_trials >= m_settings.mostTrials) return std::nullopt;
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

quantity::Result<SearchResult> searchRate(const SearchSettings& settings, RunOrder order,
                                          const std::function<quantity::Result<Run>(const RunOrder&)>& run) {
    RateSearch search(settings);
    SearchResult out;
    order.protocol = Protocol::udp;
    order.streams = 1;
    while (const auto pace = search.next()) {
        order.rate = *pace;
        auto trial = run(order);
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

std::string sentence(const SearchResult& result, const SearchSettings& settings, double seconds) {
    const std::string loss = quantity::significant(settings.acceptedLoss * 100, 2) + " % loss";
    const std::string trials = std::to_string(result.trials.size()) +
                               (result.trials.size() == 1 ? " trial of " : " trials of ") +
                               quantity::significant(seconds, 2) + " s";
    if (!result.best)
        return result.failed
                   ? "no pace down to " + plain(*result.failed) + " had at most " + loss + " in " + trials
                   : std::string("the search was stopped before it found anything");
    if (!result.failed)
        return plain(*result.best) + " had at most " + loss +
               "; that is the upper end of the search, so the route may carry more";
    return plain(*result.best) + " is the highest pace with at most " + loss + ", found in " + trials + "; " +
           plain(*result.failed) + " lost more";
}

nlohmann::json searchDocument(const SearchResult& result, const SearchSettings& settings) {
    using nlohmann::json;
    const auto orNull = [](const std::optional<BitRate>& r) { return r ? json(r->bps()) : json(nullptr); };
    json trials = json::array();
    bool simulated = false;
    for (const Run& run : result.trials) {
        const double shortfall = run.datagrams ? run.datagrams->shortfall() : 1;
        simulated = simulated || run.simulated;
        trials.push_back({{"rate_bps", orNull(run.order.rate)},
                          {"goodput_bps", run.goodput.bps()},
                          {"shortfall", shortfall},
                          {"passed", shortfall <= settings.acceptedLoss}});
    }
    return {{"format", "metrodos-search"},
            {"version", 1},
            {"simulated", simulated},
            {"started_at", result.trials.empty() ? std::string() : result.trials.front().startedAt},
            {"accepted_loss", settings.acceptedLoss},
            {"best_bps", orNull(result.best)},
            {"failed_bps", orNull(result.failed)},
            {"trials", std::move(trials)}};
}

} // namespace metrodos::benchmark
