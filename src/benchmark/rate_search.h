// Looks for the loss-free rate of a route: the highest rate of datagrams with hardly any loss (RFC
// 2544, 26.1).
#pragma once

#include "benchmark/run.h"
#include "quantity/problem.h"

#include <functional>
#include <optional>
#include <vector>

namespace metrodos::benchmark {

struct SearchSettings {
    BitRate low = BitRate::megabits(1);
    BitRate high = BitRate::gigabits(1);
    double acceptedLoss =
        0.001; ///< share of the datagrams due; RFC 2544 has 0, which no radio or mains ever meets
    double resolution = 0.01; ///< relative; the search ends when it is this narrow
    int maxTrials = 16;
};

/// One step after another: which pace to try next, given what came of those before. A trial that failed tells
/// how much did arrive, which is where the next one is made; one that passed there is followed by one a
/// little higher, in growing steps; where that leads nowhere the gap is halved.
class RateSearch {
  public:
    explicit RateSearch(const SearchSettings& settings);
    /// Nothing when the search has ended.
    [[nodiscard]] std::optional<BitRate> next() const;
    void tell(BitRate pace, double lossRatio);
    /// The loss-free rate; nothing when none did.
    [[nodiscard]] std::optional<BitRate> best() const { return m_passed; }
    /// The lowest that failed; nothing when the upper end of the search passed: then the route may carry
    /// more.
    [[nodiscard]] std::optional<BitRate> failed() const { return m_failed; }
    [[nodiscard]] int trials() const { return m_trials; }

  private:
    SearchSettings m_settings;
    std::optional<BitRate> m_passed;
    std::optional<BitRate> m_failed;
    std::optional<BitRate> m_guess; ///< a better place for the next trial than the middle
    double m_step = 0;              ///< relative, upwards from a guess that passed
    int m_trials = 0;
};

struct SearchResult {
    std::optional<BitRate> best;
    std::optional<BitRate> failed;
    std::vector<Run> trials;
};

/// The share of the search that is likely to be done after these trials, 0–1: by how far the open range has
/// narrowed from where it began to `resolution`, and at least by the trials that are left.
[[nodiscard]] double doneOf(const SearchSettings& settings, const std::vector<Run>& trials);

/// Runs the search with `run` as the way to make a trial of `order` at a pace. Ends early, with what is
/// known, when a trial comes back incomplete.
[[nodiscard]] quantity::Result<SearchResult>
searchRate(const SearchSettings& settings, RunConfig config,
           const std::function<quantity::Result<Run>(const RunConfig&)>& run);

} // namespace metrodos::benchmark
