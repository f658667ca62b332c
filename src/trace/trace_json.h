// The diagnosis as a document of format "metrodos-trace", version 1.
#pragma once

#include "trace/diagnose.h"

#include <nlohmann/json_fwd.hpp>

namespace metrodos::trace {

[[nodiscard]] nlohmann::json toJson(const Diagnosis& diagnosis);

} // namespace metrodos::trace
