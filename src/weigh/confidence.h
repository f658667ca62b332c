// Whether a plan holds when everybody uses it at once: houses like this one are drawn from the beliefs, and
// all flows share what there is.
#pragma once

#include "weigh/plan.h"

namespace metrodos::weigh {

/// Sets the share of houses in which each spot gets all that it needs, and notes what does not hold at the
/// share that was asked for. Max–min fair sharing (capacity::maxMinShares) with the needs as demands; the
/// same draws for every plan, so that plans can be compared.
void estimateConfidence(const Options& options, Plan& plan, int houses = 200);

} // namespace metrodos::weigh
