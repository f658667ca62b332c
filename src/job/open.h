// Reads a job given on a command line: a job file, its interchange form, or a package of everything, told
// apart by content.
#pragma once

#include "job/document.h"

namespace metrodos::job {

[[nodiscard]] quantity::Result<Document> readJob(const std::filesystem::path& file);

/// Every fault of the job in `file`, for `check`; empty when it is sound.
[[nodiscard]] std::vector<quantity::Problem> checkJob(const std::filesystem::path& file);

} // namespace metrodos::job
