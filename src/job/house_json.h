// The house as JSON: the "house" object of the interchange form (data/schema/job.json).
#pragma once

#include "house/house.h"
#include "quantity/problem.h"

#include <nlohmann/json_fwd.hpp>

namespace metrodos::job {

[[nodiscard]] nlohmann::json toJson(const house::House& house);

/// Reads what the schema has accepted; a Problem names the field that is still wrong. The references are not
/// checked here (house/validate.h).
[[nodiscard]] quantity::Result<house::House> houseFromJson(const nlohmann::json& value);

} // namespace metrodos::job
