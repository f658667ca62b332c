// What a machine says of itself as a sheet for people: what is, and beside it what could be or what was
// before.
#pragma once

#include "probe/machine.h"

namespace metrodos::probe {

struct FactRow {
    std::string port;  ///< name of the interface; empty: of the machine
    std::string what;  ///< "Link", "Processor"
    std::string now;   ///< "1 Gbit/s, full-duplex"; "not told" where it is not known
    std::string other; ///< "both ends could 2.5 Gbit/s"; empty: there is nothing to say

    friend bool operator==(const FactRow&, const FactRow&) = default;
};

/// Rows of the machine first, then those of each port. `before`: an earlier reading of the same machine, for
/// what has been counted since.
[[nodiscard]] std::vector<FactRow> sheetOf(const MachineFacts& facts, const MachineFacts* before = nullptr);

} // namespace metrodos::probe
