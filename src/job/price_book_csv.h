// The price book as comma-separated values, out and in, and where it lies.
#pragma once

#include "quantity/problem.h"
#include "weigh/plan.h"

#include <filesystem>

namespace metrodos::job {

/// One row an item with the columns item, label, product, unit, price, stock, and a first one "currency"
/// whose product is the sign before amounts. Items without anything of the user's own carry the guide price.
[[nodiscard]] std::string toCsv(const weigh::PriceBook& book, const catalog::Catalog& catalog);

/// Reads what toCsv wrote, or a table with some of its columns: item, and any of product, price, stock.
/// Prices have a decimal point or comma. A Problem names the row that is wrong.
[[nodiscard]] quantity::Result<weigh::PriceBook> priceBookFrom(std::string_view csv,
                                                               const catalog::Catalog& catalog);

/// Reads a file of it; a file that is not there is an empty book.
[[nodiscard]] quantity::Result<weigh::PriceBook> loadPriceBook(const std::filesystem::path& file,
                                                               const catalog::Catalog& catalog);
/// Writes it whole or not at all.
[[nodiscard]] quantity::Result<void> savePriceBook(const std::filesystem::path& file,
                                                   const weigh::PriceBook& book,
                                                   const catalog::Catalog& catalog);

/// The parts of a plan for the shop: item, label, unit, count, from_stock, to_buy, unit_price, total.
[[nodiscard]] std::string partsCsv(const std::vector<weigh::PartLine>& parts);

} // namespace metrodos::job
