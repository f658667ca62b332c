// Real paths between network namespaces, measured by the engine and judged: the verdict must be what was
// built. The survey of each is a house of two machines and a switch that knows nothing of it. Takes minutes:
// only where METRODOS_DEEP is set.
#include "benchmark/run_json.h"
#include "support/judged.h"
#include "support/programs.h"
#include "support/withheld.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

struct Path {
    const char* script;      ///< "lab", shaped by the kernel, or "wire", carried by a program
    const char* description; ///< its first argument
    QStringList options = {};
    std::vector<std::pair<const char*, const char*>> environment = {}; ///< METRODOS_LAB_…
    const char* route = "desk-shelf";
    std::vector<house::Id> bypassed = {}; ///< what its runs leave out
};

// One stream and four, both ways. Nothing: this machine lets no one build it.
std::optional<benchmark::RouteRuns> measure(const Path& path) {
    benchmark::RouteRuns out;
    for (const int streams : {4, 1}) {
        QStringList arguments{path.description,         programs(),  "--direction", "both",  "--streams",
                              QString::number(streams), "--seconds", "6",           "--json"};
        arguments += path.options;
        for (const auto& [name, value] : path.environment)
            qputenv(name, value);
        const auto result = run(script(path.script), arguments, 120'000);
        for (const auto& [name, value] : path.environment)
            qunsetenv(name);
        if (result.code == 77) return std::nullopt;
        if (result.code != 0) qFatal("%s", result.err.c_str());
        const auto document = result.json();
        for (const auto& one : document.at("runs")) {
            benchmark::Run measured = benchmark::runFromJson(one).value();
            qInfo("%s, %d streams: %.1f Mbit/s, delay %.2f to %.2f ms, %d sent again",
                  benchmark::name(measured.config.direction), measured.config.streams,
                  measured.goodput.inMegabits(), measured.rttIdleUs ? measured.rttIdleUs->p50 / 1e3 : -1,
                  measured.rttLoadedUs ? measured.rttLoadedUs->p50 / 1e3 : -1,
                  static_cast<int>(measured.retransmits.value_or(0)));
            measured.config.arrangement.bypassed = path.bypassed;
            out.push_back({path.route, std::move(measured)});
        }
    }
    if (out.size() != 4) qFatal("%d runs instead of four", static_cast<int>(out.size()));
    return out;
}

double ofKind(const trace::Diagnosis& d, const std::vector<std::string>& elements) {
    double sum = 0;
    for (const std::string& e : elements)
        sum += probability(d, e);
    return sum;
}

const std::vector<std::string> links{"desk.lan", "run-1", "switch.p1", "switch.p2", "run-2", "shelf.lan"};

// Cables that nobody tested.
house::House survey(const std::string& phy = "1000base-t") {
    auto h = wiredHouse(phy, phy, phy);
    for (const char* run : {"run-1", "run-2"})
        h.connection(run)->goodPairs.reset();
    return h;
}

// A desk at one switch; a shelf and a table at another, the two switches joined by an uplink.
house::House twoSwitches() {
    using namespace house;
    House h = survey();
    Device& near = *h.device("switch");
    near.ports[1].label = "uplink";
    Device hub{"hub", "Hub", DeviceKind::network_switch, "switch-1g", "study", {}};
    for (const char* port : {"p1", "p2", "p3"})
        hub.ports.push_back({port, port, PortKind::ethernet, "1000base-t"});
    h.devices.push_back(hub);
    Device table = *h.device("shelf");
    table.id = "table";
    table.label = "Table computer";
    h.devices.push_back(table);
    Connection& run = *h.connection("run-2");
    Connection uplink = run;
    uplink.id = uplink.label = "uplink";
    uplink.ends = {{"switch", "p2"}, {"hub", "p1"}};
    run.ends = {{"hub", "p2"}, {"shelf", "lan"}};
    Connection other = run;
    other.id = other.label = "run-3";
    other.ends = {{"hub", "p3"}, {"table", "lan"}};
    h.connections.push_back(uplink);
    h.connections.push_back(other);
    h.endpoints.push_back({"table-end", "Table", "table", ""});
    Route second = h.routes[0];
    second.id = "desk-table";
    second.label = "Desk to table";
    second.to = "table-end";
    h.routes.push_back(second);
    return h;
}

} // namespace

class TestVerdicts : public QObject {
    Q_OBJECT

    // What was measured, judged until it holds or the machine was disturbed in every attempt.
    static void expect(const std::vector<Path>& paths, const house::House& house,
                       const std::function<bool(const trace::Diagnosis&)>& holds) {
        if (qEnvironmentVariableIntValue("METRODOS_DEEP") <= 0) QSKIP("Only with METRODOS_DEEP=1.");
        std::string last;
        Attempts attempts(3);
        while (attempts.next()) {
            benchmark::RouteRuns runs;
            for (const Path& path : paths) {
                const auto measured = measure(path);
                if (!measured) QSKIP("This machine lets no one build such a path.");
                runs.insert(runs.end(), measured->begin(), measured->end());
            }
            const auto d = judged(house, runs);
            last = d.sentence + "\n" + all(d);
            // What the survey alone would say proves nothing.
            if (d.measuredForward && d.measuredBackward && holds(d)) return;
        }
        if (attempts.allDisturbed()) QSKIP(disturbed);
        QVERIFY2(false, last.c_str());
    }

