#include "programs/cli_fit.h"

#include "fit/steps_json.h"
#include "house/addressing.h"
#include "job/fitting_csv.h"
#include "job/store.h"
#include "programs/cli_options.h"
#include "quantity/text.h"
#include "report/label_sheet.h"

#include <iostream>
#include <nlohmann/json.hpp>

namespace metrodos::programs {
namespace {

const char* mark(house::StepState state) {
    switch (state) {
    case house::StepState::done:
        return "x";
    case house::StepState::failed:
        return "!";
    case house::StepState::skipped:
        return "-";
    case house::StepState::open:
        break;
    }
    return " ";
}

} // namespace

int fitHouse(const Arguments& a, const catalog::Catalog& catalog) {
    const auto document = soundJob(a, catalog);
    if (!document) return fail(document.error());
    if (a.run.json) {
        print(fit::stepsDocument(document->house, catalog, document->runs));
        return 0;
    }
    const auto steps = fit::stepsOf(document->house, catalog);
    if (steps.empty())
        return fail({"there is nothing to fit", "",
                     "choose a plan in Weigh and make it the house's with Ctrl+Enter"});
    std::string room = "?";
    for (const fit::Step& s : steps) {
        if (s.room != room) {
            room = s.room;
            const house::Room* r = document->house.room(room);
            std::cout << (r == nullptr ? std::string("The whole house") : r->label) << '\n';
        }
        std::cout << "  [" << mark(s.state) << "] " << s.what
                  << (s.isChanged ? " (changed since it was done)" : "") << '\n';
        if (!s.reason.empty()) std::cout << "      " << s.reason << '\n';
    }
    return 0;
}

int writeAddresses(const Arguments& a) {
    const std::filesystem::path to = a.to;
    const std::string form = to.extension().string();
    if (form != ".csv" && form != ".hosts" && form != ".conf")
        return fail(unknownForm(a.to, ".csv, .hosts and .conf"));
    const auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    const house::House& house = document->house;
    if (house.addressing.ports.empty())
        return fail({"the job has no addresses", a.job, "plan them in Fit, on the page Addresses"});
    for (const house::Clash& clash : house::clashesOf(house))
        std::cerr << "metrodos: " << quantity::Problem{clash.what, "", clash.mend}.sentence() << '\n';
    const auto syntax =
        a.syntax == "blocks" ? house::ReservationSyntax::blocks : house::ReservationSyntax::lines;
    const auto written = job::writeText(to, form == ".csv"     ? job::addressesCsv(house)
                                            : form == ".hosts" ? house::hostsFile(house)
                                                               : house::reservations(house, syntax));
    return written ? 0 : fail(written.error());
}

int writeLabels(const Arguments& a) {
    const std::filesystem::path to = a.to;
    if (to.extension() != ".pdf" && to.extension() != ".csv") return fail(unknownForm(a.to, ".pdf and .csv"));
    const auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    const auto labels = fit::labelsOf(document->house);
    if (labels.empty())
        return fail({"there is nothing to label", a.job, "survey jacks, cables and boxes first"});
    std::string text = job::labelsCsv(document->house, labels);
    if (to.extension() == ".pdf") {
        auto pdf = report::pdfOf(report::labelSheet(
            document->house, labels, a.paper == "letter" ? report::Paper::letter : report::Paper::a4));
        if (!pdf) return fail(pdf.error());
        text = std::move(*pdf);
    }
    if (const auto written = job::writeText(to, text); !written) return fail(written.error());
    if (std::filesystem::path(a.job).extension() == ".json") return 0; // nothing to record them in
    auto store = job::Store::open(a.job);
    if (!store) return fail(store.error());
    const auto kept = store->change("label", fit::withCodes(store->house(), labels));
    return kept ? 0 : fail(kept.error());
}

} // namespace metrodos::programs
