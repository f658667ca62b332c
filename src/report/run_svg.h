// A run drawn over its time.
#pragma once

#include "benchmark/run.h"

#include <string>

namespace metrodos::report {

/// Goodput by tenths of a second from 0 on, the warm-up shaded, the summary as a line across.
[[nodiscard]] std::string toSvg(const benchmark::Run& run, const std::string& title);

} // namespace metrodos::report
