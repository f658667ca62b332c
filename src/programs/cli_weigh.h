// The command of metrodos-cli that plans a house.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// Returns the program's exit code.
[[nodiscard]] int weighHouse(const Arguments& a, const catalog::Catalog& catalog);

} // namespace metrodos::programs
