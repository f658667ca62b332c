// The chosen plan made real: the house as it will be, with what has still to be fitted noted (fit/steps.h),
// and the trial that proves it.
#pragma once

#include "weigh/plan.h"

namespace metrodos::weigh {

struct AppliedPlan {
    house::House house; ///< with adapters, cables, routes from the service to the spots, and the trial
    house::Id trial;    ///< empty: no spot has a machine to run to
    std::vector<house::Id> routes; ///< to the spots
};

/// Boxes and cables that are there already are used; the plan is noted as the chosen one. A Problem when the
/// plan is not of these options, or when the hub has no box that something can be plugged into.
[[nodiscard]] quantity::Result<AppliedPlan> applyPlan(const house::House& house,
                                                      const catalog::Catalog& catalog, const Options& options,
                                                      const Plan& plan);

} // namespace metrodos::weigh
