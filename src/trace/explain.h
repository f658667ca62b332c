// Observations in words.
#pragma once

#include "trace/diagnose.h"

namespace metrodos::trace {

/// "4 streams forward, the machines joined by one short cable: 941 Mbit/s (3 runs); a core of the sender was
/// full".
[[nodiscard]] std::string describe(const Observation& observation,
                                   const capacity::RoutePrediction& prediction, const house::Id& askedRoute);

/// What the runs cannot all mean, and what they do not say.
[[nodiscard]] std::vector<std::string> contradictions(const Case& asked);

} // namespace metrodos::trace
