// What of a run's order is not as usual: what a reader has to know before he compares its figure with
// another.
#pragma once

#include "benchmark/run.h"

#include <string>
#include <vector>

namespace metrodos::benchmark {

/// "congestion control reno", "window of 256 kB", … in the words of the field; empty where all was left to
/// the system. Streams, length and protocol have places of their own wherever a run is shown.
[[nodiscard]] std::vector<std::string> orderedOtherwise(const RunConfig& config);

} // namespace metrodos::benchmark
