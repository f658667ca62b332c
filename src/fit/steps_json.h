// Steps as a document of format "metrodos-steps", version 1.
#pragma once

#include "fit/expect.h"

#include <nlohmann/json_fwd.hpp>

namespace metrodos::fit {

/// With what is expected and was measured, and what is no longer needed.
[[nodiscard]] nlohmann::json stepsDocument(const house::House& house, const catalog::Catalog& catalog,
                                           const benchmark::RouteRuns& runs);

} // namespace metrodos::fit
