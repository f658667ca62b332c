#include "programs/cli_measure.h"

#include "benchmark/matrix_report.h"
#include "benchmark/run_json.h"
#include "benchmark/search_report.h"
#include "benchmark/watch_report.h"
#include "job/store.h"
#include "probe/conduct.h"
#include "probe/cross.h"
#include "probe/discovery.h"
#include "probe/file_copy.h"
#include "probe/machine.h"
#include "probe/run_stamp.h"
#include "probe/service_test.h"
#include "probe/watch.h"
#include "programs/interrupt.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <iostream>
#include <nlohmann/json.hpp>
#include <thread>

namespace metrodos::programs {
namespace {

using nlohmann::json;

quantity::Result<std::vector<probe::AddressRange>> rangesOf(const Arguments& a) {
    std::vector<probe::AddressRange> out;
    for (const std::string& text : a.run.allowed) {
        const auto range = probe::AddressRange::parse(text);
        if (!range) return tl::unexpected(range.error());
        out.push_back(*range);
    }
    return out;
}

quantity::Result<probe::EndpointLink> link(const Arguments& a, const std::string& where,
                                           const probe::Key& key, int family = AF_UNSPEC) {
    if (where != "here") return probe::EndpointLink::connect(where, key, family);
    const auto ranges = rangesOf(a);
    return ranges ? probe::EndpointLink::here("here", *ranges) : tl::unexpected(ranges.error());
}

int familyOf(const Arguments& a) {
    return probe::familyOf(a.run.family);
}

// The two ends of a run, opened once and used again.
struct Ends {
    probe::EndpointLink from;
    probe::EndpointLink to;
};
quantity::Result<Ends> endsOf(const Arguments& a, const probe::Key& key) {
    auto from = link(a, a.from, key, familyOf(a));
    if (!from) return tl::unexpected(from.error());
    auto to = link(a, a.to, key, familyOf(a));
    if (!to) return tl::unexpected(to.error());
    return Ends{std::move(*from), std::move(*to)};
}

quantity::Result<probe::Key> keyOf(const Arguments& a) {
    if (a.from == "here" && a.to == "here") return probe::Key::generate();
    if (a.keyFile.empty())
        return quantity::problem("another machine is asked without a key", "--key-file",
                                 "give the key file of the agent");
    return probe::Key::load(a.keyFile);
}

// "0-1" of a matrix.
quantity::Result<benchmark::Pair> pairOf(const std::string& text, std::size_t endpoints) {
    const auto dash = text.find('-');
    const auto last = static_cast<long long>(endpoints) - 1;
    const auto from = quantity::parseWhole(text.substr(0, dash), 0, last);
    const auto to =
        dash == std::string::npos ? std::nullopt : quantity::parseWhole(text.substr(dash + 1), 0, last);
    if (!from || !to || *from == *to)
        return quantity::problem(quantity::inQuotes(text) + " is no pair of these endpoints", "--at-once",
                                 "write it like 0-1, counting from 0");
    return benchmark::Pair{static_cast<std::size_t>(*from), static_cast<std::size_t>(*to)};
}

} // namespace

namespace {

// What the facts mean, beside them.
void addMeaning(json& facts, const probe::MachineFacts& read, const catalog::Catalog& catalog,
                const std::string& host) {
    json& ceilings = facts["ceilings"] = json::array();
    for (const probe::PartCeiling& c : probe::partCeilings(read, catalog))
        ceilings.push_back(
            {{"port", c.port}, {"part", c.part}, {"goodput_bps", c.goodput.bps()}, {"because", c.because}});
    facts["remarks"] = probe::remarks(read, host);
}

// Puts the facts into the house of the job, at the endpoint that has this address.
quantity::Result<void> noteIn(job::Store& store, const catalog::Catalog& catalog, const std::string& address,
                              const probe::MachineFacts& facts) {
    for (const house::Endpoint& endpoint : store.house().endpoints) {
        if (endpoint.address != address) continue;
        auto noted = probe::noteFacts(store.house(), catalog, endpoint.id, facts,
                                      address.substr(0, address.rfind(':')));
        if (!noted) return tl::unexpected(noted.error());
        for (const std::string& change : noted->changes)
            std::cerr << change << '\n';
        if (noted->changes.empty()) return {};
        return store.change("Read from " + endpoint.label, noted->house);
    }
    return quantity::problem("no endpoint of the job has the address “" + address + "”", "--save",
                             "give the address to an endpoint of the job first");
}

} // namespace

int endpoints(const Arguments& a, const catalog::Catalog& catalog) {
    const auto key = probe::Key::load(a.keyFile);
    if (!key) return fail(key.error());
    std::optional<job::Store> store;
    if (!a.run.saveTo.empty()) {
        auto opened = job::Store::open(a.run.saveTo);
        if (!opened) return fail(opened.error());
        store.emplace(std::move(*opened));
    }
    json list = json::array();
    for (const std::string& address : a.endpoints) {
        auto endpoint = link(a, address, *key);
        if (!endpoint) return fail(endpoint.error());
        auto facts = endpoint->facts();
        if (!facts) return fail(facts.error());
        const probe::MachineFacts read = probe::readFacts(*facts);
        (*facts)["address"] = address;
        (*facts)["simulated"] = endpoint->simulated();
        addMeaning(*facts, read, catalog, endpoint->remoteHost());
        list.push_back(std::move(*facts));
        if (store)
            if (const auto noted = noteIn(*store, catalog, address, read); !noted) return fail(noted.error());
    }
    print({{"format", "metrodos-endpoints"}, {"version", 1}, {"endpoints", std::move(list)}});
    return 0;
}

namespace {

// Keeps what a test found in the job that --save names.
quantity::Result<void> keepReport(json document, const std::string& job) {
    if (job.empty()) return {};
    if (!document.contains("started_at")) document["started_at"] = probe::utcNow();
    auto store = job::Store::open(job);
    if (!store) return tl::unexpected(store.error());
    const auto report = job::reportOf(document);
    if (!report) return quantity::problem("the report is too long for a job", job, "keep it in a file");
    return store->addReport(*report).map([](std::int64_t) {});
}

} // namespace

int find(const Arguments& a) {
    const auto span = quantity::parseDuration(a.looking);
    if (!span) return fail(span.error());
    if (span->count() > 600) return fail({"looking lasts at most 10 min", "--for", "choose a shorter time"});
    const Interrupt interrupt;
    const auto found =
        probe::findEndpoints(std::chrono::duration_cast<std::chrono::milliseconds>(*span), interrupt.token());
    if (!found) return fail(found.error());
    json list = json::array();
    for (const probe::FoundEndpoint& e : *found) {
        list.push_back({{"name", e.name}, {"address", e.address}});
        if (!a.run.json) std::cout << e.name << ": " << e.address << '\n';
    }
    if (a.run.json)
        print({{"format", "metrodos-found"}, {"version", 1}, {"endpoints", std::move(list)}});
    else if (found->empty())
        std::cout << "no agent announces itself here\n";
    return 0;
}

int measure(const Arguments& a) {
    const auto steps = stepsOf(a.run);
    if (!steps) return fail(steps.error());
    const auto key = keyOf(a);
    if (!key) return fail(key.error());
    std::vector<Ends> ends; // as many as run at once
    std::vector<benchmark::Run> runs;
    const Interrupt interrupt;
    for (const Step& step : *steps) {
        while (ends.size() < step.size()) {
            auto more = endsOf(a, *key);
            if (!more) return fail(more.error());
            ends.push_back(std::move(*more));
        }
        std::vector<probe::Leg> legs;
        for (std::size_t i = 0; i < step.size(); ++i)
            legs.push_back({ends[i].from, ends[i].to, step[i], {}});
        auto done = probe::conductAll(legs, interrupt.token());
        if (!done) return fail(done.error());
        bool complete = true;
        for (benchmark::Run& run : *done) {
            complete = complete && run.complete;
            runs.push_back(std::move(run));
        }
        if (!complete) break;
    }
    printMeasurement(runs, a.run);
    const auto saved = saveRuns(runs, a.run);
    return saved ? 0 : fail(saved.error());
}

// The loss-free rate: trials of datagrams until the gap is narrow.
int service(const Arguments& a) {
    if (a.run.protocol != "tcp" || !a.run.rate.empty() || !a.run.congestion.empty() ||
        !a.run.window.empty() || a.run.segment != 0 || a.run.dscp != 0 ||
        a.run.directions == house::Directions::together || a.run.family != 0)
        return fail({"the service is tested as it is: forward, backward or both in turn", "service",
                     "leave the other options out"});
    const auto steps = stepsOf(a.run);
    if (!steps) return fail(steps.error());
    // Forward is as the route has it: one that ends in the service is loaded to.
    bool towards = false;
    if (!a.run.saveTo.empty()) {
        const auto store = job::Store::open(a.run.saveTo, job::Store::Mode::readOnly);
        if (!store) return fail(store.error());
        const house::Route* route = store->house().route(a.run.route);
        const auto& service = store->house().service;
        towards = route != nullptr && service && route->to == service->id;
        if (route == nullptr || !service || (!towards && route->from != service->id))
            return fail({"“" + a.run.route + "” is not a route of the job to its service", a.run.saveTo,
                         "name one with --route"});
    }
    std::vector<benchmark::Run> runs;
    const Interrupt interrupt;
    for (const Step& step : *steps) {
        const bool down = (step.front().direction == benchmark::Direction::forward) != towards;
        auto run = probe::testService({a.url, down, step.front()}, {}, interrupt.token());
        if (!run) return fail(run.error());
        runs.push_back(std::move(*run));
        if (!runs.back().complete) break;
    }
    printMeasurement(runs, a.run);
    const auto saved = saveRuns(runs, a.run);
    return saved ? 0 : fail(saved.error());
}

int watch(const Arguments& a) {
    RunOptions run = a.run;
    if (run.protocol == "udp" && run.rate.empty()) run.rate = "200k";
    if (run.seconds == RunOptions{}.seconds) run.seconds = "60";
    const auto steps = stepsOf(run);
    if (!steps) return fail(steps.error());
    if (steps->size() != 1 || steps->front().size() != 1)
        return fail({"a watch goes one way, once", "watch", "leave the other options out"});
    const auto lasting = quantity::parseDuration(a.lasting);
    if (!lasting) return fail(lasting.error());
    if (lasting->count() < 1 || lasting->count() > probe::maxWatch)
        return fail({"a watch lasts from 1 s to 30 days", "--for", "choose a length between"});
    const auto key = keyOf(a);
    if (!key) return fail(key.error());
    probe::WatchConfig config;
    config.from = [&](const std::stop_token&) { return link(a, a.from, *key, familyOf(a)); };
    config.to = [&](const std::stop_token&) { return link(a, a.to, *key, familyOf(a)); };
    config.run = steps->front().front();
    config.seconds = lasting->count();
    probe::WatchObserver observer;
    observer.lost = [](double t, const quantity::Problem& why) {
        std::cerr << "after " << quantity::significant(t, 4) << " s: " << why.sentence() << std::endl;
    };
    std::optional<quantity::Problem> unwritten;
    observer.kept = [&](const benchmark::WatchReport& report) {
        if (a.file.empty() || unwritten) return;
        if (auto written = job::writeJson(a.file, toJson(report)); !written) unwritten = written.error();
    };
    const Interrupt interrupt;
    const auto report = probe::watch(config, observer, interrupt.token());
    if (!report) return fail(report.error());
    observer.kept(*report);
    const json document = toJson(*report);
    if (const auto kept = keepReport(document, a.run.saveTo); !kept) return fail(kept.error());
    if (a.run.json) {
        print(document);
    } else {
        const auto at = [](double t) { return "At " + benchmark::spanWords(t); };
        for (const std::string& line : benchmark::sentences(*report, at))
            std::cout << line << '\n';
        if (report->head.simulated) std::cout << "All of it is simulated.\n";
    }
    return unwritten ? fail(*unwritten) : 0;
}

int search(const Arguments& a) {
    RunOptions options = a.run;
    options.protocol = "udp";
    options.streams = 1;
    options.rate = a.high;
    options.repeat = 1;
    const auto steps = stepsOf(options);
    if (!steps) return fail(steps.error());
    if (steps->size() != 1 || steps->front().size() != 1)
        return fail({"a search goes one way", "--direction", "choose forward or backward"});
    const auto key = keyOf(a);
    if (!key) return fail(key.error());
    auto ends = endsOf(a, *key);
    if (!ends) return fail(ends.error());
    const benchmark::RunConfig& config = steps->front().front();
    benchmark::SearchSettings settings;
    settings.high = *config.rate;
    settings.low = std::min(settings.low, settings.high * 0.1);
    settings.acceptedLoss = a.loss;
    const Interrupt interrupt;
    const auto found = benchmark::searchRate(settings, config, [&](const benchmark::RunConfig& trial) {
        return probe::conduct(ends->from, ends->to, trial, {}, interrupt.token());
    });
    if (!found) return fail(found.error());
    const benchmark::SearchReport report = benchmark::reportOf(*found, settings);
    if (a.run.json) {
        json document = benchmark::measurementDocument(found->trials, benchmark::Rule::median);
        document["search"] = {{"accepted_loss", settings.acceptedLoss},
                              {"best_bps", found->best ? json(found->best->bps()) : json(nullptr)},
                              {"failed_bps", found->failed ? json(found->failed->bps()) : json(nullptr)}};
        print(document);
    } else {
        printMeasurement(found->trials, options);
        for (const std::string& line : benchmark::sentences(report))
            std::cout << line << '\n';
    }
    if (const auto kept = keepReport(toJson(report), a.run.saveTo); !kept) return fail(kept.error());
    // With a route its trials are runs of that route as well.
    const auto saved = a.run.route.empty() ? quantity::Result<void>() : saveRuns(found->trials, a.run);
    return saved ? 0 : fail(saved.error());
}

// Every pair in turn, then those that were chosen at once.
int matrix(const Arguments& a) {
    const std::size_t count = a.endpoints.size();
    if (count < 2) return fail({"a matrix needs at least two endpoints", "", "name them, HOST:PORT or here"});
    RunOptions options = a.run;
    options.directions = house::Directions::forward;
    const auto steps = stepsOf(options);
    if (!steps) return fail(steps.error());
    const bool onlyHere =
        std::all_of(a.endpoints.begin(), a.endpoints.end(), [](const std::string& e) { return e == "here"; });
    const auto key =
        onlyHere ? quantity::Result<probe::Key>(probe::Key::generate()) : probe::Key::load(a.keyFile);
    if (!key) return fail(key.error());
    std::vector<benchmark::Pair> chosen;
    for (const std::string& text : a.atOnce) {
        const auto pair = pairOf(text, count);
        if (!pair) return fail(pair.error());
        chosen.push_back(*pair);
    }
    probe::MatrixConfig config;
    for (const std::string& address : a.endpoints) {
        config.ends.emplace_back(
            [&key, &a, address](const std::stop_token&) { return link(a, address, *key, familyOf(a)); });
        if (onlyHere) config.names.push_back("here " + std::to_string(config.names.size()));
    }
    config.run = steps->front().front();
    config.repeats = static_cast<int>(steps->size());
    config.rule = house::summaryRule(options.summary).value_or(benchmark::Rule::trimmed);
    config.atOnce = chosen;
    const Interrupt interrupt;
    const auto matrix = probe::measureMatrix(
        config,
        [&](const benchmark::Matrix& m) {
            const benchmark::MatrixCell& cell = m.cells.back();
            if (!options.json)
                std::cout << (m.simulated ? "simulated " : "") << m.names[cell.pair.from] << " to "
                          << m.names[cell.pair.to] << ": " << plainBoth(cell.summary.goodput) << std::endl;
        },
        interrupt.token());
    if (!matrix) return fail(matrix.error());
    const benchmark::MatrixReport report = benchmark::reportOf(*matrix, {});
    if (const auto kept = keepReport(toJson(report), options.saveTo); !kept) return fail(kept.error());
    if (options.json) {
        print(toJson(report));
        return 0;
    }
    for (const benchmark::SharedCell& c : matrix->together)
        std::cout << "at once, " << matrix->names[c.pair.from] << " to " << matrix->names[c.pair.to] << ": "
                  << plainBoth(c.atOnce) << ", " << quantity::significant(c.share() * 100, 2)
                  << " % of what it gets alone\n";
    for (const std::string& line : benchmark::sentences(report))
        std::cout << line << '\n';
    return 0;
}

int copy(const Arguments& a) {
    const auto size = quantity::parseByteCount(a.size);
    if (!size) return fail(size.error());
    const Interrupt interrupt;
    const auto done = probe::copyFile({a.folder, size->bytes}, interrupt.token());
    if (!done) return fail(done.error());
    if (const auto kept = keepReport(toJson(*done), a.run.saveTo); !kept) return fail(kept.error());
    if (a.run.json) {
        print(toJson(*done));
        return 0;
    }
    for (const std::string& line : benchmark::sentences(*done))
        std::cout << line << '\n';
    return 0;
}

} // namespace metrodos::programs
