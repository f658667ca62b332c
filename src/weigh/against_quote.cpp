#include "weigh/against_quote.h"

#include "house/validate.h"
#include "quantity/text.h"
#include "weigh/compare.h"
#include "weigh/growth.h"

#include <algorithm>
#include <regex>

namespace metrodos::weigh {
namespace {

std::string counted(int n, const char* thing) {
    return std::to_string(n) + " " + thing + (n == 1 ? "" : "s");
}

} // namespace

AgainstQuote againstQuote(const Options& options, const Prices& prices, const Plan& plan,
                          const house::Quote& quote, int years) {
    AgainstQuote out;
    const int runs = std::max(quote.runs, 1);
    out.perRun = Money{quote.amount.hundredths / runs};
    out.planLess = Money{quote.amount.hundredths - plan.cost.hundredths};
    for (std::size_t i = 0; i < plan.spots.size() && i < options.spots.size(); ++i)
        if (const int way = plan.spots[i].way;
            way >= 0 && options.spots[i].way(way).means != catalog::WayMeans::as_is)
            ++out.reached;
    constexpr int mostRooms = 12;
    const Growth growth = growthOf(options, prices.with("hired-run", out.perRun), std::max(out.reached, 1),
                                   std::max(years, 1), mostRooms);
    const std::string hired(catalog::idOf(catalog::WayMeans::new_hired));
    const auto line = std::find_if(growth.lines.begin(), growth.lines.end(),
                                   [&](const GrowthLine& l) { return l.way == hired && l.everywhere; });
    const bool canBeLaid = line != growth.lines.end();
    for (std::size_t n = canBeLaid ? line->byRooms.size() : 0; n > 0; --n) {
        const bool isCheapest =
            std::all_of(growth.lines.begin(), growth.lines.end(), [&](const GrowthLine& other) {
                return !other.everywhere || line->byRooms[n - 1] <= other.byRooms[n - 1];
            });
        if (!isCheapest) break;
        out.cheapestFrom = static_cast<int>(n);
    }
    const auto text = [&](Money money) { return amount(prices, Money{std::abs(money.hundredths)}); };
    out.words = "The quote" + (quote.from.empty() ? std::string() : " of " + quote.from) + " is " +
                text(quote.amount) + " for " + counted(runs, "run") + ", " + text(out.perRun) +
                " each. This plan costs " + text(plan.cost) + ", own work at " +
                amount(prices, prices.of("labour")) + " an hour included, ";
    out.words += out.planLess.hundredths == 0  ? "as much"
                 : out.planLess.hundredths > 0 ? text(out.planLess) + " less"
                                               : text(out.planLess) + " more";
    out.words += ", and makes a new way to " + counted(out.reached, "spot") + ".";
    const std::string span = " over " + counted(std::max(years, 1), "year");
    if (!canBeLaid)
        out.words += " Cable cannot be laid to every spot here.";
    else if (out.cheapestFrom == 1)
        out.words += " At that price for each run hired cable is the cheapest way for any number of rooms" +
                     span + ".";
    else if (out.cheapestFrom > 0)
        out.words += " At that price for each run hired cable is the cheapest way from " +
                     std::to_string(out.cheapestFrom) + " rooms on" + span + ".";
    else
        out.words += " At that price for each run another way stays cheaper up to " +
                     std::to_string(mostRooms) + " rooms" + span + ".";
    out.words += " What the quote holds beyond its runs is not known here.";
    return out;
}

quantity::Result<std::optional<house::Quote>> parseQuote(std::string_view text) {
    static const std::regex form(
        R"(\s*(\d{1,8})(?:[.,](\d{1,2}))?(?:\s+for\s+(\d{1,3})\s+runs?)?(?:\s+from\s+(\S(?:.*\S)?))?\s*)");
    if (text.find_first_not_of(" \t") == std::string_view::npos) return std::nullopt;
    constexpr std::size_t longest = 400;
    const std::string whole(text.substr(0, longest));
    std::smatch parts;
    const auto refused = [&] {
        return quantity::problem(quantity::inQuotes(whole) + " is no quote", "",
                                 "write it like “1850 for 5 runs from Example Cabling”");
    };
    if (text.size() > longest || !std::regex_match(whole, parts, form)) return refused();
    house::Quote out;
    std::string cents = parts[2].str();
    cents.resize(2, '0');
    out.amount = Money{std::stoll(parts[1].str()) * 100 + std::stoll(cents)};
    if (parts[3].matched) out.runs = std::stoi(parts[3].str());
    if (parts[4].matched) out.from = quantity::cutTo(quantity::oneLine(parts[4].str()), house::maxLabel);
    if (out.runs < 1 || out.runs > house::maxQuoteRuns || out.amount > house::maxQuote) return refused();
    return out;
}

std::string quoteText(const house::Quote& quote) {
    const auto whole = quote.amount.hundredths / 100;
    const auto cents = quote.amount.hundredths % 100;
    std::string out = std::to_string(whole);
    if (cents != 0) out += (cents < 10 ? ".0" : ".") + std::to_string(cents);
    if (quote.runs != 1) out += " for " + counted(quote.runs, "run");
    return quote.from.empty() ? out : out + " from " + quote.from;
}

} // namespace metrodos::weigh
