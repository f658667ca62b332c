// What is worked out of runs, as it was kept.
#include "benchmark/comparison.h"
#include "benchmark/comparison_presets.h"
#include "benchmark/delay_statistics.h"
#include "benchmark/rate_steps.h"
#include "benchmark/remarks.h"
#include "benchmark/run_filter.h"
#include "benchmark/run_json.h"
#include "benchmark/run_measures.h"
#include "benchmark/run_sheet.h"
#include "benchmark/set_comparison.h"
#include "benchmark/statements.h"
#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "benchmark/week.h"
#include "benchmark/welch.h"
#include "quantity/moment.h"
#include "support/bounds.h"
#include "support/kept.h"
#include "support/reports.h"

#include <QTest>
#include <numbers>
#include <random>

using namespace metrodos;
using namespace metrodos::benchmark;
using nlohmann::json;

namespace {

json rate(const std::optional<BitRate>& r) {
    return r ? json(r->bps()) : json();
}

json ofRun(const Run& run) {
    json out = headToJson(run);
    out["held"] = heldBack(run).sentence;
    out["warnings"] = pathWarnings(run);
    out["remarks"] = remarks(run);
    for (const SheetGroup& group : sheetOf(run, BitRate::megabits(900)))
        for (const NamedFigure& f : group.figures)
            out["sheet"].push_back({group.name, f.name, f.figure});
    for (const RateStep& s : rateSteps(run))
        out["steps"].push_back({s.t, s.before.bps(), s.after.bps()});
    return out;
}

// Rates that rise and fall by turns, with a step in the middle and delays that go with them.
Run wavy(int n) {
    Run run = testing::steadyRun(n % 2 == 0 ? Direction::forward : Direction::backward, 100, 1 + n % 4, 0.01,
                                 "wavy-" + std::to_string(n));
    DelayStatistics delays;
    for (int i = 0; Sample & s : run.samples.change()) {
        const double wave = std::sin(2 * std::numbers::pi * i / (8.0 + n));
        s.goodputBps *= (1 + 0.1 * n * wave) * (i < 60 ? 1 : 0.6 + 0.05 * n);
        s.rttUs = 2000.0 + 500 * n + 1500 * std::fabs(wave);
        delays.add(s.t, *s.rttUs * (i % 31 == 30 ? 5 : 1));
        ++i;
    }
    run.config.warmup = std::nullopt;
    run.rttIdleUs = Percentiles{500.0 + 100 * n, 900};
    run.rttLoadedUs = delays.percentiles();
    run.spikes = delays.spikes();
    run.retransmits = static_cast<std::uint64_t>(n) * 50;
    run.senderLimited = SenderLimited{0.15 * n, 0.2};
    run.cpuSender = 0.15 * n;
    run.interfaceSender = InterfaceCount{"lan0", 130'000'000, 0};
    finish(run);
    return run;
}

} // namespace

class TestKeptFigures : public QObject {
    Q_OBJECT

