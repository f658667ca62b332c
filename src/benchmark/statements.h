// How good our statements were: limits that were named with a probability before something was exchanged, and
// what the runs after the exchange said.
#pragma once

#include "benchmark/route_runs.h"
#include "benchmark/summary.h"

namespace metrodos::benchmark {

enum class Fate { open, held, refuted };

struct Statement {
    std::string text; ///< what was exchanged
    std::string at;   ///< ISO 8601, UTC
    house::Id route;
    double said = 0;     ///< probability, 0–1
    bool isPlan = false; ///< that the plan carries every need; else that the thing was the limit
    Fate fate = Fate::open;
    std::string sentence; ///< what the runs say
};

/// The thing that says, in DatedChange, that a plan was chosen: `said` is its chance to carry every need.
inline constexpr std::string_view planThing = "plan";

/// A limit held where the way is really faster after its exchange, and is refuted where it is not: the same,
/// or slower. A plan held where every stated need of a route was met by the runs after it, and is refuted
/// where one was not. What nobody measured after is open.
[[nodiscard]] std::vector<Statement> statementsOf(const house::House& house, const RouteRuns& runs,
                                                  Rule rule);

/// Of the statements with probabilities in one span, how many held.
struct Calibration {
    double from = 0; ///< of the span
    double to = 0;
    int count = 0; ///< that are not open
    int held = 0;
    double meanSaid = 0;
    double low = 0; ///< 95 % interval of the share that held (Wilson 1927)
    double high = 1;
};
/// Spans of a tenth, those with statements only.
[[nodiscard]] std::vector<Calibration> calibrationOf(const std::vector<Statement>& statements);

/// In one sentence: of what was said with so much, how many held.
[[nodiscard]] std::string sentenceOf(const std::vector<Calibration>& calibration);

} // namespace metrodos::benchmark