  private slots:
    // 98.4 Mbit/s of frames leave the 94.1 of a port of 100 Mbit/s; the survey has ports of 1 Gbit/s.
    void aPortOf100Megabits() {
        expect({{"lab", "98.4mbit"}}, survey(), [](const trace::Diagnosis& d) {
            return ofKind(d, links) > 0.85 && probability(d, trace::unlisted) < 0.15;
        });
    }
    // 984 Mbit/s leave the 941 of a port of 1 Gbit/s.
    void aPortOfOneGigabit() {
        expect({{"lab", "984mbit"}}, survey(),
               [](const trace::Diagnosis& d) { return ofKind(d, links) > 0.8; });
    }
    // The survey has ports of 10 Gbit/s; whose is slower is not seen from the ends.
    void aSlowerPortThanWrittenDown() {
        auto h = survey("10gbase-t");
        h.device("switch")->deviceClass = "switch-10g";
        expect({{"lab", "984mbit"}}, h, [](const trace::Diagnosis& d) { return ofKind(d, links) > 0.7; });
    }
    void aRateLimitBelowEveryPort() {
        expect({{"lab", "312mbit"}}, survey(),
               [](const trace::Diagnosis& d) { return first(d).element == trace::unlisted; });
    }
    // 64 KiB over 20 ms: 26 Mbit/s a stream, and four of them are twice and more of one.
    void aSmallWindowOverDelay() {
        expect({{"wire", "rate=200e6 delay=0.01 queue=512e3", {"--window", "65536"}}}, survey(),
               [](const trace::Diagnosis& d) { return warns(d, "held by its window over the delay"); });
    }
    // A machine that gets a twelfth of a core between ports of 10 Gbit/s: it is the limit.
    void aSlowCoreByAQuota() {
        auto h = survey("10gbase-t");
        h.device("switch")->deviceClass = "switch-10g";
        for (const char* run : {"run-1", "run-2"})
            h.connection(run)->cableClass = "cat6a";
        expect({{"lab", "9840mbit", {}, {{"METRODOS_LAB_QUOTA", "8"}}}}, h,
               [](const trace::Diagnosis& d) { return first(d).element == "shelf"; });
    }
    // 941 there and 94 back over copper that links at one rate for both: two limits, and the slow one is no
    // port of 100 Mbit/s.
    void anotherRateEachWay() {
        expect({{"lab", "984mbit", {}, {{"METRODOS_LAB_BACK", "98.4mbit"}}}}, survey(),
               [](const trace::Diagnosis& d) {
                   return d.limitForward && d.limitBackward &&
                          d.limitForward->element != d.limitBackward->element &&
                          std::fabs(d.limitForward->ceiling.inMegabits() / 941 - 1) < 0.05 &&
                          std::fabs(d.limitBackward->ceiling.inMegabits() / 94.1 - 1) < 0.1;
               });
    }
    // A test machine at the nearer switch gets 941, the far one 94: it lies behind that switch.
    void aHopInTheMiddle() {
        const std::vector<house::Id> beyond{"switch.p2", "uplink", "hub.p1",    "hub",
                                            "hub.p2",    "run-2",  "shelf.lan", "shelf"};
        expect({{"lab", "984mbit", {}, {{"METRODOS_LAB_MIDDLE", "98.4mbit"}}},
                {"lab",
                 "984mbit",
                 {},
                 {{"METRODOS_LAB_MIDDLE", "98.4mbit"}, {"METRODOS_LAB_TO", "between"}},
                 "desk-shelf",
                 beyond}},
               twoSwitches(), [&](const trace::Diagnosis& d) {
                   return ofKind(d, {"desk.lan", "run-1", "switch.p1", "desk"}) < 0.05 &&
                          ofKind(d, beyond) > 0.8;
               });
    }
    // Both machines behind it get 94 and neither has anything else in common but the way up to the hub.
    void twoRoutesOverOneLink() {
        expect({{"lab", "984mbit", {}, {{"METRODOS_LAB_MIDDLE", "98.4mbit"}}},
                {"lab",
                 "984mbit",
                 {},
                 {{"METRODOS_LAB_MIDDLE", "98.4mbit"}, {"METRODOS_LAB_TO", "second"}},
                 "desk-table"}},
               twoSwitches(), [](const trace::Diagnosis& d) {
                   return ofKind(d, {"hub.p2", "run-2", "shelf.lan", "shelf"}) < 0.1 &&
                          ofKind(d, {"desk.lan", "run-1", "switch.p1", "switch.p2", "uplink", "hub.p1"}) >
                              0.8;
               });
    }
    // 1.22 · 1448 B / (4 ms · √0.02): 25 Mbit/s a stream. Clean counters at both ends: a hop in the middle.
    void lossInTheMiddle() {
        expect({{"wire", "rate=300e6 delay=0.002 queue=512e3 loss=0.02"}}, survey(),
               [](const trace::Diagnosis& d) {
                   return ofKind(d, {"run-1", "run-2", "switch"}) > 0.6 && warns(d, "segments are lost");
               });
    }
};

QTEST_GUILESS_MAIN(TestVerdicts)
#include "test_verdicts.moc"
