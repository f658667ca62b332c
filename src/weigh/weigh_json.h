// Plans as documents of format "metrodos-plans", version 1.
#pragma once

#include "weigh/objectives.h"

#include <nlohmann/json_fwd.hpp>

namespace metrodos::weigh {

/// Best first by the chosen objective. Beyond the contract each plan says its holes, steadiness, years,
/// proof and `sound_share`, as carried_share where nothing is wrong; each spot the ways that it could take or
/// why not.
[[nodiscard]] nlohmann::json toJson(const Options& options, const Prices& prices, const Weighed& weighed,
                                    Objective first);

} // namespace metrodos::weigh
