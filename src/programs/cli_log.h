// The commands of metrodos-cli that look back: log, compare.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// The runs of a job, oldest first; those of the filter `a.first`.
[[nodiscard]] int logRuns(const Arguments& a);

/// Those of `a.first` against those of `a.second`.
[[nodiscard]] int compareRuns(const Arguments& a);

} // namespace metrodos::programs
