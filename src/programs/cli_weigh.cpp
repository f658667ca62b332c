#include "programs/cli_weigh.h"

#include "job/open.h"
#include "job/price_book_csv.h"
#include "quantity/format.h"
#include "weigh/compare.h"
#include "weigh/weigh_json.h"

#include <iostream>
#include <nlohmann/json.hpp>

namespace metrodos::programs {
namespace {

using quantity::plain;

// The plan, spot by spot, and what to buy.
void tell(const weigh::Options& options, const weigh::Prices& prices, const weigh::Plan& plan) {
    std::cout << plan.label << ": " << weigh::amount(prices, plan.cost) << ", "
              << weigh::workTime(std::max(plan.minutes, 1.0)) << " of own work, " << plan.holes << " holes\n"
              << weigh::verdictOf(plan) << ".\n";
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        const weigh::SpotResult& s = plan.spots[i];
        const weigh::SpotOptions& spot = options.spots[i];
        std::cout << "  " << spot.label << (spot.isPeer ? " (others draw from it)" : "") << ": ";
        if (s.way < 0) {
            std::cout << "no way\n";
            continue;
        }
        std::cout << spot.way(s.way).label;
        if (s.need.bps() > 0)
            std::cout << ", at least " << plain(s.p10) << " for " << plain(s.need)
                      << (s.carried ? "" : ", which is not carried by “" + s.limit + "”")
                      << (s.isFed ? "" : ", more than the service brings");
        std::cout << '\n';
    }
    for (const weigh::PartLine& p : plan.parts)
        std::cout << "    " << weigh::countText(p.count) << " " << p.unit << " " << p.label << ": "
                  << weigh::amount(prices, p.total) << '\n';
    for (const std::string& note : plan.notes)
        std::cout << "  Note: " << note << ".\n";
}

} // namespace

quantity::Result<WeighRequest> requestOf(const Arguments& a, const catalog::Catalog& catalog,
                                         job::Document job) {
    auto document = soundForm(a, catalog, std::move(job));
    if (!document) return tl::unexpected(document.error());
    weigh::PriceBook book;
    if (!a.prices.empty()) {
        std::error_code missing;
        if (!std::filesystem::exists(a.prices, missing))
            return quantity::problem("there is no price book of this name", a.prices, "check the name");
        auto loaded = job::loadPriceBook(a.prices, catalog);
        if (!loaded) return tl::unexpected(loaded.error());
        book = std::move(*loaded);
    }
    const std::string& wanted = a.objective;
    const auto objective =
        wanted.empty() ? std::optional(document->house.weighing.objective) : house::objective(wanted);
    if (!objective)
        return quantity::problem("there is no objective “" + wanted + "”", "",
                                 "choose cheapest, steadiest, no-drilling, fastest or lasting");
    auto options =
        weigh::optionsOf(document->house, catalog, document->runs, job::watchesOf(document->reports));
    if (!options) return tl::unexpected(options.error());
    return WeighRequest{std::move(*document), std::move(*options), weigh::Prices(catalog, book), *objective};
}

int weighHouse(const Arguments& a, const catalog::Catalog& catalog) {
    auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    const auto request = requestOf(a, catalog, std::move(*document));
    if (!request) return fail(request.error());
    const weigh::Options* options = &request->options;
    const weigh::Prices& prices = request->prices;
    const weigh::Objective* objective = &request->objective;
    const auto weighed = weigh::weigh(*options, prices, *objective);
    if (!weighed) return fail(weighed.error());
    if (a.run.json) {
        print(weigh::toJson(*options, prices, *weighed, *objective));
        return 0;
    }
    for (const weigh::Plan& plan : weighed->plans)
        if (plan.id == weighed->best.at(*objective)) tell(*options, prices, plan);
    for (const auto& [other, id] : weighed->best)
        for (const weigh::Plan& plan : weighed->plans)
            if (other != *objective && plan.id == id && id != weighed->best.at(*objective))
                std::cout << "Or " << weigh::label(other) << ": " << weigh::amount(prices, plan.cost) << '\n';
    return 0;
}

} // namespace metrodos::programs
