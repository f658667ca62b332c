// Which test would settle most doubt per minute.
#pragma once

#include "trace/diagnose.h"

namespace metrodos::trace {

/// `probability` is per element of the prediction, with what is unlisted as its last entry. At most four
/// tests; those that would tell less than a hundredth of a bit are left out.
[[nodiscard]] std::vector<NextTest> nextTests(const capacity::RoutePrediction& prediction,
                                              const std::vector<double>& probability,
                                              const std::vector<benchmark::Run>& runs);

} // namespace metrodos::trace
