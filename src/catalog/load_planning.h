// Reads planning.json. Internal to the layer: throws Problem.
#pragma once

#include "catalog/entry.h"
#include "catalog/planning.h"

namespace metrodos::catalog {

[[nodiscard]] Planning readPlanning(const std::filesystem::path& file);

} // namespace metrodos::catalog
