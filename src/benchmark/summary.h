// One figure for one or several runs in one direction, by the rule that the user chose.
#pragma once

#include "benchmark/run.h"

#include <optional>
#include <string_view>

namespace metrodos::benchmark {

enum class Rule {
    trimmed, ///< best and worst dropped, mean of the rest; with fewer than five runs that is the median
    median,
    mean,
    best,      ///< the fastest run: what it can do
    sustained, ///< the tenth percentile of whole seconds: what can be counted on
};

[[nodiscard]] std::string_view name(Rule rule);
[[nodiscard]] std::optional<Rule> ruleNamed(std::string_view name);

struct Summary {
    Rule rule = Rule::trimmed;
    BitRate goodput;
    std::optional<BitRate> low; ///< 95 % interval; nothing where the runs are too few to tell
    std::optional<BitRate> high;
    int runs = 0;
};

/// Nothing when there are no runs in this direction. Paced runs and those beside others count only where none
/// went freely. With one run the interval comes from its own whole seconds.
[[nodiscard]] std::optional<Summary> summarise(const std::vector<Run>& runs, Direction direction, Rule rule);

/// Sets warmupSeconds and goodput from the samples and the order: the warm-up asked for, or the one found.
void finish(Run& run);

/// Whole seconds of goodput in bit/s after the warm-up.
[[nodiscard]] std::vector<double> wholeSeconds(const Run& run);

} // namespace metrodos::benchmark
