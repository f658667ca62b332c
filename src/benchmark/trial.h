// Plans a trial, and says what of it is done and what comes next.
#pragma once

#include "benchmark/comparison.h"
#include "benchmark/route_runs.h"
#include "quantity/problem.h"

namespace metrodos::benchmark {

/// In which order the places of a trial are measured.
enum class TrialOrder {
    thereAndBack, ///< A B C C B A: what drifts steadily with the hour falls on all alike
    rotating,     ///< A B C, B C A, C A B: each is the first as often as the others
    oneByOne,     ///< A A, B B, C C: the fewest changes of cables; a drift falls on whatever comes last
};

struct TrialPlan {
    std::string label;
    std::vector<house::Id> routes; ///< one, or several
    bool compares = true;          ///< several are alternatives; false: places, one after another
    bool baseline = true;          ///< the machines by one short cable, first
    bool bench = true;             ///< the adapters side by side, where the route has any
    int repeats = 5;               ///< of each place, 1–50
    std::vector<int> streams = {1, 4};
    house::Directions directions = house::Directions::both;
    double seconds = 10;
    TrialOrder order = TrialOrder::thereAndBack; ///< of several that are compared
    double pause = 0;                            ///< seconds of quiet before each run, 0–house::maxPause
};

/// Baseline and bench first, since nothing later can beat them; then the places. Several are interleaved
/// in the order that the plan says; places that are not compared are finished one by one. Fails when a route
/// is not there, there are more than 26, or there is nothing to do.
[[nodiscard]] quantity::Result<house::Trial> planTrial(const house::House& house, const TrialPlan& plan);

/// The trial with every arm once more, in the turn that comes next; as it is where it compares nothing.
[[nodiscard]] house::Trial withOneMoreTurn(const house::Trial& trial);

/// How the route is set up for a step.
[[nodiscard]] Arrangement arrangementOf(const house::TrialStep& step);

/// What a step asks for, in order; runs of "together" belong to one group and stand next to each other.
[[nodiscard]] std::vector<std::vector<RunConfig>> configsOf(const house::TrialStep& step);

/// Those of which no complete run is there yet.
[[nodiscard]] std::vector<std::vector<RunConfig>> configsLeft(const house::TrialStep& step,
                                                              const RouteRuns& runs);

/// Whether enough complete runs of the step are there.
[[nodiscard]] bool isDone(const house::TrialStep& step, const RouteRuns& runs);

/// The first step that is not done; nullptr when all are. After an interruption a trial goes on from here.
[[nodiscard]] const house::TrialStep* nextStep(const house::Trial& trial, const RouteRuns& runs);

/// Seconds of measuring that are left.
[[nodiscard]] double secondsLeft(const house::Trial& trial, const RouteRuns& runs);

} // namespace metrodos::benchmark
