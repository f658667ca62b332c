// What tells runs apart and says when they were.
#pragma once

#include "quantity/moment.h"

#include <string>

namespace metrodos::probe {

/// "run-" and 64 random bits.
[[nodiscard]] std::string newRunId();
using quantity::utcNow;

} // namespace metrodos::probe
