// The steps that a house asks for, without what was recorded of them. Internal to the layer.
#pragma once

#include "fit/steps.h"

namespace metrodos::fit {

[[nodiscard]] std::vector<Step> deriveSteps(const house::House& house, const catalog::Catalog& catalog);

} // namespace metrodos::fit
