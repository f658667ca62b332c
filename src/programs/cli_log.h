// The commands of metrodos-cli that look back: log, compare, schedule, library.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// The runs of a job, oldest first; those of the filter `a.first`.
[[nodiscard]] int logRuns(const Arguments& a);

/// Writes the schedules of a job as iCalendar.
[[nodiscard]] int writeSchedules(const Arguments& a);

/// The jobs of a folder, those with the words of `a.first`, or what its houses say of the classes.
[[nodiscard]] int listLibrary(const Arguments& a, const catalog::Catalog& catalog);
[[nodiscard]] int searchLibrary(const Arguments& a, const catalog::Catalog& catalog);
[[nodiscard]] int countLibrary(const Arguments& a, const catalog::Catalog& catalog);

/// Those of `a.first` against those of `a.second`.
[[nodiscard]] int compareRuns(const Arguments& a);

} // namespace metrodos::programs
