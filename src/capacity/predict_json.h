// The prediction as a document of format "metrodos-prediction", version 1.
#pragma once

#include "capacity/predict.h"

#include <nlohmann/json_fwd.hpp>

namespace metrodos::capacity {

/// {"p10_bps", "p50_bps", "p90_bps"}
[[nodiscard]] nlohmann::json toJson(const RateSpread& spread);

/// limiter_probability is the mean of both directions.
[[nodiscard]] nlohmann::json toJson(const std::vector<RoutePrediction>& routes);

} // namespace metrodos::capacity
