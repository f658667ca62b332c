// Runs as documents of format "metrodos-measurement", version 1.
#pragma once

#include "benchmark/summary.h"
#include "quantity/problem.h"

#include <nlohmann/json_fwd.hpp>
#include <vector>

namespace metrodos::benchmark {

[[nodiscard]] nlohmann::json toJson(const Sample& sample);
[[nodiscard]] nlohmann::json toJson(const Run& run);
/// All of it but "samples".
[[nodiscard]] nlohmann::json headToJson(const Run& run);

/// Samples column by column, {"t_s": […], "goodput_bps": […], …}: a third of the size of one object each. A
/// column that no sample has is left out.
[[nodiscard]] nlohmann::json seriesToJson(const std::vector<Sample>& samples);
[[nodiscard]] quantity::Result<std::vector<Sample>> seriesFromJson(const nlohmann::json& value);

/// Every field is checked; figures must be finite and in range, at most 40,000 samples.
[[nodiscard]] quantity::Result<Sample> sampleFromJson(const nlohmann::json& value);
[[nodiscard]] quantity::Result<Run> runFromJson(const nlohmann::json& value);
/// Without its samples, whether the document has them or not.
[[nodiscard]] quantity::Result<Run> headFromJson(const nlohmann::json& value);

/// The whole document with its summary by `rule`.
[[nodiscard]] nlohmann::json measurementDocument(const std::vector<Run>& runs, Rule rule);

} // namespace metrodos::benchmark
