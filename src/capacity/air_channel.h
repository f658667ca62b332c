// What a radio link carries: the baseline that wires have to beat, by class, distance, walls and stations.
#pragma once

#include "capacity/distribution.h"

#include <optional>
#include <vector>

namespace metrodos::capacity {

struct AirQuestion {
    BitRate negotiated; ///< of the class, near by
    std::optional<quantity::Length> distance;
    std::optional<int> walls;
    std::optional<int> stations;
};

/// How two rooms lie to each other, as far as floors and buildings tell: distance and walls, the floors
/// between included.
[[nodiscard]] AirQuestion airBetween(const catalog::AirModel& model, const house::Room& a,
                                     const house::Room& b);

struct AirForecast {
    Distribution rate = Distribution::certain(BitRate::bitsPerSecond(1)); ///< one total for both directions
    std::vector<std::string> arithmetic;
};

/// goodput = negotiated × near share × 2^(−excess / halving) / stations, excess = 10·n·log10(d / reference) +
/// walls in dB, not below 0.
[[nodiscard]] AirForecast airForecast(const catalog::AirModel& model, const AirQuestion& question);

} // namespace metrodos::capacity
