// What rate a run of data cable links at: category, length, pairs (ISO/IEC 11801-1, IEEE 802.3).
#pragma once

#include "catalog/catalog.h"

#include <optional>
#include <vector>

namespace metrodos::capacity {

/// One possible outcome of autonegotiation between two ports that support everything.
struct LinkChance {
    const catalog::Phy* phy = nullptr; ///< nullptr: no link
    double probability = 0;
};

/// The rates that the run may link at, by falling rate, probabilities summing to 1. `category` nullptr:
/// unknown (the catalog's shares are used), `length` nothing: the catalog's unknown length, `pairs` nothing:
/// not measured (the catalog's chance of a lost pair is used, times that of the ends; short leads of up to 3
/// m are taken as sound). `termination` nullptr: nobody looked at the ends.
[[nodiscard]] std::vector<LinkChance> linkChances(const catalog::Catalog& catalog,
                                                  const catalog::CableCategory* category,
                                                  std::optional<quantity::Length> length,
                                                  std::optional<int> pairs,
                                                  const catalog::Termination* termination = nullptr);

} // namespace metrodos::capacity
