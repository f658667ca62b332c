// What is shown of runs: the sheet of one, several beside each other, and the filter that finds
// them. Figures by hand calculation.
#include "benchmark/ordered.h"
#include "benchmark/remarks.h"
#include "benchmark/run_filter.h"
#include "benchmark/run_sheet.h"
#include "benchmark/summary.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::benchmark;
using benchmark::Direction;
using benchmark::RouteRun;
using testing::steadyRun;

namespace {

std::string figure(const std::vector<SheetGroup>& sheet, const std::string& group, const std::string& name) {
    for (const SheetGroup& g : sheet)
        for (const NamedFigure& f : g.figures)
            if (g.name == group && f.name == name) return f.figure;
    return {};
}

std::string said(const RunConfig& config) {
    std::string out;
    for (const std::string& one : orderedOtherwise(config))
        out += (out.empty() ? "" : "; ") + one;
    return out;
}

RouteRun runAt(const char* id, const char* startedAt, Direction direction = Direction::forward) {
    RouteRun r{"desk-shelf", testing::steadyRun(direction, 100, 4, 0.01, id)};
    r.run.startedAt = startedAt;
    return r;
}

std::vector<RouteRun> some() {
    std::vector<RouteRun> out{runAt("a", "2026-05-04T10:00:00Z"),
                              runAt("b", "2026-05-04T19:30:00Z", Direction::backward),
                              runAt("c", "2026-05-20T23:10:00Z"), runAt("d", "2026-06-01T00:05:00Z")};
    out[1].run.conditions.othersActive = true;
    out[1].run.conditions.appliances = {"Kitchen kettle"};
    out[2].run.conditions.changed = "adapter moved to the landing";
    out[2].run.config.streams = 1;
    out[2].run.config.arrangement.altered = {{"mains", house::AlterationKind::other_outlet, "outlet-3"}};
    out[3].run.config.arrangement.setup = house::Setup::bench;
    out[3].run.step = "trial-2-5";
    out[3].run.simulated = true;
    out[3].route = "elsewhere";
    return out;
}

} // namespace

class TestRunSheet : public QObject {
    Q_OBJECT

