// metrodos-cli: every computation without a window.
#include "benchmark/rate_search.h"
#include "benchmark/run_json.h"
#include "capacity/predict_json.h"
#include "capacity/sharing.h"
#include "catalog/check.h"
#include "catalog/load.h"
#include "job/open.h"
#include "probe/conduct.h"
#include "probe/qr_code.h"
#include "programs/cli_files.h"
#include "programs/cli_measure.h"
#include "programs/cli_options.h"
#include "programs/cli_weigh.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "standin/simulate.h"
#include "trace/trace_json.h"

#include <csignal>
#include <iostream>
#include <nlohmann/json.hpp>
#include <thread>

namespace {

using namespace metrodos;
using namespace metrodos::programs;
using nlohmann::json;

quantity::Result<house::Route> routeOf(const job::Document& document, const Arguments& a) {
    const house::Route* route = document.house.route(a.run.route);
    if (route == nullptr) {
        std::string known;
        for (const house::Route& r : document.house.routes)
            known += (known.empty() ? "" : ", ") + r.id;
        return quantity::problem("the job has no route “" + a.run.route + "”", a.job,
                                 known.empty() ? "add a route to the job" : "it has " + known);
    }
    return *route;
}

int newKey(const Arguments& a) {
    const auto saved = probe::Key::generate().save(a.newKey);
    return saved ? 0 : fail(saved.error());
}

int showKey(const Arguments& a) {
    const auto key = probe::Key::load(a.keyFile);
    if (!key) return fail(key.error());
    const auto code = probe::encodeQr(probe::Invitation{"", *key}.text());
    if (!code) return fail(code.error());
    std::cout << probe::terminalText(*code) << key->text() << '\n';
    return 0;
}

int simulate(const Arguments& a, const catalog::Catalog& catalog) {
    const auto steps = stepsOf(a.run);
    if (!steps) return fail(steps.error());
    const auto document = soundJob(a, catalog);
    if (!document) return fail(document.error());
    const auto route = routeOf(*document, a);
    if (!route) return fail(route.error());
    std::vector<benchmark::Run> runs;
    int repeat = 0;
    for (const Step& step : *steps) {
        auto done = standin::simulate(document->house, catalog, *route, step, a.seed, repeat++);
        if (!done) return fail(done.error());
        std::move(done->begin(), done->end(), std::back_inserter(runs));
    }
    printMeasurement(runs, a.run);
    const auto saved = saveRuns(runs, a.run);
    return saved ? 0 : fail(saved.error());
}

// "ROUTE[:forward|:backward][:RATE]".
quantity::Result<capacity::Flow> flowOf(const house::House& house, const std::string& text) {
    const std::string id = text.substr(0, text.find(':'));
    const house::Route* route = house.route(id);
    if (route == nullptr)
        return quantity::problem("the job has no route “" + id.substr(0, 64) + "”", "--flows",
                                 "name one of its routes");
    capacity::Flow flow{*route, true, {}};
    for (std::size_t at = id.size(); at < text.size();) {
        const std::size_t next = std::min(text.find(':', at + 1), text.size());
        const std::string part = text.substr(at + 1, next - at - 1);
        at = next;
        if (part == "forward" || part == "backward") {
            flow.forward = part == "forward";
            continue;
        }
        const auto rate = quantity::parseBitRate(part);
        if (!rate) return tl::unexpected(rate.error());
        flow.demand = *rate;
    }
    return flow;
}

// What the flows get at once, as one more member of the prediction.
quantity::Result<json> flowsOf(const Arguments& a, const job::Document& document,
                               const catalog::Catalog& catalog) {
    std::vector<capacity::Flow> flows;
    for (const std::string& text : a.flows) {
        auto flow = flowOf(document.house, text);
        if (!flow) return tl::unexpected(flow.error());
        flows.push_back(std::move(*flow));
    }
    const auto shares = capacity::shareFlows(document.house, catalog, flows);
    if (!shares) return tl::unexpected(shares.error());
    json list = json::array();
    for (std::size_t f = 0; f < flows.size(); ++f)
        list.push_back({{"route", flows[f].route.id},
                        {"direction", flows[f].forward ? "forward" : "backward"},
                        {"demand_bps", flows[f].demand ? json(flows[f].demand->bps()) : json(nullptr)},
                        {"alone_bps", (*shares)[f].alone.bps()},
                        {"shared_bps", (*shares)[f].shared.bps()},
                        {"limit", (*shares)[f].limit.empty() ? json(nullptr) : json((*shares)[f].limit)},
                        {"because", (*shares)[f].because}});
    return list;
}

int predict(const Arguments& a, const catalog::Catalog& catalog) {
    const auto document = soundJob(a, catalog);
    if (!document) return fail(document.error());
    quantity::Result<json> flows = json::array();
    if (!a.flows.empty()) flows = flowsOf(a, *document, catalog);
    if (!flows) return fail(flows.error());
    std::vector<house::Route> wanted = document->house.routes;
    if (!a.run.route.empty()) {
        const auto route = routeOf(*document, a);
        if (!route) return fail(route.error());
        wanted = {*route};
    }
    std::vector<capacity::RoutePrediction> routes;
    for (const house::Route& route : wanted) {
        auto prediction = capacity::predict(document->house, catalog, route);
        if (!prediction) {
            quantity::Problem fault = prediction.error();
            fault.where = a.job + " route " + route.id;
            return fail(fault);
        }
        routes.push_back(std::move(*prediction));
    }
    if (a.run.json) {
        json out = capacity::toJson(routes);
        if (!a.flows.empty()) out["flows"] = *flows;
        print(out);
        return 0;
    }
    for (const json& flow : *flows)
        std::cout << flow.at("route").get<std::string>() << " " << flow.at("direction").get<std::string>()
                  << ": " << plainBoth(quantity::BitRate::bitsPerSecond(flow.at("shared_bps").get<double>()))
                  << " at once, "
                  << plain(quantity::BitRate::bitsPerSecond(flow.at("alone_bps").get<double>())) << " alone; "
                  << flow.at("because").get<std::string>() << '\n';
    for (const auto& route : routes) {
        std::cout << route.route.id << ": forward " << plainBoth(route.forward.p50) << " ("
                  << plain(route.forward.p10) << " to " << plain(route.forward.p90) << "), backward "
                  << plainBoth(route.backward.p50) << '\n';
        for (const auto& e : route.elements)
            std::cout << "  " << e.element.label << ": " << e.ceiling.because << ", limiter "
                      << (std::max(e.limiterForward, e.limiterBackward) < 0.001
                              ? "<0.1"
                              : quantity::significant(std::max(e.limiterForward, e.limiterBackward) * 100, 2))
                      << " %\n";
    }
    return 0;
}

int traceRoute(const Arguments& a, const catalog::Catalog& catalog) {
    const auto document = soundJob(a, catalog);
    if (!document) return fail(document.error());
    const auto route = routeOf(*document, a);
    if (!route) return fail(route.error());
    const auto diagnosis = trace::diagnoseRoute(document->house, catalog, *route, document->runs);
    if (!diagnosis) return fail(diagnosis.error());
    if (a.run.json) {
        print(trace::toJson(*diagnosis));
        return 0;
    }
    std::cout << diagnosis->sentence << '\n';
    for (const std::string& warning : diagnosis->warnings)
        std::cout << "Note: " << warning << ".\n";
    for (const trace::NextTest& test : diagnosis->nextTests)
        std::cout << "Next: " << test.does << " (" << test.minutes << " min).\n";
    return 0;
}

} // namespace

