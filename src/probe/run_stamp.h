// What tells runs apart and says when they were.
#pragma once

#include <string>

namespace metrodos::probe {

/// "run-" and 64 random bits.
[[nodiscard]] std::string newRunId();
/// Now as ISO 8601 in UTC, to the second.
[[nodiscard]] std::string utcNow();

} // namespace metrodos::probe
