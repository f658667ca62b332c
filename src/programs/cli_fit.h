// The commands of metrodos-cli that fit the chosen plan.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// The steps, in the order of the work. Returns the program's exit code.
[[nodiscard]] int fitHouse(const Arguments& a, const catalog::Catalog& catalog);

/// The address plan into `a.to`: .csv, .hosts or .conf. What clashes is said on stderr.
[[nodiscard]] int writeAddresses(const Arguments& a);

/// Labels into `a.to`: .pdf or .csv. Their codes are recorded in a job file, so that they stay.
[[nodiscard]] int writeLabels(const Arguments& a);

} // namespace metrodos::programs
