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

struct AirForecast {
    Distribution rate = Distribution::certain(BitRate::bitsPerSecond(1)); ///< one total for both directions
    std::vector<std::string> arithmetic;
};

/// goodput = negotiated × near share × 2^(−excess / halving) / stations, excess = 10·n·log10(d / reference) +
/// walls in dB, not below 0.
[[nodiscard]] AirForecast airForecast(const catalog::AirModel& model, const AirQuestion& question);

} // namespace metrodos::capacity
