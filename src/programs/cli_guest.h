// The command that makes a device with a browser the other end of a run.
#pragma once

#include "programs/cli_files.h"

namespace metrodos::programs {

/// Shows an address with a code, waits for a device to open it, does the runs that were ordered with it and
/// prints a measurement for each. Returns the program's exit code; as the other commands that measure it
/// wants the signals of Ctrl-C blocked.
[[nodiscard]] int guest(const Arguments& a);

} // namespace metrodos::programs
