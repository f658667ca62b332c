// A good choice of ways without the programme: where its search begins, and what is left if its time is over.
#pragma once

#include "weigh/program.h"

namespace metrodos::weigh {

/// Changes one spot at a time for the better, by the goals in their order, until none gets better. Keeps to
/// the most load asked for. Always a choice that can be; not always the best.
[[nodiscard]] std::vector<Pick> improvedChoice(const Options& options, const Prices& prices,
                                               const SolveRequest& request);

} // namespace metrodos::weigh
