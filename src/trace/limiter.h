// Bayes' rule over "which element is the least", given what was measured in one direction.
#pragma once

#include "capacity/distribution.h"

#include <optional>
#include <vector>

namespace metrodos::trace {

/// P(element i limits | goodput measured), and as the last entry P(something else does). The elements'
/// ceilings are independent; a run reaches 0.95 to 1.02 of the least of them. What is not on the list holds
/// back one route in twenty, anywhere between 1 Mbit/s and what the elements allow, even on a logarithmic
/// scale. Without a measurement: the prior.
[[nodiscard]] std::vector<double> limiterGiven(const std::vector<capacity::Distribution>& ceilings,
                                               std::optional<quantity::BitRate> measured);

/// The mutual information between the limiter and the goodput of a run not yet made, in bits.
[[nodiscard]] double informationOfRun(const std::vector<capacity::Distribution>& ceilings);

/// Entropy of a yes-or-no question, in bits.
[[nodiscard]] double binaryEntropy(double p);

} // namespace metrodos::trace
