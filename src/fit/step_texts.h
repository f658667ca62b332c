// How each kind of step is done: the measures that matter, what to see before going on, and what to do when
// it is not seen. Internal to the layer.
#pragma once

#include "fit/steps.h"

namespace metrodos::fit {

struct StepText {
    std::vector<std::string> measures;
    std::string before;
    std::string otherwise;
};
[[nodiscard]] const StepText& textOf(StepKind kind);

} // namespace metrodos::fit
