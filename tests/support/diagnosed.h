// What is said of the first route of a house after these runs.
#pragma once

#include "capacity/predict.h"
#include "support/classes.h"
#include "trace/diagnose.h"

namespace metrodos::testing {

inline trace::Diagnosis diagnosed(const house::House& h, const std::vector<benchmark::Run>& runs) {
    const auto prediction = capacity::predict(h, classes(), h.routes[0]).value();
    return trace::diagnose({prediction, h, classes(), runs});
}

} // namespace metrodos::testing
