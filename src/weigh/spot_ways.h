// The ways to one spot. Internal to the layer; options.h says what comes of it.
#pragma once

#include "weigh/measured.h"

namespace metrodos::weigh {

/// Every way of the catalog from the hub's room to a spot, the impossible ones with the reason.
[[nodiscard]] std::vector<SpotWay> waysTo(const house::House& house, const catalog::Catalog& catalog,
                                          const house::Id& hubRoom, const house::Spot& spot,
                                          const std::vector<Measured>& measured);

} // namespace metrodos::weigh
