// Finds every fault in a house's data: dangling references, doubled ids, impossible figures.
#pragma once

#include "house/house.h"
#include "quantity/problem.h"

#include <vector>

namespace metrodos::house {

/// All faults, in the order of the data; empty when the house can be used. Names of catalog classes are not
/// checked here (catalog/check.h does).
[[nodiscard]] std::vector<quantity::Problem> validate(const House& house);

/// Longest text and largest counts that a house may hold, so that bad input cannot exhaust the machine.
inline constexpr std::size_t maxItems = 5000;
inline constexpr std::size_t maxLabel = 200;
inline constexpr std::size_t maxNetworks = 100;
inline constexpr std::size_t maxAddresses = 1000;

} // namespace metrodos::house
