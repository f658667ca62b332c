// What a way costs by itself, and which of the ways with the same id to show first.
#pragma once

#include "weigh/options.h"
#include "weigh/price_book.h"

namespace metrodos::weigh {

struct WayCost {
    Money each;                        ///< its own parts and work
    std::map<std::string, Money> once; ///< what spots on this way share, by key, the box at the hub with it

    [[nodiscard]] Money first() const; ///< all that is paid once
};
/// At the book's prices; what is in the van costs the same here.
[[nodiscard]] WayCost costOf(const SpotWay& way, const Prices& prices);

/// One way of each id, as indices: `chosen` if it is one of them (−1: none is); otherwise the cheapest that
/// carries the need; otherwise the one that carries most of it. The possible ones come first.
[[nodiscard]] std::vector<std::size_t> oneOfEach(const SpotOptions& spot, const Options& options,
                                                 const Prices& prices, int chosen);

} // namespace metrodos::weigh
