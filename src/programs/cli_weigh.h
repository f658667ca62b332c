// The command of metrodos-cli that plans a house.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// Each returns the program's exit code. The second one writes the plan of the job's objective as Markdown.
[[nodiscard]] int weighHouse(const Arguments& a, const catalog::Catalog& catalog);
[[nodiscard]] int exportPlan(const Arguments& a, const catalog::Catalog& catalog);

} // namespace metrodos::programs
