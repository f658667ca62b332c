// One thing on a path through a plant and what it takes away.
#pragma once

#include "catalog/plant.h"
#include "house/survey.h"

#include <optional>
#include <string>
#include <vector>

namespace metrodos::capacity {

struct Contribution {
    house::Id id; ///< of the thing; empty: of the path as a whole
    std::string label;
    catalog::Spread<double> lossDb;
    std::optional<double> costBps; ///< what the path would carry more without it; nothing: not asked for
};

/// A change that would help, with what it would bring.
struct Improvement {
    house::Id id;
    std::string does; ///< imperative: "screw an entry filter onto …"
    double gainDb = 0;
    quantity::BitRate carriesAfter; ///< median
};

/// Carried where there is no link: logarithms of rates are taken everywhere, so that 0 will not do.
inline constexpr double noLinkBps = 1;

/// How many draws stand for what is not known of a path.
inline constexpr int drawsPerPath = 64;

/// The value of a spread at probability u: straight lines through its three points, between 0.02 and 0.98.
[[nodiscard]] inline double valueAt(const catalog::Spread<double>& s, double u) {
    const double p = u < 0.02 ? 0.02 : u > 0.98 ? 0.98 : u;
    const double value =
        p < 0.5 ? s.p50 - (s.p50 - s.p10) * (0.5 - p) / 0.4 : s.p50 + (s.p90 - s.p50) * (p - 0.5) / 0.4;
    return value < 0 ? 0 : value;
}

/// Tenth, fiftieth and ninetieth percentile of draws; at least one.
[[nodiscard]] catalog::Spread<double> spreadOfDraws(std::vector<double> draws);

} // namespace metrodos::capacity
