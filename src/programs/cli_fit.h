// The commands of metrodos-cli that fit the chosen plan.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// The steps, in the order of the work. Returns the program's exit code.
[[nodiscard]] int fitHouse(const Arguments& a, const catalog::Catalog& catalog);

} // namespace metrodos::programs
