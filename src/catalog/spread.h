// Three percentiles of a figure.
#pragma once

#include "quantity/quantity.h"

namespace metrodos::catalog {

/// The tenth, fiftieth and ninetieth percentile of a figure; p10 ≤ p50 ≤ p90.
template <typename T>
struct Spread {
    T p10{};
    T p50{};
    T p90{};

    friend bool operator==(const Spread&, const Spread&) = default;
};
using RateSpread = Spread<quantity::BitRate>;

} // namespace metrodos::catalog
