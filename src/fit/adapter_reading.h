// What an adapter's own page says, taken over into the house; and what a modem's rate stands for.
#pragma once

#include "catalog/catalog.h"
#include "house/house.h"

#include <optional>

namespace metrodos::fit {

/// The house with what the page of an adapter said; `at` is ISO 8601 in UTC. Peers are told by the name that
/// was recorded of an adapter, or by its label; `unknown` takes those that no adapter of the house has.
[[nodiscard]] house::House withStatus(const house::House& house, const house::Id& adapter,
                                      const house::AdapterStatus& status, const std::string& at,
                                      std::vector<std::string>& unknown);

/// Goodput of TCP that a modem of this medium leaves of the rate that it shows; nothing where the catalog
/// does not know the medium.
[[nodiscard]] std::optional<catalog::RateSpread>
impliedGoodput(const catalog::Catalog& catalog, house::Medium medium, quantity::BitRate shown);

/// What is known between an adapter and another one on its medium.
struct AdapterRates {
    house::Id medium; ///< connection
    house::Id other;
    std::optional<quantity::BitRate> to; ///< PHY rate shown, from the adapter to the other one
    std::optional<quantity::BitRate> from;
    std::string at; ///< of the later reading; empty: not known
};
/// One for each other adapter of each medium that it is on, in the order of the data.
[[nodiscard]] std::vector<AdapterRates> ratesOf(const house::House& house, const house::Id& adapter);

} // namespace metrodos::fit
