// One figure for one or several runs in one direction, by the rule that the user chose.
#pragma once

#include "benchmark/run.h"

#include "house/survey.h"

#include <optional>
#include <string_view>

namespace metrodos::benchmark {

using Rule = house::SummaryRule;

/// What a rule makes of repeated runs, and what that is good for: one sentence.
[[nodiscard]] std::string_view explanation(Rule rule);

struct Summary {
    Rule rule = Rule::trimmed;
    BitRate goodput;
    std::optional<BitRate> low; ///< 95 % interval; nothing where the runs are too few to tell
    std::optional<BitRate> high;
    BitRate least; ///< of the slowest run that counts
    BitRate most;  ///< of the fastest
    int runs = 0;
    int streams = 0; ///< that all of them had; 0: they differ
    int leftOut = 0; ///< runs of the direction that do not speak for its capacity: fewer streams, too short
};

/// What was done with so many runs by a rule: "median", "mean without best and worst" …
[[nodiscard]] std::string_view appliedRule(Rule rule, int runs);

/// Nothing when there are no runs in this direction. Paced runs and those beside others count only where none
/// went freely. With one run the interval comes from its own whole seconds.
[[nodiscard]] std::optional<Summary> summarise(const std::vector<Run>& runs, Direction direction, Rule rule);

/// The same of the runs with the most streams and at least five samples: the figure that speaks for what the
/// direction can carry.
[[nodiscard]] std::optional<Summary> capacitySummary(const std::vector<Run>& runs, Direction direction,
                                                     Rule rule);

/// How many more runs are likely to tell whether the figure is above `need`, from the spread so far: 0 where
/// its interval lies on one side of it already; nothing where there are fewer than two runs, the rule has no
/// interval, or fifty more would not do.
[[nodiscard]] std::optional<int> runsToSettle(const Summary& summary, BitRate need);

/// What one run counts for by a rule: its goodput, or of `sustained` the tenth percentile of its seconds.
[[nodiscard]] BitRate figureOf(const Run& run, Rule rule);

/// Sets warmupSeconds and goodput from the samples and the order: the warm-up asked for, or the one found.
void finish(Run& run);

/// Whole seconds of goodput in bit/s after the warm-up.
[[nodiscard]] std::vector<double> wholeSeconds(const Run& run);

} // namespace metrodos::benchmark
