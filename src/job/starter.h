// What a new job begins with.
#pragma once

#include "house/house.h"

namespace metrodos::job {

/// Two machines with a cable between them, and a route to measure: to be filled in from there.
[[nodiscard]] house::House starterHouse();

} // namespace metrodos::job
