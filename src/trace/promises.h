// What was sold for the way against what it carries, and ports that are slower than they need be.
#pragma once

#include "trace/diagnose.h"

namespace metrodos::trace {

/// One sentence on the least that is promised on the way, in each direction that was measured: what is
/// printed on a box, or sold as the service. Empty where nothing was measured or nothing is promised. The
/// number on a box is a rate of its modem or port, not of payload, and the sentence says so.
[[nodiscard]] std::string soldAgainstMeasured(const Case& asked, const Diagnosis& diagnosis);

/// Ports of the way beside which the same box has a free one for the same plug that is made for more: a
/// sentence each. Only ports whose rates the survey knows.
[[nodiscard]] std::vector<std::string> slowPorts(const capacity::RoutePrediction& prediction,
                                                 const house::House& house, const catalog::Catalog& catalog);

} // namespace metrodos::trace
