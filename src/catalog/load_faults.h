// Reads faults.json. Internal to the layer: throws Problem.
#pragma once

#include "catalog/entry.h"
#include "catalog/faults.h"

namespace metrodos::catalog {

[[nodiscard]] FaultCatalog readFaults(const std::filesystem::path& file);

} // namespace metrodos::catalog
