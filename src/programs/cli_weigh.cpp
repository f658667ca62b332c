#include "programs/cli_weigh.h"

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
              << quantity::significant(std::max(plan.minutes, 1.0), 3) << " min of own work, " << plan.holes
              << " holes" << (plan.carriesAll ? "" : "; not every need is carried") << '\n';
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        const weigh::SpotResult& s = plan.spots[i];
        const weigh::SpotOptions& spot = options.spots[i];
        std::cout << "  " << spot.label << ": ";
        if (s.way < 0) {
            std::cout << "no way\n";
            continue;
        }
        std::cout << spot.ways[static_cast<std::size_t>(s.way)].label;
        if (s.need.bps() > 0)
            std::cout << ", at least " << plain(s.p10) << " for " << plain(s.need)
                      << (s.carried ? "" : ", which is not carried by “" + s.limit + "”");
        std::cout << '\n';
    }
    for (const weigh::PartLine& p : plan.parts)
        std::cout << "    " << quantity::significant(p.count, 3) << " " << p.unit << " " << p.label << ": "
                  << weigh::amount(prices, p.total) << '\n';
    for (const std::string& note : plan.notes)
        std::cout << "  Note: " << note << ".\n";
}

} // namespace

int weighHouse(const Arguments& a, const catalog::Catalog& catalog) {
    const auto document = soundJob(a, catalog);
    if (!document) return fail(document.error());
    weigh::PriceBook book;
    if (!a.prices.empty()) {
        std::error_code missing;
        if (!std::filesystem::exists(a.prices, missing))
            return fail({"there is no price book of this name", a.prices, "check the name"});
        auto loaded = job::loadPriceBook(a.prices, catalog);
        if (!loaded) return fail(loaded.error());
        book = std::move(*loaded);
    }
    const weigh::Prices prices(catalog, book);
    const std::string wanted = a.school.empty() ? document->house.weighing.school : a.school;
    const auto school = wanted.empty() ? weigh::School::cheapest : weigh::school(wanted);
    if (!school)
        return fail({"there is no school “" + wanted + "”", "",
                     "choose cheapest, steadiest, no-drilling, fastest or lasting"});
    weigh::RouteRuns runs;
    for (const job::RouteRun& run : document->runs)
        runs.emplace_back(run.route, run.run);
    const auto options = weigh::optionsOf(document->house, catalog, runs);
    if (!options) return fail(options.error());
    const auto weighed = weigh::weigh(*options, prices, *school);
    if (!weighed) return fail(weighed.error());
    if (a.run.json) {
        print(weigh::toJson(*options, prices, *weighed, *school));
        return 0;
    }
    for (const weigh::Plan& plan : weighed->plans)
        if (plan.id == weighed->best.at(*school)) tell(*options, prices, plan);
    for (const auto& [other, id] : weighed->best)
        for (const weigh::Plan& plan : weighed->plans)
            if (other != *school && plan.id == id && id != weighed->best.at(*school))
                std::cout << "Or " << weigh::label(other) << ": " << weigh::amount(prices, plan.cost) << '\n';
    return 0;
}

} // namespace metrodos::programs