  private slots:
    void onlyWhatIsNotUsualIsSaid() {
        RunConfig c;
        c.streams = 8;
        c.seconds = 60;
        QCOMPARE(said(c), std::string());
        const auto with = [&](auto change) {
            RunConfig other = c;
            change(other);
            return said(other);
        };
        QCOMPARE(with([](RunConfig& r) { r.rate = BitRate::bitsPerSecond(1e8); }),
                 std::string("paced at 100 Mbit/s"));
        QCOMPARE(with([](RunConfig& r) {
                     r.rate = BitRate::bitsPerSecond(1e8);
                     r.protocol = Protocol::udp;
                 }),
                 std::string()); // datagrams always have a pace
        QCOMPARE(with([](RunConfig& r) { r.congestion = "reno"; }), std::string("congestion control reno"));
        QCOMPARE(with([](RunConfig& r) { r.windowBytes = 65536; }), std::string("window of 65.5 kB"));
        QCOMPARE(with([](RunConfig& r) { r.segmentBytes = 536; }), std::string("segments of 536 bytes"));
        QCOMPARE(with([](RunConfig& r) {
                     r.segmentBytes = 200;
                     r.protocol = Protocol::udp;
                 }),
                 std::string("datagrams of 200 bytes"));
        QCOMPARE(with([](RunConfig& r) { r.dscp = 46; }), std::string("DSCP 46"));
        QCOMPARE(with([](RunConfig& r) { r.ipVersion = 6; }), std::string("over IPv6"));
        QCOMPARE(with([](RunConfig& r) { r.bind = "eth0"; }), std::string("from eth0"));
        QCOMPARE(with([](RunConfig& r) { r.maxBytes = 1'000'000'000; }), std::string("no more than 1000 MB"));
        QCOMPARE(with([](RunConfig& r) { r.warmup = 0.0; }), std::string("warm-up of 0 s as ordered"));
    }
    // One second at 100 Mbit/s and three at 400; the second of the warm-up before them counts for nothing.
    void streamsAreMeansOverTheirTime() {
        Run r = steadyRun(Direction::forward, 800, 2, 0, "r");
        const auto sample = [](double t, double a, double b) {
            Sample s;
            s.t = t;
            s.streamBps = {a, b};
            return s;
        };
        r.samples.change() = {sample(1, 9e9, 9e9), sample(2, 100e6, 40e6), sample(5, 400e6, 40e6)};
        r.warmupSeconds = 1;
        const auto sheet = sheetOf(r);
        QCOMPARE(figure(sheet, "Streams", "stream 1"), std::string("325 Mbit/s"));
        QCOMPARE(figure(sheet, "Streams", "stream 2"), std::string("40.0 Mbit/s"));
        QCOMPARE(figure(sheet, "Streams", "stream 3"), std::string());
    }
    void figuresOfARun() {
        Run r = steadyRun(Direction::forward, 800, 2, 0, "r"); // 100 samples of a tenth
        r.config.warmup.reset();
        r.rttIdleUs = Percentiles{1000, 2000};
        r.rttLoadedUs = Percentiles{3000, 4000};
        for (Sample& s : r.samples.change()) {
            s.streamBps = {500e6, 300e6};
            s.windowBytes = 90e3;
        }
        r.warmupSeconds = 0;
        r.interfaceSender = InterfaceCount{"eth0", 1'050'000'000, std::nullopt, {}, {}, ""};
        r.interfaceReceiver = InterfaceCount{"eth1", 500'000'000, 7, true, {}, ""};
        const auto sheet = sheetOf(r);
        // 800 Mbit/s for ten seconds are a gigabyte; 100 MB/s × 1 ms are 100 kB.
        QCOMPARE(figure(sheet, "Rate", "moved"), std::string("1000 MB in 10.0 s"));
        QCOMPARE(figure(sheet, "Delay", "idle"), std::string("1.00 ms · 2.00 ms"));
        QCOMPARE(figure(sheet, "Sender", "window"), std::string("90.0 kB · 100 kB needed"));
        QCOMPARE(figure(sheet, "Streams", "stream 1"), std::string("500 Mbit/s"));
        QCOMPARE(figure(sheet, "Streams", "stream 2"), std::string("300 Mbit/s"));
        QCOMPARE(figure(sheet, "Machines", "way out"), std::string("eth0: all bytes crossed it"));
        QCOMPARE(figure(sheet, "Machines", "way in"),
                 std::string("eth1: it saw 500 MB of 1000 MB, by radio, 7 errors"));
        // The load adds 2 ms; at 100 MB/s those are 200 kB in front of the narrowest element.
        QCOMPARE(figure(sheet, "Delay", "queueing delay"), std::string("2.00 ms"));
        QCOMPARE(figure(sheet, "Delay", "queue"), std::string("200 kB"));
        QCOMPARE(figure(sheet, "Delay", "buffer delay"), std::string("200 %"));
        QCOMPARE(figure(sheet, "Order and conditions", "ordered"), std::string("as usual"));
        // What was not taken is not there, and no group stands empty.
        Run bare = steadyRun(Direction::forward, 800, 1, 0, "bare");
        bare.rttIdleUs.reset();
        bare.rttLoadedUs.reset();
        bare.delayLost.reset();
        const auto less = sheetOf(bare);
        QVERIFY(figure(less, "Delay", "idle").empty() && figure(less, "Streams", "stream 1").empty());
        for (const SheetGroup& g : less)
            QVERIFY2(!g.figures.empty() && g.name != "Datagrams", g.name.c_str());
    }
    // 1000 MB of payload in ten seconds; an interface counts 1.1 times as much.
    void otherTrafficIsWhatTheCounterSawBesides() {
        Run r = steadyRun(Direction::forward, 800, 1, 0, "r");
        const auto seen = [&](double megabytes, const char* name = "eth0") {
            return otherTraffic(
                r, InterfaceCount{name, static_cast<std::uint64_t>(megabytes * 1e6), {}, {}, {}, ""});
        };
        QVERIFY(!otherTraffic(r, std::nullopt) && !seen(1100) && !seen(500));
        QVERIFY(!seen(1150));                                    // 36 Mbit/s are below a twentieth
        QVERIFY(std::fabs(seen(1210)->inMegabits() - 80) < 0.5); // 1210 ÷ 1.1 are 1100: 100 MB in 10 s
        QVERIFY(!seen(1210, "lo"));
        r.config.group = "g-1";
        QVERIFY(!seen(1210));
        Run small = steadyRun(Direction::forward, 0.05, 1, 0, "small"); // 62 kB: too little to judge by
        QVERIFY(!otherTraffic(small, InterfaceCount{"eth0", 1'000'000'000, {}, {}, {}, ""}));
        Run slow = steadyRun(Direction::forward, 1, 1, 0, "slow"); // 1.25 MB, and 0.9 Mbit/s besides
        QVERIFY(!otherTraffic(
            slow, InterfaceCount{"eth0", static_cast<std::uint64_t>(1.1 * 2.375e6), {}, {}, {}, ""}));
        QVERIFY(otherTraffic(
            slow, InterfaceCount{"eth0", static_cast<std::uint64_t>(1.1 * 2.6e6), {}, {}, {}, ""}));
    }
    void figuresBesideEachOther() {
        const std::vector<SheetGroup> a{{"A", {{"x", "1", "m"}, {"y", "2", ""}}}, {"B", {{"z", "3", ""}}}};
        const std::vector<SheetGroup> b{{"A", {{"y", "20", ""}, {"w", "40", ""}}}, {"C", {{"v", "50", ""}}}};
        std::string all;
        for (const SheetPair& p : beside(a, b))
            all += p.group + "/" + p.name + "/" + p.first + "/" + p.second + "/" + p.meaning + "\n";
        QCOMPARE(all, std::string("A/x/1//m\nA/y/2/20/\nA/w//40/\nB/z/3//\nC/v//50/\n"));
    }
    void theFigureOfSeveralRunsSaysWhatItIs() {
        std::vector<Run> runs;
        for (const double mbps : {300.0, 280.0, 250.0})
            runs.push_back(steadyRun(Direction::forward, mbps, 4, 0.002, "r" + std::to_string(mbps)));
        runs.push_back(steadyRun(Direction::forward, 900, 1, 0.002, "one stream"));
        runs.push_back(steadyRun(Direction::backward, 100, 4, 0.002, "back"));
        const auto s = capacitySummary(runs, Direction::forward, Rule::trimmed).value();
        QCOMPARE(s.runs, 3);
        QCOMPARE(s.streams, 4);
        QCOMPARE(s.leftOut, 1);
        QVERIFY(std::fabs(s.goodput.inMegabits() - 280) < 1);
        QCOMPARE(appliedRule(Rule::trimmed, 3), std::string_view("median"));
        QCOMPARE(appliedRule(Rule::trimmed, 4), std::string_view("median"));
        QCOMPARE(appliedRule(Rule::trimmed, 5), std::string_view("mean without best and worst"));
        QCOMPARE(appliedRule(Rule::best, 3), std::string_view("best"));
        const auto all = summarise(runs, Direction::forward, Rule::median).value();
        QCOMPARE(all.streams, 0); // they differ
        QCOMPARE(all.leftOut, 0);
        QCOMPARE(summarise({runs.front()}, Direction::forward, Rule::median)->streams, 4);
    }
    void whatIsTypedFindsItsRuns_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("found"); // ids, one letter each
        const auto row = [](const char* typed, const char* found) { QTest::newRow(typed) << typed << found; };
        row("", "abcd");
        row("route=desk-shelf", "abc");
        row("route=desk", "");
        row("direction=backward", "b");
        row("DIRECTION=forward", "acd");
        row("setup=bench", "d");
        row("setup=place", "abc");
        row("streams=1", "c");
        row("from=2026-05-20", "cd");
        row("from=2026-06", "d");
        row("until=2026-05-04", "ab");
        row("until=2026-05-04T10", "a");
        row("from=2026-05-04T12 until=2026-05-20", "bc");
        row("hours=18-22", "b");
        row("hours=22-6", "cd"); // over midnight
        row("hours=19-20", "b");
        row("others=yes", "b");
        row("others=no", ""); // nobody said that there were none
        row("simulated=yes", "d");
        row("simulated=no", "abc");
        row("appliance=kettle", "b");
        row("appliance=\"kitchen KETTLE\"", "b");
        row("place=outlet-3", "c");
        row("step=trial-2", "d");
        row("step=trial-2-5", "d");
        row("step=trial", ""); // of another trial
        row("landing", "c");
        row("Desk", "abc"); // the way's label
        row("kettle desk", "b");
        row("kettle landing", "");
        row("direction=forward hours=9-11 desk", "a");
    }
    void whatIsTypedFindsItsRuns() {
        QFETCH(QString, typed);
        const auto filter = benchmark::parseRunFilter(typed.toStdString());
        QVERIFY2(filter.has_value(), filter ? "" : filter.error().sentence().c_str());
        QString found;
        house::House h = testing::wiredHouse();
        house::TrialStep step;
        step.id = "trial-2-5";
        h.trials = {{"trial", "First", {}}, {"trial-2", "Second", {step}}};
        for (const RouteRun& r : benchmark::matching(some(), *filter, h))
            found += QString::fromStdString(r.run.id);
        QTEST(found, "found");
    }
    void theNotedHourGoesBeforeThatOfTheClockOfTheWorld() {
        RouteRun r = runAt("a", "2026-05-04T23:30:00Z");
        QCOMPARE(benchmark::hourOf(r.run).value(), 23);
        r.run.conditions.hour = 1;
        QCOMPARE(benchmark::hourOf(r.run).value(), 1);
        QVERIFY(benchmark::parseRunFilter("hours=0-2").value().matches(r, {}));
        r.run.conditions.hour.reset();
        for (const char* bad : {"", "2026-05-04", "2026-05-04Txx"}) {
            r.run.startedAt = bad;
            QVERIFY(!benchmark::hourOf(r.run));
            QVERIFY(!benchmark::parseRunFilter("hours=0-24").value().matches(r, {}));
        }
    }
    void whatCannotBeReadIsSaid() {
        for (const char* bad : {"colour=red", "direction=up", "streams=0", "streams=40", "from=May",
                                "from=2026-5", "until=2026-05-04T1", "hours=18", "hours=18-25",
                                "others=maybe", "route=", "\"open", "setup=cellar"}) {
            const auto filter = benchmark::parseRunFilter(bad);
            QVERIFY2(!filter, bad);
            QVERIFY2(!filter.error().advice.empty(), bad);
        }
        QVERIFY(!benchmark::parseRunFilter(std::string(2000, 'x')));
        std::string many;
        for (int i = 0; i < 30; ++i)
            many += "w ";
        QVERIFY(!benchmark::parseRunFilter(many));
    }
};

QTEST_GUILESS_MAIN(TestRunSheet)
#include "test_run_sheet.moc"
