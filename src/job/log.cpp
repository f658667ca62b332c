#include "job/log.h"

#include "benchmark/copy_report.h"
#include "benchmark/matrix_report.h"
#include "benchmark/search_report.h"
#include "benchmark/statistics.h"
#include "benchmark/transfer_report.h"
#include "house/edit.h"
#include "house/route.h"
#include "job/json_text.h"
#include "job/kept_document.h"
#include "quantity/format.h"

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

namespace metrodos::job {
namespace {

using quantity::BitRate;

std::string conditionWords(const house::House& house, const benchmark::Run& run) {
    std::string out;
    const auto add = [&](const std::string& word) { out += (out.empty() ? "" : ", ") + word; };
    if (run.simulated) add("simulated");
    if (!run.complete) add("cut off");
    const benchmark::Arrangement& how = run.config.arrangement;
    if (how.setup != house::Setup::place) add(std::string(house::name(how.setup)));
    for (const benchmark::Alteration& a : how.altered)
        if (!a.place.empty()) add("at “" + house::labelOfPlace(house, a.place) + "”");
    if (run.conditions.othersActive) add(*run.conditions.othersActive ? "others active" : "alone");
    for (const std::string& appliance : run.conditions.appliances)
        add(appliance);
    if (!run.conditions.changed.empty()) add(run.conditions.changed);
    return out;
}

LogEntry entryOf(const house::House& house, const benchmark::RouteRun& one) {
    LogEntry e;
    e.id = one.run.id;
    e.kind = "run";
    e.at = one.run.startedAt;
    e.route = one.route;
    e.direction = one.run.config.direction;
    e.figure = one.run.goodput;
    e.simulated = one.run.simulated;
    e.used = one.run.complete;
    e.words = conditionWords(house, one.run);
    e.run = &one;
    return e;
}

void takeHead(LogEntry& e, const benchmark::ReportHead& head) {
    e.at = head.startedAt;
    e.route = head.route;
    e.about = head.about;
    e.simulated = head.simulated;
}

std::string first(const std::vector<std::string>& sentences) {
    return sentences.empty() ? std::string() : sentences.front();
}

// What cannot be read has its place in the log all the same.
LogEntry entryOf(const Report& report) {
    LogEntry e;
    e.id = idOf(report);
    e.kind = report.kind;
    const nlohmann::json body = readJson(report.body);
    e.words = "this cannot be read";
    e.used = false;
    const auto inSeconds = [](double seconds) { return quantity::significant(seconds, 3) + " s"; };
    if (report.kind == "watch") {
        if (const auto watch = benchmark::readWatchReport(body)) {
            takeHead(e, watch->head);
            e.direction = watch->config.direction;
            e.figure = watch->goodputP50;
            e.low = watch->goodputP10;
            e.high = watch->goodputP90;
            e.words = first(benchmark::sentences(*watch, inSeconds));
            e.used = true;
        }
    } else if (report.kind == "copy") {
        if (const auto copy = benchmark::readCopyReport(body)) {
            takeHead(e, copy->head);
            e.figure = copy->write.rate;
            e.words = first(benchmark::sentences(*copy));
            e.used = true;
        }
    } else if (report.kind == "transfer") {
        if (const auto transfer = benchmark::readTransferReport(body)) {
            takeHead(e, transfer->head);
            e.figure = transfer->passes.back().rate;
            e.words = first(benchmark::sentences(*transfer));
            e.used = true;
        }
    } else if (report.kind == "search") {
        if (const auto search = benchmark::readSearchReport(body)) {
            takeHead(e, search->head);
            e.direction = search->direction;
            e.figure = search->best;
            e.words = first(benchmark::sentences(*search));
            e.used = true;
        }
    } else if (report.kind == "document") {
        if (const auto kept = readKept(report)) {
            e.at = kept->at;
            e.words = kept->reader == "offer"        ? "offer"
                      : kept->reader == "technician" ? "page for the next technician"
                                                     : "record for the client";
            e.words += " handed over, records " + kept->digest.substr(0, 12);
            e.used = true;
        }
    } else if (const auto matrix = benchmark::readMatrixReport(body)) {
        takeHead(e, matrix->head);
        e.words = first(benchmark::sentences(*matrix));
        e.used = true;
    }
    return e;
}

bool asksOnlyRuns(const benchmark::RunFilter& f) {
    return f.setup || f.streams || f.hours || f.others || !f.appliance.empty() || !f.without.empty() ||
           f.bypassed || !f.place.empty() || !f.step.empty();
}

bool matches(const LogEntry& e, const benchmark::RunFilter& f, const house::House& house) {
    if (asksOnlyRuns(f)) return false;
    if (!f.route.empty() && e.route != f.route) return false;
    if (!f.machine.empty() && !benchmark::hasMachine(house, e.route, f.machine)) return false;
    if (f.direction && e.direction != f.direction) return false;
    if (f.simulated && e.simulated != *f.simulated) return false;
    if (!f.from.empty() && e.at < f.from) return false;
    if (!f.until.empty() && e.at.substr(0, f.until.size()) > f.until) return false;
    const house::Route* route = house.route(e.route);
    const std::string text =
        e.about + " " + e.words + " " + e.kind + (route == nullptr ? "" : " " + route->label);
    return std::all_of(f.words.begin(), f.words.end(),
                       [&](const std::string& word) { return benchmark::hasWord(text, word); });
}

std::string labelOf(const house::House& house, const house::Id& device) {
    const house::Device* d = house.device(device);
    return d == nullptr ? device : d->label;
}

void addReadings(std::vector<LogEntry>& out, const house::House& house) {
    for (const house::Connection& c : house.connections)
        for (const house::PhyReading& r : c.phyRates) {
            LogEntry e;
            e.id = "reading-" + c.id;
            e.kind = "reading";
            e.at = r.at;
            e.figure = r.rate;
            e.about = c.label;
            e.words = "PHY rate from “" + labelOf(house, r.from) + "” to “" + labelOf(house, r.to) + "”";
            out.push_back(std::move(e));
        }
}

// By route: when something that it passes was last exchanged.
std::map<house::Id, std::string> latestExchanges(const house::House& house) {
    std::map<house::Id, std::string> out;
    const house::RouteFinder finder(house);
    for (const house::Route& route : house.routes) {
        const auto elements = finder.find(route);
        if (!elements) continue;
        for (const house::DatedChange& c : house.changes)
            if (std::any_of(elements->begin(), elements->end(), [&](const house::Element& e) {
                    return e.device == c.thing || e.connection == c.thing || e.id == c.thing;
                }))
                out[route.id] = std::max(out[route.id], c.at);
    }
    return out;
}

} // namespace

std::string idOf(const Report& report) {
    return "report-" + std::to_string(report.number);
}

std::vector<LogEntry> logOf(const house::House& house, const benchmark::RouteRuns& runs,
                            const std::vector<Report>& reports, const benchmark::RunFilter& filter) {
    const auto isKind = [&](const std::string& kind) { return filter.kind.empty() || filter.kind == kind; };
    std::vector<LogEntry> out;
    benchmark::RunFilter ofRuns = filter;
    ofRuns.used.reset(); // known when all are there
    if (isKind("run"))
        for (const benchmark::RouteRun& one : runs)
            if (ofRuns.matches(one, house)) out.push_back(entryOf(house, one));
    std::vector<LogEntry> others;
    for (const Report& report : reports)
        if (isKind(report.kind)) others.push_back(entryOf(report));
    if (isKind("reading")) addReadings(others, house);
    for (LogEntry& e : others)
        if (matches(e, filter, house)) out.push_back(std::move(e));
    std::set<std::string> judged;
    if (!house.changes.empty())
        for (const benchmark::RouteRun& r : evidence(runs, house))
            judged.insert(r.run.id);
    for (LogEntry& e : out)
        if (e.run != nullptr && !house.changes.empty() && house.whySetAside(e.id) == nullptr &&
            !judged.contains(e.id)) {
            e.isOfBefore = true;
            e.used = false;
            e.words += std::string(e.words.empty() ? "" : ", ") + "of before an exchange";
        }
    for (LogEntry& e : out)
        if (const house::SetAside* why = house.whySetAside(e.id)) {
            e.used = false;
            e.aside = why->reason;
        }
    if (filter.used) std::erase_if(out, [&](const LogEntry& e) { return e.used != *filter.used; });
    std::ranges::stable_sort(out, {}, &LogEntry::at);
    return out;
}

std::optional<std::pair<BitRate, BitRate>> spreadOf(const benchmark::Run& run) {
    const std::vector<double> seconds = benchmark::wholeSeconds(run);
    if (seconds.size() < 2) return std::nullopt;
    return std::pair(BitRate::bitsPerSecond(benchmark::quantile(seconds, 0.1)),
                     BitRate::bitsPerSecond(benchmark::quantile(seconds, 0.9)));
}

benchmark::RouteRuns counted(const benchmark::RouteRuns& runs, const house::House& house) {
    if (house.setAside.empty()) return runs;
    benchmark::RouteRuns out;
    std::copy_if(runs.begin(), runs.end(), std::back_inserter(out),
                 [&](const benchmark::RouteRun& r) { return house.whySetAside(r.run.id) == nullptr; });
    return out;
}

std::vector<Report> counted(const std::vector<Report>& reports, const house::House& house) {
    std::vector<Report> out;
    std::copy_if(reports.begin(), reports.end(), std::back_inserter(out),
                 [&](const Report& r) { return house.whySetAside(idOf(r)) == nullptr; });
    return out;
}

benchmark::RouteRuns evidence(const benchmark::RouteRuns& runs, const house::House& house) {
    benchmark::RouteRuns all = counted(runs, house);
    if (house.changes.empty()) return all;
    const auto latest = latestExchanges(house);
    const auto exchangedAt = [&](const benchmark::RouteRun& r) {
        const auto it = latest.find(r.route);
        return it == latest.end() ? std::string() : it->second;
    };
    using Way = std::tuple<house::Id, benchmark::Direction, house::Setup>;
    const auto wayOf = [](const benchmark::RouteRun& r) {
        return Way(r.route, r.run.config.direction, r.run.config.arrangement.setup);
    };
    std::set<Way> again;
    for (const benchmark::RouteRun& r : all)
        if (const std::string at = exchangedAt(r); !at.empty() && r.run.complete && r.run.startedAt > at)
            again.insert(wayOf(r));
    std::erase_if(all, [&](const benchmark::RouteRun& r) {
        const std::string at = exchangedAt(r);
        return !at.empty() && r.run.startedAt <= at && again.contains(wayOf(r));
    });
    return all;
}

quantity::Result<house::House> withSetAside(const house::House& house, const house::Id& id,
                                            const std::string& reason, const std::string& at) {
    if (id.starts_with("reading-"))
        return quantity::problem("a reading belongs to its adapter", "",
                                 "change it on the page Adapters of Fit");
    house::House out = house;
    std::erase_if(out.setAside, [&](const house::SetAside& s) { return s.id == id; });
    if (!reason.empty()) out.setAside.push_back({id, reason, at});
    return out;
}

} // namespace metrodos::job