int main(int argc, char** argv) {
    probe::ignoreBrokenPipes();
    CLI::App app{"Measures, predicts and judges the speed of a house's wiring, without a window."};
    app.require_subcommand(1);
    Arguments a;
    const auto jobArgument = [&](CLI::App* command) {
        command->add_option("job", a.job, "a .metrodos file or its JSON form")->required();
    };

    const auto twoEnds = [&](CLI::App* command) {
        command->add_option("--from", a.from, "here or HOST:PORT")->required();
        command->add_option("--to", a.to, "here or HOST:PORT")->required();
        command->add_option("--key-file", a.keyFile);
    };

    CLI::App* key = app.add_subcommand("key", "keys of agents");
    key->require_subcommand(1);
    CLI::App* keyNew = key->add_subcommand("new", "make a key in a new file");
    keyNew->add_option("file", a.newKey)->required();
    CLI::App* keyShow =
        key->add_subcommand("show", "show a key in letters and as a code; whoever sees it has it");
    keyShow->add_option("file", a.keyFile)->required();
    CLI::App* facts = app.add_subcommand("endpoints", "facts of each endpoint as JSON");
    facts->add_option("--key-file", a.keyFile)->required();
    facts->add_option("address", a.endpoints, "HOST:PORT of agents, or here")->required();
    facts->add_option("--save", a.run.saveTo,
                      "job to put the facts into, at the endpoints of these addresses");
    CLI::App* finding = app.add_subcommand("find", "agents that announce themselves on the network");
    finding->add_option("--for", a.looking, "how long to look, like 5 s");
    finding->add_flag("--json", a.run.json, "print a document");
    CLI::App* measuring = app.add_subcommand("measure", "run between two endpoints");
    twoEnds(measuring);
    measuring->add_option("--route", a.run.route, "route of the job that --save names");
    addRunOptions(*measuring, a.run);
    CLI::App* serving =
        app.add_subcommand("service", "load from and to a web address: the service by itself");
    serving->add_option("url", a.url, "like http://server/large-file; forward is from it, backward to it")
        ->required();
    serving->add_option("--route", a.run.route, "route of the job that --save names");
    addRunOptions(*serving, a.run);
    CLI::App* watching = app.add_subcommand("watch", "hours or days between two endpoints: finds drop-outs");
    twoEnds(watching);
    watching->add_option("--for", a.lasting, "how long in all, like 8 h; 1 s to 30 days");
    watching->add_option("--out", a.file, "file that holds the report so far, written after every minute");
    addRunOptions(*watching, a.run);
    CLI::App* searching = app.add_subcommand("search", "the highest pace of datagrams with hardly any loss");
    twoEnds(searching);
    searching->add_option("--high", a.high, "where the search begins, and its upper end");
    searching->add_option("--loss", a.loss, "share of the datagrams that may be lost")
        ->check(CLI::Range(0.0, 0.5));
    searching->add_option("--route", a.run.route, "route of the job that --save names");
    addRunOptions(*searching, a.run);
    CLI::App* crossing = app.add_subcommand("matrix", "every endpoint against every other");
    crossing->add_option("address", a.endpoints, "HOST:PORT of agents, or here")->required();
    crossing->add_option("--key-file", a.keyFile);
    crossing->add_option("--at-once", a.atOnce, "pairs to run at the same time after that, like 0-1");
    addRunOptions(*crossing, a.run);
    CLI::App* copying = app.add_subcommand("copy", "write and read one file over a mounted folder");
    copying->add_option("folder", a.folder)->required();
    copying->add_option("--size", a.size, "of the file, like 1GB; it is removed again");
    copying->add_flag("--json", a.run.json);
    copying->add_option("--save", a.run.saveTo, "job that keeps the result");
    CLI::App* simulating = app.add_subcommand("simulate", "the same run in the simulated house");
    jobArgument(simulating);
    simulating->add_option("--route", a.run.route)->required();
    simulating->add_option("--seed", a.seed, "the same seed gives the same result");
    addRunOptions(*simulating, a.run);
    CLI::App* predicting = app.add_subcommand("predict", "what each route and element can carry");
    jobArgument(predicting);
    predicting->add_option("--route", a.run.route);
    predicting->add_flag("--json", a.run.json);
    predicting->add_option("--flows", a.flows,
                           "ROUTE[:forward|:backward][:RATE]...: what they get all at once");
    CLI::App* tracing = app.add_subcommand("trace", "which element limits a route");
    jobArgument(tracing);
    tracing->add_option("--route", a.run.route)->required();
    tracing->add_flag("--json", a.run.json);
    CLI::App* weighing =
        app.add_subcommand("weigh", "plans for the house: what to fit where, what it carries and costs");
    jobArgument(weighing);
    weighing->add_flag("--json", a.run.json);
    weighing->add_option("--objective,--school", a.objective,
                         "cheapest, steadiest, no-drilling, fastest or lasting");
    weighing->add_option("--prices", a.prices, "price book as CSV; guide prices without");
    CLI::App* checking = app.add_subcommand("check", "list every fault of a job");
    jobArgument(checking);
    CLI::App* importing = app.add_subcommand("import", "make a job of a file");
    importing
        ->add_option("file", a.file, "a .json document, a .csv table, or a damaged .metrodos to recover from")
        ->required();
    importing->add_option("--to", a.to, "the new job")->required();
    CLI::App* exporting = app.add_subcommand("export", "write a job as a file of another form");
    jobArgument(exporting);
    exporting->add_option("--to", a.to, "a .json, .csv, .svg or .md file; .md is the plan of the house")
        ->required();
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    }

    if (*keyNew) return newKey(a);
    if (*keyShow) return showKey(a);
    if (*importing) return importFile(a);
    if (*exporting && !a.to.ends_with(".md")) return exportFile(a);
    if (*measuring || *serving || *watching || *searching || *crossing || *copying) {
        // Before any thread starts: the waiter of `measure` takes these signals.
        sigset_t signals;
        sigemptyset(&signals);
        sigaddset(&signals, SIGINT);
        sigaddset(&signals, SIGTERM);
        if (*measuring || *serving || *watching) pthread_sigmask(SIG_BLOCK, &signals, nullptr);
        return *searching  ? search(a)
               : *serving  ? service(a)
               : *watching ? watch(a)
               : *crossing ? matrix(a)
               : *copying  ? copy(a)
                           : measure(a);
    }
    if (*finding) return find(a);
    const auto catalog = catalog::loadDefault();
    if (!catalog) return fail(catalog.error());
    if (*facts) return endpoints(a, *catalog);
    if (*simulating) return simulate(a, *catalog);
    if (*predicting) return predict(a, *catalog);
    if (*tracing) return traceRoute(a, *catalog);
    if (*exporting) return exportPlan(a, *catalog);
    if (*weighing) return weighHouse(a, *catalog);
    return check(a, *catalog);
}
