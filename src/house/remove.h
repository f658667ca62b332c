// Takes one thing out of the survey with all that refers to it.
#pragma once

#include "house/house.h"
#include "quantity/problem.h"

namespace metrodos::house {

/// A room goes only when nothing is in it; with anything else its cable ends come loose, ports are unplugged,
/// endpoints, routes and the service that stood on it go too. Fails when there is no such thing.
[[nodiscard]] quantity::Result<House> without(const House& house, const Id& thing);

} // namespace metrodos::house
