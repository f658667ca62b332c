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

/// {"element", "how"} each.
[[nodiscard]] nlohmann::json toJson(const std::vector<Alteration>& altered);
/// The member "altered" of an object, empty where it has none; nothing: it is not of that form.
[[nodiscard]] std::optional<std::vector<Alteration>> readAltered(const nlohmann::json& value);
inline constexpr std::size_t longestElement = 130; ///< bytes of an element's id: device, dot, port

/// The whole document with its summary by `rule`.
[[nodiscard]] nlohmann::json measurementDocument(const std::vector<Run>& runs, Rule rule);

} // namespace metrodos::benchmark
