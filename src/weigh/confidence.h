// Whether a plan holds when everybody uses it at once: houses like this one are drawn from the beliefs, and
// all flows share what there is.
#pragma once

#include "weigh/plan.h"

namespace metrodos::weigh {

/// The houses that are drawn: as many as a path through the walls has draws (capacity::drawsPerPath), since
/// draw n of all paths is one house, in which what two paths share is the same.
inline constexpr int drawnHouses = 64;

/// Sets the share of houses in which each spot gets all that it needs at once, and that in which all do,
/// which is never more than the least of those; notes what does not hold at the share that was asked for.
/// Max–min fair sharing (capacity::maxMinShares) with the needs as demands, over shared media, the service,
/// and each spot's own way; the same draws for every plan, so that plans can be compared.
void estimateConfidence(const Options& options, Plan& plan);

} // namespace metrodos::weigh
