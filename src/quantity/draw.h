// Reproducible chance: the same seed and name always give the same number, in any order of asking.
#pragma once

#include <cstdint>
#include <string_view>

namespace metrodos::quantity {

/// A fixed pseudo-random number in (0, 1) of a seed and a name (SplitMix64 over FNV-1a).
[[nodiscard]] double uniformOf(std::uint64_t seed, std::string_view name);

/// The hash behind it.
[[nodiscard]] std::uint64_t hashOf(std::uint64_t seed, std::string_view name);

/// The n-th of a fixed table of standard normal draws; any n.
[[nodiscard]] double normalDraw(std::uint64_t n);

} // namespace metrodos::quantity
