// Simulated runs that go on at the same time take capacity from one another where their ways meet.
#pragma once

#include "standin/flow_model.h"

#include <vector>

namespace metrodos::standin {

/// The share of each element that is left for `mine` beside the others: what they do not use, but at least an
/// equal part among those that pass it. Use is air time: rate ÷ what the element carries for that flow, as of
/// each one's last tenth of a second. From step to step this tends to max–min fairness.
[[nodiscard]] std::vector<double> sharesLeft(const FlowModel& mine,
                                             const std::vector<const FlowModel*>& others);

} // namespace metrodos::standin
