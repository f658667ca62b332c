// The tests that can be made from here.
#pragma once

#include "trace/diagnose.h"

namespace metrodos::trace {

/// Every test that the route allows: runs as it is, with fewer parts, with parts exchanged, and readings;
/// without expected information yet. What was declined, and what has been done already, is left out.
[[nodiscard]] std::vector<NextTest> candidates(const Case& asked,
                                               const std::vector<Observation>& observations);

} // namespace metrodos::trace
