// metrodos-cli: every computation without a window.
#include "benchmark/rate_search.h"
#include "benchmark/run_json.h"
#include "capacity/predict_json.h"
#include "capacity/sharing.h"
#include "catalog/check.h"
#include "catalog/load.h"
#include "job/open.h"
#include "probe/account.h"
#include "probe/conduct.h"
#include "probe/key_requests.h"
#include "probe/meeting.h"
#include "probe/qr_code.h"
#include "probe/run_stamp.h"
#include "programs/cli_export.h"
#include "programs/cli_files.h"
#include "programs/cli_fit.h"
#include "programs/cli_guest.h"
#include "programs/cli_log.h"
#include "programs/cli_measure.h"
#include "programs/cli_options.h"
#include "programs/cli_weigh.h"
#include "programs/no_core.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/text.h"
#include "standin/simulate.h"
#include "trace/trace_json.h"

#include <csignal>
#include <functional>
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
    const auto right = a.onlyTakesPart ? probe::Right::takePart : probe::Right::command;
    const auto saved = probe::saveKeyFile({probe::Key::generate(), right, {}}, a.newKey);
    return saved ? 0 : fail(saved.error());
}

// From a key that several agents have to one that this agent alone knows.
int moveKey(const Arguments& a) {
    const auto shared = probe::Key::load(a.keyFile);
    if (!shared) return fail(shared.error());
    auto link = probe::EndpointLink::connect(a.from, *shared);
    if (!link) return fail(link.error());
    const auto made = probe::askForKey(*link, probe::Right::command, probe::ownAccount());
    if (!made) return fail(made.error());
    if (const auto saved = made->save(a.newKey); !saved) return fail(saved.error());
    // Nothing is given up before the new key has opened.
    if (const auto opened = probe::EndpointLink::connect(a.from, *made); !opened) return fail(opened.error());
    std::cout << link->name() << " knows the key in " << a.newKey << ", and no other agent does.\n";
    if (!a.retires) return 0;
    if (const auto gone = probe::askToForget(*link); !gone) return fail(gone.error());
    std::cout << "It knows the key in " << a.keyFile << " no longer.\n";
    return 0;
}

int showKey(const Arguments& a) {
    const auto key = probe::Key::load(a.keyFile);
    if (!key) return fail(key.error());
    const auto code = probe::encodeQr(probe::Invitation{"", *key}.text());
    if (!code) return fail(code.error());
    std::cout << probe::terminalText(*code) << key->text() << '\n';
    return 0;
}

// The full secret of the meeting has been typed: who answers to it is the machine that shows it.
int meet(const Arguments& a) {
    std::string words;
    for (const std::string& word : a.words)
        words += word + ' ';
    const auto code = probe::MeetingCode::parse(words);
    if (!code) return fail(code.error());
    auto call = probe::MeetingCall::to(a.from, *code, probe::ownAccount());
    if (!call) return fail(call.error());
    if (const auto saved = call->pairing().key.save(a.newKey); !saved) return fail(saved.error());
    if (const auto kept = call->keep(); !kept) {
        std::error_code gone;
        std::filesystem::remove(a.newKey, gone); // of no use to anybody
        return fail(kept.error());
    }
    std::cout << call->agent() << " should show the same four words:\n  " << call->pairing().words
              << "\nIf it does not, delete " << a.newKey << ".\n";
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
    // The same seed prints the same document; in a job a run is one of many, and has its time.
    for (benchmark::Run& run : runs) {
        run.id = probe::newRunId();
        run.startedAt = probe::utcNow();
    }
    const auto saved = saveRuns(runs, a.run);
    return saved ? 0 : fail(saved.error());
}

