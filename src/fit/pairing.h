// The order in which adapters of one medium are paired, and what is recorded of it.
#pragma once

#include "house/house.h"

#include <chrono>

namespace metrodos::fit {

/// An adapter waits for another one for so long after its button was pressed.
inline constexpr std::chrono::seconds pairingWindow{120};

/// Two buttons to press, one after the other.
struct PairTurn {
    house::Id first;  ///< a member of the network; of the first turn any of the two
    house::Id second; ///< that joins it
    std::string does; ///< in the imperative
    bool isDone = false;
};

/// The turns over a shared medium by wire, where a plan has put adapters onto it: two of them first where
/// none was there, then each further one beside a member. None for radio, which is joined by its key.
[[nodiscard]] std::vector<PairTurn> pairingOf(const house::House& house, house::Medium medium);

/// The house with a turn done, `at` as ISO 8601 in UTC; or not done, where `at` is empty.
[[nodiscard]] house::House withPaired(const house::House& house, const PairTurn& turn, const std::string& at);

/// The adapters of the medium, in the order of the data.
[[nodiscard]] std::vector<house::Id> adaptersOn(const house::House& house, house::Medium medium);
/// The house with what was proven of the medium's network, on all its adapters.
[[nodiscard]] house::House withPrivacy(const house::House& house, house::Medium medium, bool isPrivate,
                                       const std::string& at);
/// With where its key is kept.
[[nodiscard]] house::House withKeyPlace(const house::House& house, house::Medium medium,
                                        const std::string& place);
/// Where it is kept, by the first adapter that says so.
[[nodiscard]] std::string keyPlaceOf(const house::House& house, house::Medium medium);

} // namespace metrodos::fit
