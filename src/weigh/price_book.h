// What parts and work cost here: the user's own figures before the catalog's guide prices. Product names of
// the user's own live in it and nowhere else.
#pragma once

#include "catalog/catalog.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::weigh {

using quantity::Money;

/// One line. Items are the catalog's: classes of devices, models of switches, parts and "labour".
struct PriceLine {
    std::string item;
    std::string product;        ///< what the user calls it; empty: nothing of its own
    std::optional<Money> price; ///< nothing: the guide price
    int stock = 0;              ///< pieces in the van; these cost nothing more

    friend bool operator==(const PriceLine&, const PriceLine&) = default;
};

struct PriceBook {
    std::string currency = "¤"; ///< as it stands before amounts
    std::vector<PriceLine> lines;

    [[nodiscard]] const PriceLine* line(std::string_view item) const;
    [[nodiscard]] PriceLine& lineFor(const std::string& item);

    friend bool operator==(const PriceBook&, const PriceBook&) = default;
};

/// Everything that can have a price, in the order in which it is shown, with unit and guide price.
struct PricedItem {
    std::string item;
    std::string label;
    std::string unit; ///< "piece", "metre", "run", "hour"
    Money guide;
};
[[nodiscard]] std::vector<PricedItem> pricedItems(const catalog::Catalog& catalog);

/// Prices and labels in one place, looked up by item.
class Prices {
  public:
    Prices(const catalog::Catalog& catalog, const PriceBook& book);

    /// Of one; 0 for an item that nobody knows.
    [[nodiscard]] Money of(std::string_view item) const;
    /// The user's own name of it, or the catalog's.
    [[nodiscard]] std::string label(std::string_view item) const;
    [[nodiscard]] std::string unit(std::string_view item) const;
    [[nodiscard]] int stock(std::string_view item) const;
    /// The same with another price of one item.
    [[nodiscard]] Prices with(const std::string& item, Money price) const;
    [[nodiscard]] const std::string& currency() const { return m_book.currency; }

  private:
    [[nodiscard]] const PricedItem* find(std::string_view item) const;
    std::vector<PricedItem> m_items;
    PriceBook m_book;
};

} // namespace metrodos::weigh
