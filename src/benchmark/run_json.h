// Runs as documents of format "metrodos-measurement", version 1.
#pragma once

#include "benchmark/summary.h"
#include "quantity/problem.h"

#include <nlohmann/json_fwd.hpp>
#include <vector>

namespace metrodos::benchmark {

[[nodiscard]] nlohmann::json toJson(const Sample& sample);
[[nodiscard]] nlohmann::json toJson(const Run& run);

/// Every field is checked; figures must be finite and in range, at most 40,000 samples.
[[nodiscard]] quantity::Result<Sample> sampleFromJson(const nlohmann::json& value);
[[nodiscard]] quantity::Result<Run> runFromJson(const nlohmann::json& value);

/// The whole document with its summary by `rule`.
[[nodiscard]] nlohmann::json measurementDocument(const std::vector<Run>& runs, Rule rule);

} // namespace metrodos::benchmark
