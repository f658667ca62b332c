// What the shape of a result says: flat at a port's rate, streams against one, delay under load, the
// impossible.
#pragma once

#include "trace/diagnose.h"

namespace metrodos::trace {

/// One reading of the runs. It speaks of an element, or of the measurement as a whole (a warning).
struct Reading {
    std::string element; ///< empty: a warning
    std::string text;
    bool isFarBelow = false; ///< the runs lie far below every ceiling
};

/// Why a run of the route cannot be: more than a port of known rate carries. Nothing when it can.
[[nodiscard]] std::optional<std::string> impossibility(const capacity::RoutePrediction& prediction,
                                                       const benchmark::Run& run);

[[nodiscard]] std::vector<Reading> readSignatures(const capacity::RoutePrediction& prediction,
                                                  const catalog::Catalog& catalog,
                                                  const std::vector<benchmark::Run>& runs);

} // namespace metrodos::trace
