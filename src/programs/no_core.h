// Programs that hold keys leave none of them behind in a core dump.
#pragma once

#include <fstream>
#include <sys/resource.h>

namespace metrodos::programs {

/// No core is written, and one that a handler of the system asks for all the same (core(5): a pipe heeds no
/// limit) has none of this process's memory in it. Call first in main.
inline void leaveNoCore() {
    const rlimit none{0, 0};
    (void)::setrlimit(RLIMIT_CORE, &none);
    std::ofstream("/proc/self/coredump_filter") << "0x0";
}

} // namespace metrodos::programs
