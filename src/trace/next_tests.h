// Which test would settle most doubt per minute.
#pragma once

#include "trace/candidates.h"
#include "trace/limiters.h"

namespace metrodos::trace {

/// Sets the information that each test is expected to give about the limiter, sorts by it per minute, but for
/// those that have to be made first, and
/// leaves out what would tell next to nothing. The information is that between the limiter and what the test
/// would show, over the particles, in bits, less its bias for their number (Miller and Madow 1955).
[[nodiscard]] std::vector<NextTest> ranked(std::vector<NextTest> tests, const Model& model,
                                           const Answer& answer, const std::vector<Particle>& particles);

/// What the outcomes of a test would mean.
[[nodiscard]] std::vector<Outcome> outcomesOf(const NextTest& test, const Model& model, const Answer& answer,
                                              const std::vector<Particle>& particles);

} // namespace metrodos::trace