// "ROUTE[:forward|:backward][:RATE]".
quantity::Result<capacity::Flow> flowOf(const house::House& house, const std::string& text) {
    const std::string id = text.substr(0, text.find(':'));
    const house::Route* route = house.route(id);
    if (route == nullptr)
        return quantity::problem("the job has no route " + quantity::inQuotes(id), "--flows",
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

using Handler = std::function<int(const Arguments&)>;

Handler withCatalog(int (*does)(const Arguments&, const catalog::Catalog&)) {
    return [does](const Arguments& a) {
        const auto catalog = catalog::loadDefault();
        return catalog ? does(a, *catalog) : fail(catalog.error());
    };
}

// Stops in order on an interrupt: the command's waiter takes these signals, which must be blocked before any
// thread starts.
Handler interruptible(int (*does)(const Arguments&)) {
    return [does](const Arguments& a) {
        sigset_t signals;
        sigemptyset(&signals);
        sigaddset(&signals, SIGINT);
        sigaddset(&signals, SIGTERM);
        pthread_sigmask(SIG_BLOCK, &signals, nullptr);
        return does(a);
    };
}

// The commands with their options, and what each does.
class Commands {
  public:
    Commands() {
        m_app.require_subcommand(1);
        addKeys();
        addMachines();
        addRuns();
        addTests();
        addJudgements();
        addFiles();
    }
    int run(int argc, char** argv) {
        try {
            m_app.parse(argc, argv);
        } catch (const CLI::ParseError& error) {
            return m_app.exit(error) == 0 ? 0 : 2;
        }
        for (const auto& [command, does] : m_handlers)
            if (command->parsed()) return does(m_arguments);
        return 2; // one is required
    }

  private:
    CLI::App& add(CLI::App& under, const char* name, const char* what, Handler does) {
        CLI::App* command = under.add_subcommand(name, what);
        m_handlers.emplace_back(command, std::move(does));
        return *command;
    }
    CLI::App& add(const char* name, const char* what, Handler does) {
        return add(m_app, name, what, std::move(does));
    }
    CLI::App& addOnJob(const char* name, const char* what, Handler does) {
        CLI::App& command = add(name, what, std::move(does));
        command.add_option("job", m_arguments.job, "a .metrodos file or its JSON form")->required();
        return command;
    }
    CLI::App& addBetweenEnds(const char* name, const char* what, Handler does) {
        CLI::App& command = add(name, what, std::move(does));
        command.add_option("--from", m_arguments.from, "here or HOST:PORT")->required();
        command.add_option("--to", m_arguments.to, "here or HOST:PORT")->required();
        command.add_option("--key-file", m_arguments.keyFile);
        return command;
    }

    void addKeys() {
        Arguments& a = m_arguments;
        CLI::App* key = m_app.add_subcommand("key", "keys of agents");
        key->require_subcommand(1);
        CLI::App& making = add(*key, "new", "make a key in a new file", newKey);
        making.add_option("file", a.newKey)->required();
        making.add_flag("--take-part", a.onlyTakesPart,
                        "whoever has it may be the other end of runs, and command nothing else");
        CLI::App& moving =
            add(*key, "move", "ask an agent for a key of its own in place of one that several have", moveKey);
        moving.add_option("address", a.from, "HOST:PORT of the agent")->required();
        moving.add_option("file", a.newKey, "new file for the key")->required();
        moving.add_option("--key-file", a.keyFile, "the key that the agent knows now")->required();
        moving.add_flag("--retire", a.retires, "the agent shall know that one no longer");
        add(*key, "show", "show a key in letters and as a code; whoever sees it has it", showKey)
            .add_option("file", a.keyFile)
            ->required();
        addMeeting(*key);
    }
    void addMeeting(CLI::App& key) {
        Arguments& a = m_arguments;
        CLI::App& meeting =
            add(key, "meet", "meet an agent that shows eight words, and keep the key made there", meet);
        meeting.add_option("address", a.from, "HOST:PORT of the agent")->required();
        meeting.add_option("file", a.newKey, "new file for the key")->required();
        meeting.add_option("words", a.words, "those that it shows")->required();
    }
    void addMachines() {
        Arguments& a = m_arguments;
        CLI::App& facts = add("endpoints", "facts of each endpoint as JSON", withCatalog(endpoints));
        facts.add_option("--key-file", a.keyFile)->required();
        facts.add_option("address", a.endpoints, "HOST:PORT of agents, or here")->required();
        facts.add_option("--save", a.run.saveTo,
                         "job to put the facts into, at the endpoints of these addresses");
        CLI::App& finding = add("find", "agents that announce themselves on the network", find);
        finding.add_option("--for", a.looking, "how long to look, like 5 s");
        finding.add_flag("--json", a.run.json, "print a document");
    }
    void addRuns() {
        Arguments& a = m_arguments;
        CLI::App& measuring = addBetweenEnds("measure", "run between two endpoints", interruptible(measure));
        measuring.add_option("--route", a.run.route, "route of the job that --save names");
        addRunOptions(measuring, a.run);
        CLI::App& serving =
            add("service", "load from and to a web address: the service by itself", interruptible(service));
        serving.add_option("url", a.url, "like http://server/large-file; forward is from it, backward to it")
            ->required();
        serving.add_option("--route", a.run.route, "route of the job that --save names");
        addRunOptions(serving, a.run);
        CLI::App& inviting =
            add("guest", "run with a device that has nothing but a browser", interruptible(guest));
        inviting.add_option("--listen", a.guestListen, "numeric address and port, like 192.168.1.5:47720");
        inviting.add_option("--at", a.guestAt,
                            "an agent, started with --guest, in the place of this machine");
        inviting.add_option("--key-file", a.keyFile, "of the agent at --at");
        inviting.add_option("--for", a.guestFor, "how long the code lasts, like 1 h");
        inviting.add_option("--route", a.run.route, "route of the job that --save names");
        addRunOptions(inviting, a.run);
        CLI::App& simulating =
            addOnJob("simulate", "the same run in the simulated house", withCatalog(simulate));
        simulating.add_option("--route", a.run.route)->required();
        simulating.add_option("--seed", a.seed, "the same seed gives the same result");
        addRunOptions(simulating, a.run);
    }
    void addTests() {
        Arguments& a = m_arguments;
        CLI::App& watching = addBetweenEnds("watch", "hours or days between two endpoints: finds drop-outs",
                                            interruptible(watch));
        watching.add_option("--for", a.lasting, "how long in all, like 8 h; 1 s to 30 days");
        watching.add_option("--out", a.file, "file that holds the report so far, written after every minute");
        addRunOptions(watching, a.run);
        CLI::App& searching = addBetweenEnds(
            "search", "the loss-free rate: the highest rate of datagrams with hardly any loss", search);
        searching.add_option("--high", a.high, "where the search begins, and its upper end");
        searching.add_option("--loss", a.loss, "share of the datagrams that may be lost")
            ->check(CLI::Range(0.0, 0.5));
        searching.add_option("--route", a.run.route, "route of the job that --save names");
        addRunOptions(searching, a.run);
        CLI::App& crossing = add("matrix", "every endpoint against every other", matrix);
        crossing.add_option("address", a.endpoints, "HOST:PORT of agents, or here")->required();
        crossing.add_option("--key-file", a.keyFile);
        crossing.add_option("--at-once", a.atOnce, "pairs to run at the same time after that, like 0-1");
        addRunOptions(crossing, a.run);
        CLI::App& copying = add("copy", "write and read one file over a mounted folder", copy);
        copying.add_option("folder", a.folder)->required();
        copying.add_option("--size", a.size, "of the file, like 1GB; it is removed again");
        copying.add_flag("--json", a.run.json);
        copying.add_option("--save", a.run.saveTo, "job that keeps the result");
    }
    void addJudgements() {
        Arguments& a = m_arguments;
        CLI::App& predicting =
            addOnJob("predict", "what each route and element can carry", withCatalog(predict));
        predicting.add_option("--route", a.run.route);
        predicting.add_flag("--json", a.run.json);
        predicting.add_option("--flows", a.flows,
                              "ROUTE[:forward|:backward][:RATE]...: what they get all at once");
        CLI::App& tracing = addOnJob("trace", "which element limits a route", withCatalog(traceRoute));
        tracing.add_option("--route", a.run.route)->required();
        tracing.add_flag("--json", a.run.json);
        addOnJob("fit", "the steps that make the chosen plan real", withCatalog(fitHouse))
            .add_flag("--json", a.run.json);
        CLI::App& addressing =
            addOnJob("addresses", "write the address plan for other programs", writeAddresses);
        addressing.add_option("--to", a.to, "FILE.csv, FILE.hosts, or FILE.conf for reservations")
            ->required();
        addressing.add_option("--syntax", a.syntax, "of reservations: a line each, or a block each")
            ->check(CLI::IsMember({"lines", "blocks"}));
        CLI::App& labelling = addOnJob("labels", "write labels for jacks, cables and boxes", writeLabels);
        labelling.add_option("--to", a.to, "FILE.pdf or FILE.csv")->required();
        labelling.add_option("--paper", a.paper, "of the sheet")->check(CLI::IsMember({"a4", "letter"}));
        CLI::App& logging = addOnJob("log", "every run of a job, oldest first", logRuns);
        logging.add_option("--runs", a.first, "which: words, or route=… direction=… from=… hours=18-22 …");
        logging.add_flag("--json", a.run.json);
        CLI::App& comparing = addOnJob("compare", "two sets of runs against each other", compareRuns);
        comparing.add_option("--a", a.first, "the first set, as for log --runs")->required();
        comparing.add_option("--b", a.second, "the second set")->required();
        comparing.add_flag("--json", a.run.json);
        CLI::App& scheduling =
            addOnJob("schedule", "write the schedules of a job for calendars", writeSchedules);
        scheduling.add_option("--to", a.to, "FILE.ics")->required();
        addLibrary();
        CLI::App& weighing =
            addOnJob("weigh", "plans for the house: what to fit where, what it carries and costs",
                     withCatalog(weighHouse));
        weighing.add_flag("--json", a.run.json);
        weighing.add_option("--objective,--school", a.objective,
                            "cheapest, steadiest, no-drilling, fastest or lasting");
        weighing.add_option("--prices", a.prices, "price book as CSV; guide prices without");
        addOnJob("check", "list every fault of a job", withCatalog(check));
    }
    void addLibrary() {
        Arguments& a = m_arguments;
        CLI::App& library = *m_app.add_subcommand("library", "all jobs of a folder");
        library.require_subcommand(1);
        const auto folder = [&](CLI::App& command) {
            command.add_option("folder", a.library, "with its subfolders")->required();
            command.add_flag("--json", a.run.json);
        };
        folder(add(library, "list", "client, date, what limits, what is open", withCatalog(listLibrary)));
        CLI::App& searching =
            add(library, "search", "the jobs that have all the words", withCatalog(searchLibrary));
        searching.add_option("words", a.first)->required();
        folder(searching);
        folder(add(library, "statistics", "what these houses say of each class, against the catalog",
                   withCatalog(countLibrary)));
    }
    void addFiles() {
        Arguments& a = m_arguments;
        CLI::App& importing = add("import", "make a job of a file", importFile);
        importing
            .add_option("file", a.file,
                        "a .json document, a .csv table, or a damaged .metrodos to recover from")
            ->required();
        importing.add_option("--to", a.to, "the new job")->required();
        CLI::App& exporting =
            addOnJob("export", "write a job as a file of another form", withCatalog(exportJob));
        exporting
            .add_option("--to", a.to,
                        "the job (.json), a table (.csv), a drawing (.svg, .png), everything (.zip), or a "
                        "document (.html, .pdf, .md)")
            ->required();
        exporting
            .add_option("--for", a.forWhom,
                        "whom a document is for; an offer is the plan of the house, priced")
            ->check(CLI::IsMember({"client", "technician", "offer"}));
        exporting.add_option("--paper", a.paper, "of a PDF")->check(CLI::IsMember({"a4", "letter"}));
        exporting.add_option("--table", a.table, "which table")
            ->check(CLI::IsMember({"survey", "runs", "samples"}));
        exporting.add_option("--drawing", a.drawing, "which drawing: section, ranges, way, week");
        exporting.add_option("--firm", a.firm, "name of the firm on a document");
        exporting.add_option("--logo", a.logo, "its logo, a PNG file");
        exporting.add_option("--colour", a.colour, "of headings, like #1d6a85");
        exporting.add_option("--prices", a.prices, "the price book of an offer, as CSV");
        exporting.add_option("--objective", a.objective, "what an offer's plan is the best by");
        exporting.add_flag("--private", a.isPrivate, "without names, addresses, notes and photos");
        exporting.add_flag("--keep", a.keep, "keep the document in the job, dated");
        CLI::App& verifying = add("verify", "whether a document belongs to a job's records", verifyDocument);
        verifying.add_option("document", a.file)->required();
        verifying.add_option("job", a.job)->required();
    }

    CLI::App m_app{"Measures, predicts and judges the speed of a house's wiring, without a window."};
    Arguments m_arguments;
    std::vector<std::pair<const CLI::App*, Handler>> m_handlers;
};

} // namespace

int main(int argc, char** argv) {
    programs::leaveNoCore();
    probe::ignoreBrokenPipes();
    return Commands().run(argc, argv);
}
