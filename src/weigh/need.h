// What a spot needs, from what is done there or in figures.
#pragma once

#include "catalog/catalog.h"
#include "quantity/problem.h"

#include <chrono>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::weigh {

using quantity::BitRate;

struct Need {
    BitRate down; ///< towards the spot, goodput; 0: nothing is known
    BitRate up;
    std::optional<std::chrono::microseconds> delay; ///< idle round trip at most
    bool steady = false;                            ///< drop-outs and spikes are felt
    std::vector<std::string> because;               ///< the sum, a line each

    [[nodiscard]] bool any() const { return down.bps() > 0 || up.bps() > 0; }
};

/// The uses of a spot added up; a figure of the spot goes before what follows from its uses.
[[nodiscard]] Need needOf(const house::Spot& spot, const catalog::Catalog& catalog);

/// Reads "2 4K streams + 8 calls + backup 400 GB in 3 h + capture 1.8G + access point 1200"; parts are
/// separated by
/// '+', ',' or "and". A Problem names the part that is not understood. An empty text is no use at all.
[[nodiscard]] quantity::Result<std::vector<house::Use>> parseUses(std::string_view text,
                                                                  const catalog::Catalog& catalog);

/// The same written out again; parseUses reads it back.
[[nodiscard]] std::string usesText(const std::vector<house::Use>& uses, const catalog::Catalog& catalog);

} // namespace metrodos::weigh
