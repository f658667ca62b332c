// What is worked out of runs, as it was kept.
#include "benchmark/comparison_presets.h"
#include "benchmark/delay_statistics.h"
#include "benchmark/rate_steps.h"
#include "benchmark/remarks.h"
#include "benchmark/run_json.h"
#include "benchmark/run_sheet.h"
#include "benchmark/set_comparison.h"
#include "benchmark/statements.h"
#include "benchmark/summary.h"
#include "benchmark/watch_report.h"
#include "benchmark/week.h"
#include "support/kept.h"

#include <QTest>
#include <numbers>

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
        for (const Statement& s : statementsOf(house, runs, Rule::median))
            all["statements"].push_back({s.text, s.said, s.fate, s.sentence});
        QVERIFY_KEPT("summaries", all);
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
