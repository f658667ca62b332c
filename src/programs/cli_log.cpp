#include "programs/cli_log.h"

#include "benchmark/run_filter.h"
#include "benchmark/set_comparison.h"
#include "benchmark/statistics.h"
#include "programs/cli_options.h"
#include "quantity/format.h"

#include <iostream>
#include <nlohmann/json.hpp>

namespace metrodos::programs {
namespace {

using nlohmann::json;

json conditionsOf(const benchmark::Run& run) {
    return {
        {"hour", benchmark::hourOf(run) ? json(*benchmark::hourOf(run)) : json(nullptr)},
        {"others_active", run.conditions.othersActive ? json(*run.conditions.othersActive) : json(nullptr)},
        {"appliances", run.conditions.appliances},
        {"changed", run.conditions.changed}};
}

json entryOf(const benchmark::RouteRun& one) {
    const benchmark::Run& run = one.run;
    const std::vector<double> seconds = benchmark::wholeSeconds(run);
    const bool hasSpread = seconds.size() > 1;
    return {{"at", run.startedAt},
            {"kind", "run"},
            {"route", one.route},
            {"direction", benchmark::name(run.config.direction)},
            {"goodput_bps", run.goodput.bps()},
            {"low_bps", hasSpread ? json(benchmark::quantile(seconds, 0.1)) : json(nullptr)},
            {"high_bps", hasSpread ? json(benchmark::quantile(seconds, 0.9)) : json(nullptr)},
            {"conditions", conditionsOf(run)},
            {"simulated", run.simulated},
            {"used", run.complete},
            {"id", run.id}};
}

template <typename T>
json orNull(const std::optional<T>& value) {
    return value ? json(*value) : json(nullptr);
}

} // namespace

int logRuns(const Arguments& a) {
    const auto filter = benchmark::parseRunFilter(a.first);
    if (!filter) return fail(filter.error());
    const auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    const auto runs = benchmark::matching(document->runs, *filter, document->house);
    if (a.run.json) {
        json entries = json::array();
        for (const benchmark::RouteRun& one : runs)
            entries.push_back(entryOf(one));
        print({{"format", "metrodos-log"}, {"version", 1}, {"entries", std::move(entries)}});
        return 0;
    }
    for (const benchmark::RouteRun& one : runs)
        std::cout << one.run.startedAt << "  " << one.route << "  "
                  << benchmark::name(one.run.config.direction) << "  " << quantity::plainBoth(one.run.goodput)
                  << (one.run.simulated ? "  simulated" : "") << (one.run.complete ? "" : "  cut off")
                  << '\n';
    if (runs.empty())
        return fail({"no run of the job is meant by that", a.job, "ask for less, or measure first"});
    return 0;
}

int compareRuns(const Arguments& a) {
    const auto first = benchmark::parseRunFilter(a.first);
    if (!first) return fail(first.error());
    const auto second = benchmark::parseRunFilter(a.second);
    if (!second) return fail(second.error());
    const auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    const house::House& house = document->house;
    const auto c = benchmark::compareSets(benchmark::matching(document->runs, *first, house),
                                          benchmark::matching(document->runs, *second, house), "the first",
                                          "the second", house, house.measuring.summary);
    if (!c.ratio) return fail({c.sentence, a.job, "ask for less, or measure first"});
    if (a.run.json) {
        print({{"format", "metrodos-comparison"},
               {"version", 1},
               {"runs", {c.runsA, c.runsB}},
               {"difference_ratio", *c.ratio},
               {"low_ratio", orNull(c.low)},
               {"high_ratio", orNull(c.high)},
               {"real", orNull(c.real)},
               {"pairs_needed", c.runsNeeded},
               {"differs", c.differs},
               {"confounded_by", c.confoundedBy},
               {"sentence", c.sentence}});
        return 0;
    }
    std::cout << c.sentence << ".\n";
    for (const std::string& what : c.differs)
        std::cout << "  differs: " << what << '\n';
    return 0;
}

} // namespace metrodos::programs