  private slots:
    void ofSingleRuns() {
        json all;
        for (int n = 0; n < 7; ++n)
            all.push_back(ofRun(wavy(n)));
        QVERIFY_KEPT("runs", all);
    }
    void ofRunsTogether() {
        const auto houses = testing::shippedHouses();
        const house::House& house = houses.front().second;
        RouteRuns runs = testing::visited(house);
        for (int n = 0; n < 7; ++n)
            runs.push_back({house.routes.front().id, wavy(n)});
        json all;
        for (const house::Route& route : house.routes) {
            RouteRuns mine;
            std::vector<Run> plain;
            for (const RouteRun& r : runs)
                if (r.route == route.id) {
                    mine.push_back(r);
                    plain.push_back(r.run);
                }
            json& of = all[route.id];
            for (const Direction d : {Direction::forward, Direction::backward})
                for (const Rule rule :
                     {Rule::trimmed, Rule::median, Rule::mean, Rule::best, Rule::sustained}) {
                    const auto s = summarise(plain, d, rule);
                    of["summaries"].push_back({rate(s->goodput), rate(s->low), rate(s->high), rate(s->least),
                                               rate(s->most), s->runs, s->streams,
                                               runsToSettle(*s, BitRate::megabits(100)).value_or(-1)});
                }
            const RouteRuns first(mine.begin(), mine.begin() + 2);
            const RouteRuns rest(mine.begin() + 2, mine.end());
            const SetComparison c = compareSets(first, rest, "before", "after", house, Rule::median);
            of["compared"] = {c.runsA,
                              c.runsB,
                              c.ratio.value_or(-1),
                              c.low.value_or(-1),
                              c.high.value_or(-1),
                              c.runsNeeded,
                              c.differs,
                              c.sentence};
            for (const ComparisonPreset& p : presetsOf(house, mine, route.id))
                of["presets"].push_back({p.label, p.first, p.second});
            for (const Coincidence& k : coincidencesOf(house, mine, route.id))
                of["appliances"].push_back(
                    {k.appliance, k.with, k.without, k.ratio, k.low, k.high, k.sentence});
            const Week week = weekOf(mine, {}, route.id, Direction::forward);
            of["week"] = sentenceOf(week);
        }
        house::House noted = house;
        noted.setAside = {{runs[3].run.id, "the oven was on", "2026-05-04T11:00:00Z"}};
        runs[4].run.complete = false;
        runs[5].run.config.arrangement.bypassed = {"hall-switch"};
        runs[6].run.config.arrangement.altered = {
            {"hall-coax.line", house::AlterationKind::other_outlet, "hall-coax"}};
        runs[7].run.conditions = {{"Oven"}, true, "another cable", 23, false};
        for (const std::string& typed : testing::keptKeys("summaries", "filters")) {
            const auto filter = parseRunFilter(typed);
            all["filters"][typed] =
                filter ? json(matching(runs, *filter, noted).size()) : json(filter.error().sentence());
        }
        for (const Statement& s : statementsOf(house, runs, Rule::median))
            all["statements"].push_back({s.text, s.said, s.fate, s.sentence});
        QVERIFY_KEPT("summaries", all);
    }
    // Short and long series, alike and not, with a slow start, neighbours that are alike, or far outliers.
    void ofSeries() {
        std::mt19937 draw(11);
        const auto noise = [&] { return static_cast<double>(draw()) / 4294967296.0 - 0.5; };
        const auto of = [](const std::optional<Interval>& i) {
            return i ? json{i->centre, i->low, i->high} : json();
        };
        json all;
        std::vector<Statement> said;
        for (const std::size_t n : {2, 3, 4, 5, 9, 10, 11, 19, 20, 24, 25, 40, 120})
            for (int shape = 0; shape < 6; ++shape) {
                std::vector<double> a(n, 100);
                std::vector<double> b = a;
                DelayStatistics delays;
                for (std::size_t i = 0; i < n; ++i) {
                    const double start = i < n / 8 ? 40 : 0;
                    const double far = i % 9 == 4 ? 300 : 0;
                    const std::array<double, 6> by{
                        0,         20 * noise(),      i == 0 ? 0 : 0.9 * (a[i - 1] - 100) + 5 * noise(),
                        4 - start, far + 3 * noise(), noise() - start / 20};
                    a[i] += by[static_cast<std::size_t>(shape)];
                    b[i] += 3 * shape + 8 * noise();
                    delays.add(static_cast<double>(i), 60 * a[i]);
                    said.push_back({"", "", "", 0.5 + noise(), false, static_cast<Fate>(draw() % 3), ""});
                }
                json row{n,
                         shape,
                         warmupLength(a),
                         of(meanInterval(a)),
                         of(trimmedInterval(a, 1)),
                         of(seriesInterval(a)),
                         delays.spikes().size()};
                if (const auto p = delays.percentiles()) row.push_back({p->p50, p->p95, *p->p99, *p->max});
                const Welch w = welch(a, b, 0.01);
                row.push_back({w.difference, w.half, w.variances});
                for (const Rule rule : {Rule::trimmed, Rule::median, Rule::mean}) {
                    const Comparison c = compare(a, b, "A", "B", rule, 1 + shape);
                    row.push_back({c.verdict, c.pairs, c.ratio, c.low, c.high, c.morePairs, c.sentence});
                }
                for (const Calibration& c : calibrationOf(said))
                    row.push_back({c.from, c.to, c.count, c.held, c.meanSaid, c.low, c.high});
                all.push_back(row);
            }
        QVERIFY_KEPT("series", all, 1e-9);
    }
    // Where what is said of a run or of a report turns while one of its figures goes.
    void ofTurns() {
        Run held = testing::steadyRun(Direction::forward, 500, 2);
        held.samples.change().resize(4); // so that what was carried is a round number of bytes
        for (double t = 0; Sample & s : held.samples.change()) {
            s.t = ++t;
            s.goodputBps = 5e8;
        }
        held.seconds = 4;
        held.goodput = BitRate::megabits(500);
        held.config.segmentBytes = 1000;
        held.config.rate = BitRate::megabits(800);
        held.senderLimited = SenderLimited{0.3, 0.3, 0.3};
        held.rttIdleUs = Percentiles{3500, 4000};
        held.rttLoadedUs = Percentiles{3600, 4100};
        held.cpuSender = held.cpuReceiver = 0.6;
        held.retransmits = 300;
        held.interfaceSender = InterfaceCount{"lan0", 260'000'000, 2};
        held.interfaceReceiver = held.interfaceSender;
        held.delayLost = 2;
        Run queued = held;
        queued.rttIdleUs->p50 = 500;
        queued.rttLoadedUs->p50 = 100'000;
        queued.spikes = {{1, 90'000}, {2, 80'000}, {3, 70'000}, {4, 60'000}};
        Run tiny = held;
        for (Sample& s : tiny.samples.change())
            s.goodputBps = 2.5e5;
        tiny.interfaceSender->bytes = 60'000;
        tiny.retransmits = 3;
        Run paced = held;
        paced.config.protocol = Protocol::udp;
        paced.datagrams = DatagramCount{100'000, 0, 99'000, 0, 0, 400, 600, {}};
        const auto said = [](const json& form) {
            const auto run = runFromJson(form);
            if (!run) return std::string("refused");
            std::string out;
            for (const std::string& line : remarks(*run))
                out += testing::withoutFigures(line) + "; ";
            for (const NamedFigure& f : figuresOf(*run, BitRate::megabits(900)))
                out += f.name + "; ";
            return out + testing::withoutFigures(crossing(*run, run->interfaceSender)) +
                   (otherTraffic(*run, run->interfaceSender) ? "; other traffic" : "") +
                   (resentShare(*run) ? "; some sent again" : "");
        };
        json all;
        for (const auto& [name, run] :
             {std::pair("held", held), {"queued", queued}, {"tiny", tiny}, {"paced", paced}})
            all[name] = testing::turnsOfEach(toJson(run), said);
        const auto ofReport = [&](const char* name, const json& form, const auto& read) {
            all[name] = testing::turnsOfEach(form, [&](const json& changed) {
                const auto report = read(changed);
                if (!report) return std::string("refused");
                std::string out;
                for (const std::string& line : sentences(*report))
                    out += testing::withoutFigures(line) + " ";
                return out;
            });
        };
        MatrixReport matrix = testing::matrixReport();
        matrix.together[1].atOnce = BitRate::megabits(900);
        for (std::size_t i = 0; i < 3; ++i)
            matrix.cells[i].summary.goodput = BitRate::megabits(600);
        ofReport("matrix", toJson(matrix), readMatrixReport);
        ofReport("search", toJson(testing::searchReport()), readSearchReport);
        CopyReport copy = testing::copyReport();
        copy.network = BitRate::megabits(1000);
        ofReport("copy", toJson(copy), readCopyReport);
        TransferReport transfer;
        transfer.head = testing::head;
        transfer.bytes = 1'000'000'000;
        for (const TransferSink sink : {TransferSink::memory, TransferSink::disk})
            for (const TransferSource source :
                 {TransferSource::memory, TransferSource::coldDisk, TransferSource::warmDisk})
                transfer.passes.push_back({source, sink, BitRate::megabits(400), 0.8, 0.1, 0.05});
        ofReport("transfer", toJson(transfer), readTransferReport);
        // A rate that wavers by a tenth from half second to half second and falls in the middle: from where
        // on that is a step.
        const Run steady = testing::steadyRun(Direction::forward, 500, 2);
        all["step down"] = testing::turnsOf(0, 0.5, [&](double share) {
            Run run = steady;
            for (int i = 0; Sample & s : run.samples.change()) {
                s.goodputBps *= (1 + 0.15 * std::sin(1.7 * (i / 5) * (i / 5))) * (i < 50 ? 1 : 1 - share);
                ++i;
            }
            return std::to_string(rateSteps(run).size()) + " steps";
        });
        QVERIFY_KEPT("turns-runs", all);
    }
    // How far each figure of a run and of the reports may go before what comes from outside is refused.
    void ofBounds() {
        const auto bounds = [](const json& whole, const auto& read) {
            if (!read(whole)) qFatal("the whole is not taken");
            return testing::boundsOf(whole, [&](const json& form) { return read(form).has_value(); });
        };
        json all;
        Run run = wavy(3);
        run.samples.change().resize(2);
        Sample& one = run.samples.change().back();
        one.streamBps = {4e7, 5e7};
        one.cpuSender = 0.2;
        one.cpuReceiver = 0.3;
        run.config.rate = BitRate::megabits(200);
        run.config.maxBytes = 5'000'000;
        run.config.bind = "192.0.2.7";
        run.config.congestion = "cubic";
        run.config.windowBytes = 400'000;
        run.config.segmentBytes = 1200;
        run.config.dscp = 8;
        run.config.group = "pair";
        run.config.warmup = 1;
        run.datagrams = DatagramCount{1000, 2, 900, 1, 3, 4, 25, Percentiles{100, 200, 300, 400}};
        run.spikes = {{3.5, 90'000}};
        run.delayLost = 2;
        run.cpuReceiver = 0.4;
        run.cpuProcessSender = 0.5;
        run.cpuProcessReceiver = 0.6;
        run.interfaceReceiver = InterfaceCount{"lan1", 130'000'000, 0, true, true, "lan0"};
        run.conditions = {{"oven"}, true, "another cable", 14, false};
        run.step = "step-1";
        run.redirectedTo = "http://192.0.2.7/file";
        all["run"] = bounds(toJson(run), runFromJson);
        all["run without"] = testing::withoutEach(toJson(run), [](const json& form) {
            const auto read = runFromJson(form);
            return read ? json(toJson(*read).dump().size()) : json(read.error().sentence());
        });
        WatchReport watch = testing::watchReport();
        watch.rttUs = Percentiles{900, 1500};
        watch.hours.front().rttUs = watch.rttUs;
        watch.dropOuts.front().lost = "the peer has gone";
        all["watch"] = bounds(toJson(watch), readWatchReport);
        all["matrix"] = bounds(toJson(testing::matrixReport()), readMatrixReport);
        all["search"] = bounds(toJson(testing::searchReport()), readSearchReport);
        CopyReport copy = testing::copyReport();
        copy.write.cachedAtStart = 0.5;
        copy.cold = copy.write;
        all["copy"] = bounds(toJson(copy), readCopyReport);
        TransferReport transfer;
        transfer.head = watch.head;
        transfer.bytes = 1'000'000'000;
        transfer.from = "Store";
        transfer.to = "Desk";
        transfer.passes = {
            {TransferSource::coldDisk, TransferSink::disk, BitRate::megabits(400), 20, 0.25, 0.1}};
        all["transfer"] = bounds(toJson(transfer), readTransferReport);
        QVERIFY_KEPT("bounds-records", all);
    }
    // Two weeks of a way that is slower while the saw runs, from hour to hour, and after a storm.
    void ofWeeks() {
        house::House house = testing::shippedHouses().front().second;
        house.appliances.push_back(house.appliances[0]);
        house.appliances.back().label = "planer";
        house.appliances.back().hours = {{8, 12}};
        const house::Id& route = house.routes.front().id;
        RouteRuns runs;
        RouteRuns noted;
        for (int h = 0; h < 24 * 15; h += 3) {
            const Direction way = h % 2 == 0 ? Direction::forward : Direction::backward;
            const bool saws = h % 24 > 8 && h % 24 < 17;
            const double mbps = 300 * (saws ? 0.7 : 1) * (h > 200 ? 0.9 : 1) * (1 + 0.01 * (h * 7 % 11));
            Run run = testing::steadyRun(way, mbps, 4, 0, "h" + std::to_string(h));
            run.startedAt = quantity::utcText(1777852800 + 3600 * h);
            runs.push_back({route, run});
            run.conditions.appliances = {saws && h % 5 != 0 ? house.appliances[0].label : "lamp"};
            if (h % 9 == 0) run.conditions.appliances.push_back(house.appliances[1].label);
            noted.push_back({route, run});
        }
        json all;
        for (const RouteRuns* of : {&runs, &noted}) {
            for (const Coincidence& k : coincidencesOf(house, *of, route))
                all["appliances"].push_back({k.appliance, k.isNoted, k.with, k.without, k.ratio, k.low,
                                             k.high, k.isReal, k.alike, k.sentence});
            const Week week = weekOf(*of, {testing::watchReport()}, route, Direction::forward);
            all["sentences"].push_back(sentenceOf(week));
            for (const auto& day : week)
                for (const WeekHour& hour : day)
                    all["hours"].push_back({hour.runs, rate(hour.p10), rate(hour.p50), rate(hour.p90),
                                            hour.watchedSeconds, hour.dropOuts});
        }
        // Rates that go up and down by steps.
        for (int n = 0; n < 24; ++n) {
            Run run = testing::steadyRun(Direction::forward, 200, 1, 0.004 * n);
            for (int i = 0; Sample & s : run.samples.change())
                s.goodputBps *= 1 + 0.3 * ((i++ / (8 + 3 * n)) * (n + 2) % 4);
            for (const RateStep& s : rateSteps(run))
                all["steps"][std::to_string(n)].push_back({s.t, s.before.bps(), s.after.bps()});
        }
        QVERIFY_KEPT("weeks", all, 1e-9);
    }
    void ofAWatch() {
        Watch watch(BitRate::megabits(100));
        for (int i = 1; i <= 90000; ++i) { // two hours and a half
            Sample s;
            s.t = i * 0.1;
            s.goodputBps = i % 7000 < 12 ? 1e5 : 90e6 + 1e4 * (i % 997);
            s.rttUs = 3000 + i % 613;
            watch.add(s.t, s);
        }
        watch.lose(9000.5, "the cable was pulled");
        watch.sleepUntil(9100);
        watch.end(9101);
        const WatchReport report = reportOf(watch, {}, {});
        json all = toJson(report);
        all["sentences"] = sentences(report, [](double t) { return std::to_string(std::lround(t)); });
        QVERIFY_KEPT("watch", all);
    }
};

QTEST_GUILESS_MAIN(TestKeptFigures)
#include "test_kept_figures.moc"
