// What a way costs by itself, and which of the ways with the same id to show first.
#pragma once

#include "weigh/plan.h"

namespace metrodos::weigh {

struct WayCost {
    Money each;                        ///< its own parts and work
    std::map<std::string, Money> once; ///< what spots on this way share, by key, the box at the hub with it

    [[nodiscard]] Money first() const; ///< all that is paid once
};
/// At the book's prices; what is in the van costs the same here.
[[nodiscard]] WayCost costOf(const SpotWay& way, const Prices& prices);

/// What one way takes by itself, at the book's prices: its own parts, those that are paid once for all on it
/// (their label says so), the cheapest box for the hub where one is needed, and the work.
[[nodiscard]] std::vector<PartLine> partsOf(const SpotWay& way, const Prices& prices);

/// One way of each id, as indices: `chosen` if it is one of them (−1: none is); otherwise the cheapest that
/// carries the need; otherwise the one that carries most of it. The possible ones come first.
[[nodiscard]] std::vector<std::size_t> oneOfEach(const SpotOptions& spot, const Options& options,
                                                 const Prices& prices, int chosen);
/// Every way, those with the same id behind one another in the order of the first of them; the possible ones
/// come first.
[[nodiscard]] std::vector<std::size_t> eachOfThem(const SpotOptions& spot);

} // namespace metrodos::weigh
