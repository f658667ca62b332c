// The commands of metrodos-cli that measure: between two endpoints, many, or with datagrams at their highest
// pace.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// Each returns the program's exit code. The signals of Ctrl-C must be blocked before: they end a run in
/// order.
[[nodiscard]] int endpoints(const Arguments& a, const catalog::Catalog& catalog);
[[nodiscard]] int find(const Arguments& a);
[[nodiscard]] int measure(const Arguments& a);
[[nodiscard]] int service(const Arguments& a);
[[nodiscard]] int watch(const Arguments& a);
[[nodiscard]] int search(const Arguments& a);
[[nodiscard]] int matrix(const Arguments& a);
[[nodiscard]] int copy(const Arguments& a);

} // namespace metrodos::programs
