#include "programs/cli_log.h"

#include "benchmark/run_filter.h"
#include "benchmark/set_comparison.h"
#include "job/library.h"
#include "job/log.h"
#include "job/schedule_ics.h"
#include "programs/cli_options.h"
#include "quantity/format.h"
#include "quantity/text.h"

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

template <typename T>
json orNull(const std::optional<T>& value) {
    return value ? json(*value) : json(nullptr);
}

json entryOf(const job::LogEntry& e) {
    auto spread = std::pair(e.low, e.high);
    if (e.run != nullptr)
        if (const auto own = job::spreadOf(e.run->run)) spread = *own;
    const auto bps = [](const std::optional<quantity::BitRate>& rate) {
        return rate ? json(rate->bps()) : json(nullptr);
    };
    return {{"at", e.at.empty() ? json(nullptr) : json(e.at)},
            {"kind", e.kind},
            {"route", e.route.empty() ? json(nullptr) : json(e.route)},
            {"direction", e.direction ? json(benchmark::name(*e.direction)) : json(nullptr)},
            {"goodput_bps", e.kind == "reading" ? json(nullptr) : bps(e.figure)},
            {"phy_bps", e.kind == "reading" ? bps(e.figure) : json(nullptr)},
            {"low_bps", bps(spread.first)},
            {"high_bps", bps(spread.second)},
            {"conditions", e.run == nullptr ? json(nullptr) : conditionsOf(e.run->run)},
            {"simulated", e.simulated},
            {"used", e.used},
            {"set_aside", e.aside.empty() ? json(nullptr) : json(e.aside)},
            {"words", e.words},
            {"id", e.id}};
}

} // namespace

int logRuns(const Arguments& a) {
    const auto filter = benchmark::parseRunFilter(a.first);
    if (!filter) return fail(filter.error());
    const auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    const auto log = job::logOf(document->house, document->runs, document->reports, *filter);
    if (a.run.json) {
        json entries = json::array();
        for (const job::LogEntry& e : log)
            entries.push_back(entryOf(e));
        print({{"format", "metrodos-log"}, {"version", 1}, {"entries", std::move(entries)}});
        return 0;
    }
    for (const job::LogEntry& e : log)
        std::cout << quantity::oneLine(
                         (e.at.empty() ? "unknown time       " : e.at) + "  " + e.kind + "  " +
                         (e.route.empty() ? e.about : e.route) + "  " +
                         (e.direction ? std::string(benchmark::name(*e.direction)) + "  " : "") +
                         (e.figure ? quantity::plainBoth(*e.figure) + "  " : "") + e.words +
                         (e.aside.empty() ? "" : "  set aside: " + e.aside))
                  << '\n';
    if (log.empty())
        return fail({"nothing in the log is meant by that", a.job, "ask for less, or measure first"});
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
    const benchmark::RouteRuns runs = job::counted(document->runs, house);
    const auto c = benchmark::compareSets(benchmark::matching(runs, *first, house),
                                          benchmark::matching(runs, *second, house), "the first",
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

int writeSchedules(const Arguments& a) {
    if (!a.to.ends_with(".ics")) return fail(unknownForm(a.to, ".ics"));
    const auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    if (document->house.schedules.empty())
        return fail({"the job has no schedules", a.job, "add one in Log, page Hours"});
    const auto written = job::writeText(a.to, job::schedulesToIcs(document->house.schedules));
    return written ? 0 : fail(written.error());
}

namespace {

quantity::Result<job::Library> freshLibrary(const Arguments& a, const catalog::Catalog& catalog) {
    auto library = job::Library::open(a.library, job::usualIndex(a.library));
    if (!library) return library;
    if (const auto read = library->refresh(catalog, {}, {}); !read) return tl::unexpected(read.error());
    return library;
}

int printEntries(const quantity::Result<std::vector<job::LibraryEntry>>& entries, bool asJson) {
    if (!entries) return fail(entries.error());
    json list = json::array();
    for (const job::LibraryEntry& e : *entries) {
        const job::Digest& d = e.digest;
        if (asJson)
            list.push_back({{"file", e.file.string()},
                            {"label", d.label},
                            {"places", d.places},
                            {"first_day", d.firstDay},
                            {"last_day", d.lastDay},
                            {"runs", d.runs},
                            {"limit", d.limit},
                            {"open", d.open},
                            {"problem", e.problem.empty() ? json(nullptr) : json(e.problem)}});
        else
            std::cout << quantity::oneLine(
                             d.label + "  " + (d.lastDay.empty() ? "nothing measured" : d.lastDay) + "  " +
                             (e.problem.empty() ? d.limit : e.problem) +
                             (d.open.empty() ? "" : "  open: " + d.open) + "  " + e.file.string())
                      << '\n';
    }
    if (asJson) print({{"format", "metrodos-library"}, {"version", 1}, {"jobs", std::move(list)}});
    return 0;
}

} // namespace

int listLibrary(const Arguments& a, const catalog::Catalog& catalog) {
    const auto library = freshLibrary(a, catalog);
    return library ? printEntries(library->list(), a.run.json) : fail(library.error());
}

int searchLibrary(const Arguments& a, const catalog::Catalog& catalog) {
    const auto library = freshLibrary(a, catalog);
    return library ? printEntries(library->search(a.first), a.run.json) : fail(library.error());
}

int countLibrary(const Arguments& a, const catalog::Catalog& catalog) {
    const auto library = freshLibrary(a, catalog);
    if (!library) return fail(library.error());
    const auto experience = library->experience();
    if (!experience) return fail(experience.error());
    const auto statements = library->statements();
    if (!statements) return fail(statements.error());
    const auto calibration = benchmark::calibrationOf(*statements);
    const auto spread = [](const catalog::RateSpread& s) {
        return json{{"p10_bps", s.p10.bps()}, {"p50_bps", s.p50.bps()}, {"p90_bps", s.p90.bps()}};
    };
    json classes = json::array();
    for (const job::ClassFigures& f : job::figuresOf(*experience, catalog)) {
        if (a.run.json)
            classes.push_back({{"label", f.label},
                               {"class", f.experience.deviceClass},
                               {"situation", f.experience.situation},
                               {"houses", f.experience.houses.size()},
                               {"pairs", f.pairs},
                               {"at_least", f.atLeast},
                               {"median_bps", f.median ? json(f.median->bps()) : json(nullptr)},
                               {"tenth_bps", f.tenth ? json(f.tenth->bps()) : json(nullptr)},
                               {"catalog", spread(f.catalogue)},
                               {"refined", spread(f.refined)}});
        else
            std::cout << f.label << ": " << quantity::counted(f.pairs + f.atLeast, "pair") << " in "
                      << quantity::counted(static_cast<long long>(f.experience.houses.size()), "house")
                      << (f.median ? ", median " + quantity::plain(*f.median) : "") << "; catalog "
                      << quantity::plain(f.catalogue.p50) << ", refined " << quantity::plain(f.refined.p50)
                      << '\n';
    }
    if (!a.run.json) {
        std::cout << benchmark::sentenceOf(calibration) << ".\n";
        return 0;
    }
    json spans = json::array();
    for (const benchmark::Calibration& c : calibration)
        spans.push_back({{"from", c.from},
                         {"to", c.to},
                         {"count", c.count},
                         {"held", c.held},
                         {"mean_said", c.meanSaid},
                         {"low", c.low},
                         {"high", c.high}});
    print({{"format", "metrodos-library-statistics"},
           {"version", 1},
           {"classes", std::move(classes)},
           {"calibration", std::move(spans)}});
    return 0;
}

} // namespace metrodos::programs
