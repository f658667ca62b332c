// Who runs this program, as others are told: "anna@laptop".
#pragma once

#include <string>

namespace metrodos::probe {

/// Account and host name of this machine; either may be "?" where the system does not know it.
[[nodiscard]] std::string ownAccount();

} // namespace metrodos::probe
