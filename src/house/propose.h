// The routes that a surveyed house asks for and has not got yet.
#pragma once

#include "house/house.h"

#include <vector>

namespace metrodos::house {

/// From every machine to the service, and between machines: those that a need speaks of first, then the rest
/// of at most maxPairs pairs that cables or media join already. Each with the needs that the spots of the
/// survey state for it, towards `to` as forward. Ids are free in the house, and differ from each other.
[[nodiscard]] std::vector<Route> proposedRoutes(const House& house);

/// A route between two ends, endpoints or the service, with its label, a free id and the needs that the spots
/// state for it.
[[nodiscard]] Route routeBetween(const House& house, const Id& from, const Id& to);

inline constexpr std::size_t maxPairs = 12; ///< more are made by hand

} // namespace metrodos::house
