#include "job/price_book_csv.h"

#include "job/csv_table.h"
#include "job/document.h"
#include "job/text_file.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <map>

namespace metrodos::job {
namespace {

using quantity::Money;
using quantity::problem;
using weigh::PriceBook;

constexpr std::size_t maxBookBytes = 1024 * 1024;
constexpr double dearest = 1e7;
constexpr int maxStock = 100'000;
constexpr std::size_t maxNameBytes = 200;
constexpr std::size_t maxSignBytes = 8;

std::string money(Money amount) {
    std::array<char, 32> text{};
    const auto written =
        std::to_chars(text.data(), text.data() + text.size(), amount.inUnits(), std::chars_format::fixed, 2);
    return {text.data(), written.ptr};
}

std::optional<Money> moneyOf(std::string text) {
    std::replace(text.begin(), text.end(), ',', '.');
    double value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc{} || end != text.data() + text.size() || !(value >= 0 && value <= dearest))
        return std::nullopt;
    return Money::units(value);
}

// A count of pieces is whole; metres and hours need not be.
std::string count(double value) {
    std::array<char, 32> text{};
    const double rounded = std::round(value * 100) / 100;
    return {text.data(), std::to_chars(text.data(), text.data() + text.size(), rounded).ptr};
}

} // namespace

std::string toCsv(const PriceBook& book, const catalog::Catalog& catalog) {
    std::string out = csvRow({"item", "label", "product", "unit", "price", "stock"});
    out += csvRow({"currency", "sign before amounts", book.currency, "", "", ""});
    for (const weigh::PricedItem& item : weigh::pricedItems(catalog)) {
        const weigh::PriceLine* own = book.line(item.item);
        out += csvRow({item.item, item.label, own == nullptr ? "" : own->product, item.unit,
                       money(own != nullptr && own->price ? *own->price : item.guide),
                       std::to_string(own == nullptr ? 0 : own->stock)});
    }
    return out;
}

quantity::Result<PriceBook> priceBookFrom(std::string_view csv, const catalog::Catalog& catalog) {
    if (csv.size() > maxBookBytes)
        return problem("a price book has at most 1 MB", "", "check that it is the right file");
    constexpr std::string_view byteOrderMark = "\xEF\xBB\xBF";
    if (csv.starts_with(byteOrderMark)) csv.remove_prefix(byteOrderMark.size());
    const auto rows = rowsOf(csv);
    if (!rows) return tl::unexpected(rows.error());
    if (rows->empty() || std::find(rows->front().begin(), rows->front().end(), "item") == rows->front().end())
        return problem("the first row has no column “item”", "", "export the price book and edit that table");
    std::map<std::string, weigh::PricedItem> known;
    for (weigh::PricedItem& item : weigh::pricedItems(catalog))
        known[item.item] = item;
    PriceBook out;
    for (std::size_t r = 1; r < rows->size(); ++r) {
        std::map<std::string, std::string> fields;
        for (std::size_t c = 0; c < rows->front().size() && c < (*rows)[r].size(); ++c)
            fields[rows->front()[c]] = (*rows)[r][c];
        const auto wrong = [&](const std::string& what) {
            return problem("row " + std::to_string(r + 1) + ": " + what, "",
                           "correct it and import the table again");
        };
        const std::string& item = fields["item"];
        const std::string& product = fields["product"];
        if (item.empty()) continue;
        if (item == "currency") {
            if (product.empty() || product.size() > maxSignBytes)
                return wrong("the currency has 1 to 8 bytes");
            out.currency = product;
            continue;
        }
        const auto it = known.find(item);
        if (it == known.end()) return wrong("nothing has the name " + quantity::inQuotes(item));
        if (product.size() > maxNameBytes) return wrong("a product's name has at most 200 bytes");
        weigh::PriceLine line{item, product, std::nullopt, 0};
        if (const std::string& text = fields["price"]; !text.empty()) {
            const auto price = moneyOf(text);
            if (!price) return wrong(quantity::inQuotes(text) + " is no price");
            if (*price != it->second.guide) line.price = *price;
        }
        if (const std::string& text = fields["stock"]; !text.empty()) {
            const auto stock = quantity::parseWhole(text, 0, maxStock);
            if (!stock) return wrong(quantity::inQuotes(text) + " is no number of pieces");
            line.stock = static_cast<int>(*stock);
        }
        if (line.price || line.stock > 0 || !line.product.empty()) out.lineFor(item) = line;
    }
    return out;
}

quantity::Result<PriceBook> loadPriceBook(const std::filesystem::path& file,
                                          const catalog::Catalog& catalog) {
    std::error_code failed;
    if (!std::filesystem::exists(file, failed)) return PriceBook{};
    const auto text = readTextFile(file, maxBookBytes);
    if (!text) return tl::unexpected(text.error());
    auto book = priceBookFrom(text->text, catalog);
    if (!book) book.error().where = file.string();
    return book;
}

quantity::Result<void> savePriceBook(const std::filesystem::path& file, const PriceBook& book,
                                     const catalog::Catalog& catalog) {
    std::error_code failed;
    if (file.has_parent_path()) std::filesystem::create_directories(file.parent_path(), failed);
    return writeText(file, toCsv(book, catalog));
}

std::string partsCsv(const std::vector<weigh::PartLine>& parts) {
    std::string out =
        csvRow({"item", "label", "unit", "count", "from_stock", "to_buy", "unit_price", "total"});
    for (const weigh::PartLine& p : parts)
        out += csvRow({p.item, p.label, p.unit, count(p.count), std::to_string(p.fromStock),
                       count(p.count - p.fromStock), money(p.unitPrice), money(p.total)});
    return out;
}

} // namespace metrodos::job
