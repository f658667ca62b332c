// Which runs say something about a route: those that went over it.
#pragma once

#include "benchmark/run.h"
#include "capacity/predict.h"

#include <optional>
#include <string>

namespace metrodos::trace {

/// Why a run says nothing of this route, as a clause: "it went over radio (wlan0) and the route is cable".
/// The interfaces that the kernels of both ends used, and their counters, tell. Nothing where it speaks of
/// the route; simulated runs do.
[[nodiscard]] std::optional<std::string> saysNothing(const benchmark::Run& run,
                                                     const capacity::RoutePrediction& prediction);

} // namespace metrodos::trace
