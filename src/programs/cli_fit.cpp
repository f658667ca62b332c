#include "programs/cli_fit.h"

#include "fit/steps_json.h"
#include "programs/cli_options.h"
#include "quantity/text.h"

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

} // namespace metrodos::programs
