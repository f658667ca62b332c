// How a probability is said.
#pragma once

#include <string>

namespace metrodos::trace {

/// "86 %"; from 0.995 on ">99 %", since nothing that is measured is certain.
[[nodiscard]] std::string probabilityText(double probability);

} // namespace metrodos::trace
