// The command of metrodos-cli that writes a job in other forms.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// By the ending of the file: the job (.json), a table (.csv), a drawing (.svg, .png), everything (.zip) or a
/// document (.html, .pdf, .md). Returns the program's exit code.
[[nodiscard]] int exportJob(const Arguments& a, const catalog::Catalog& catalog);

} // namespace metrodos::programs
