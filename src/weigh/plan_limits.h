// Why needs of a plan are not met, and whether it is the wiring or the service. Internal to the layer.
#pragma once

#include "weigh/plan.h"

namespace metrodos::weigh {

/// Sets limits, isFed and headroom of the spots, carriesAll and wiringCarriesAll, and notes where the service
/// is the limit.
void addLimits(Plan& plan, const Options& options, const std::vector<Demand>& demands);

} // namespace metrodos::weigh
