// The choice of ways as an integer programme, solved by CBC.
#pragma once

#include "weigh/plan.h"

#include <stop_token>

namespace metrodos::weigh {

/// What is made as small as it can be; the earlier goals go before the later ones.
enum class Goal {
    carry,    ///< needs that are not carried; of those, by how much they fall short
    cost,     ///< of all parts and labour
    unsteady, ///< sum of 1 − steadiness
    holes,
    load,  ///< of the fullest thing, ports and uplinks included: 1 / load is the worst headroom
    decay, ///< sum of 1 / years
};

struct SolveRequest {
    std::vector<Goal> goals;
    double maxLoad = std::numeric_limits<double>::infinity(); ///< Plan::load, at most
    double seconds = 20;                                      ///< that one goal may take
    /// What Goal::carry reached before, which then need not be found out again; and a choice that reaches it.
    std::optional<double> uncarried = {};
    double carryGap = 0; ///< and the gap that was left of it
    const struct Solution* start = nullptr;
    /// Where to begin otherwise; empty: anywhere.
    std::vector<Pick> near = {};
};

struct Solution {
    std::vector<Pick> picks;
    double uncarried = 0;       ///< the value of Goal::carry
    std::vector<double> values; ///< of the programme's columns, to begin another search with
    double carryGap = 0;        ///< of Goal::carry, as below
    double gap =
        0; ///< the largest of the goals': how far below the best bound proven lies; 0: nothing is better
};

/// A Problem when nothing is possible at all, when stopped, or when no answer was found in time.
[[nodiscard]] quantity::Result<Solution> solve(const Options& options, const Prices& prices,
                                               const SolveRequest& request, const std::stop_token& stop = {});

} // namespace metrodos::weigh
