// What each kind of step is called and how it is done: the measures that matter, what to see before going on,
// and what to do when it is not seen. Internal to the layer.
#pragma once

#include "fit/steps.h"

namespace metrodos::fit {

struct StepText {
    std::string_view name; ///< begins the ids of its steps
    std::vector<std::string> measures;
    std::string before;
    std::string otherwise;
};
[[nodiscard]] const StepText& textOf(StepKind kind);

} // namespace metrodos::fit
