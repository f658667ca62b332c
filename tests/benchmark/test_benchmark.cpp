// Figures of runs: warm-up, intervals, summaries, steps of the rate, all pairs of a house.
#include "benchmark/comparison.h"
#include "benchmark/datagrams.h"
#include "benchmark/delay_statistics.h"
#include "benchmark/matrix.h"
#include "benchmark/rate_steps.h"
#include "benchmark/remarks.h"
#include "benchmark/run_json.h"
#include "benchmark/run_measures.h"
#include "benchmark/schedule.h"
#include "benchmark/search_report.h"
#include "benchmark/statistics.h"
#include "benchmark/watch.h"

#include <QTest>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

using namespace metrodos::benchmark;
using metrodos::quantity::BitRate;
using namespace metrodos;

namespace {

Run flat(double mbps, double seconds = 10) {
    Run run;
    run.id = "r";
    run.startedAt = "2026-05-04T10:00:00Z";
    run.config.seconds = seconds;
    run.seconds = seconds;
    for (int i = 1; i <= static_cast<int>(seconds * 10); ++i) {
        Sample s;
        s.t = i * 0.1;
        s.goodputBps = mbps * 1e6;
        s.rttUs = 4000;
        run.samples.push_back(s);
    }
    finish(run);
    return run;
}

double summary(const std::vector<Run>& runs, Rule rule) {
    return summarise(runs, Direction::forward, rule)->goodput.inMegabits();
}

MatrixCell cell(std::size_t from, std::size_t to, double mbps) {
    MatrixCell out;
    out.pair = {from, to};
    out.summary.goodput = BitRate::megabits(mbps);
    return out;
}

/// Levels in Mbit/s, each for so many seconds, with noise that lasts from sample to sample.
Run stepped(const std::vector<std::pair<double, double>>& levels, double scatter, std::uint64_t seed = 1) {
    Run run;
    std::mt19937_64 random(seed);
    std::normal_distribution<double> draw;
    double noise = 0;
    double t = 0;
    for (const auto& [mbps, seconds] : levels)
        for (int i = 0; i < std::lround(seconds * 10); ++i) {
            noise = 0.6 * noise + 0.8 * draw(random);
            t += 0.1;
            Sample s;
            s.t = t;
            s.goodputBps = std::max(mbps * 1e6 * (1 + scatter * noise), 0.0);
            run.samples.push_back(s);
        }
    run.seconds = t;
    return run;
}

} // namespace

class TestBenchmark : public QObject {
    Q_OBJECT

  private slots:
    void quantilesInterpolate() {
        const std::vector<double> v{4, 1, 3, 2};
        QCOMPARE(quantile(v, 0.5), 2.5);
        QCOMPARE(quantile(v, 0), 1.0);
        QCOMPARE(quantile(v, 1), 4.0);
    }
    void warmupIsFoundWhereItEnds() {
        std::mt19937 random(3);
        std::normal_distribution<double> noise(0, 2);
        std::vector<double> ramp;
        for (int i = 0; i < 100; ++i)
            ramp.push_back((i < 15 ? 100.0 * i / 15 : 100) + noise(random));
        const std::size_t cut = warmupLength(ramp);
        QVERIFY(cut >= 10 && cut <= 20);
        QCOMPARE(warmupLength(std::vector<double>(100, 5.0)), std::size_t(0));
        QCOMPARE(warmupLength(std::vector<double>(7, 5.0)), std::size_t(0));
    }
    void aFlatRunLosesNothing() {
        std::mt19937 random(8);
        for (const double spread : {0.0005, 0.005, 0.05}) {
            int cuts = 0;
            for (int trial = 0; trial < 200; ++trial) {
                std::normal_distribution<double> noise(941, 941 * spread);
                std::vector<double> flat;
                for (int i = 0; i < 100; ++i)
                    flat.push_back(noise(random));
                const std::size_t cut = warmupLength(flat);
                cuts += cut > 0 ? 1 : 0;
                QVERIFY(cut <= 20);
            }
            // Three standard errors of an unsteady line are passed by chance now and then, of a steady one
            // never.
            QVERIFY2(cuts <= (spread < 0.01 ? 0 : 10), qPrintable(QString("%1: %2").arg(spread).arg(cuts)));
        }
    }
    void aLaterChangeIsNoWarmup() {
        // Down to a half after four of ten seconds, as a shaper does it: nothing is hatched away.
        std::vector<double> stepped;
        for (int i = 0; i < 100; ++i)
            stepped.push_back((i < 40 ? 900.0 : 450.0) + i % 3);
        QVERIFY(warmupLength(stepped) <= 20);
        Run run = flat(900);
        for (std::size_t i = 40; i < 100; ++i)
            run.samples.change()[i].goodputBps *= 0.5;
        run.config.warmup.reset();
        finish(run);
        QVERIFY(run.warmupSeconds <= 2);
        const auto steps = rateSteps(run);
        QCOMPARE(steps.size(), std::size_t(1));
        QVERIFY(std::fabs(steps[0].t - 4) < 0.3);
    }
    // The truth is covered 93 to 97 times of 100 whatever the memory of the noise; an interval that takes the
    // samples for independent covers it half as often.
    void theIntervalOfOneRunAllowsForItsMemory() {
        std::mt19937 random(21);
        std::normal_distribution<double> normal(0, 1);
        for (const double memory : {0.3, 1.0, 3.0}) { // s
            const double r = std::exp(-0.1 / memory);
            int covered = 0;
            int naive = 0;
            constexpr int trials = 2000;
            for (int trial = 0; trial < trials; ++trial) {
                std::vector<double> values;
                double x = normal(random);
                for (int i = 0; i < 90; ++i) {
                    values.push_back(500 + 20 * x);
                    x = r * x + std::sqrt(1 - r * r) * normal(random);
                }
                const auto holds = [](const std::optional<Interval>& i) {
                    return i && i->low <= 500 && i->high >= 500;
                };
                covered += holds(seriesInterval(values)) ? 1 : 0;
                naive += holds(meanInterval(values)) ? 1 : 0;
            }
            const double share = static_cast<double>(covered) / trials;
            QVERIFY2(share > 0.93 && share < 0.97, qPrintable(QString("%1 s: %2").arg(memory).arg(share)));
            QVERIFY(naive < covered);
        }
        QVERIFY(!seriesInterval(std::vector<double>(9, 1.0)));
    }
    void intervalsCoverTheTruth() {
        std::mt19937 random(5);
        std::normal_distribution<double> noise(50, 4);
        int covered = 0;
        for (int trial = 0; trial < 1000; ++trial) {
            std::vector<double> v;
            for (int i = 0; i < 8; ++i)
                v.push_back(noise(random));
            const auto i = meanInterval(v);
            if (i->low <= 50 && 50 <= i->high) ++covered;
        }
        QVERIFY2(covered > 925 && covered < 975, qPrintable(QString::number(covered)));
        QVERIFY(!meanInterval(std::vector<double>{1.0}));
    }
    void summariesFollowTheirRules() {
        const std::vector<Run> runs{flat(90), flat(100), flat(102), flat(98), flat(300)};
        QCOMPARE(summary(runs, Rule::trimmed), 100.0);
        QCOMPARE(summary(runs, Rule::median), 100.0);
        QCOMPARE(summary(runs, Rule::mean), 138.0);
        QCOMPARE(summary(runs, Rule::best), 300.0);
        QVERIFY(summary(runs, Rule::sustained) < 95);
        QVERIFY(!summarise(runs, Direction::backward, Rule::mean));
        const auto s = summarise(runs, Direction::forward, Rule::trimmed);
        QVERIFY(s->low < s->goodput && s->goodput < s->high);
        QCOMPARE(s->runs, 5);
        QVERIFY(summarise({flat(90, 0.5)}, Direction::forward, Rule::mean)->low == std::nullopt);
    }
    void warmupIsLeftOutOfTheFigure() {
        Run run = flat(100);
        for (std::size_t i = 0; i < 10; ++i)
            run.samples.change()[i].goodputBps = 0;
        run.config.warmup = 1.0;
        finish(run);
        QCOMPARE(run.goodput.inMegabits(), 100.0);
        run.config.warmup = 0.0;
        finish(run);
        QCOMPARE(run.goodput.inMegabits(), 90.0);
        QVERIFY(run.rttLoadedUs && run.rttLoadedUs->p50 == 4000);
    }
    void runsSurviveJson() {
        Run run = flat(123);
        run.retransmits = 17;
        run.senderLimited = SenderLimited{0.5, 0.25, 0.25};
        run.rttIdleUs = Percentiles{300, 400};
        run.interfaceSender = InterfaceCount{"eth0", 12345678901ULL};
        run.config.arrangement.bypassed = {"socket", "shelf.lan"};
        run.config.arrangement.swapped = true;
        const auto again = runFromJson(toJson(run));
        QVERIFY(again.has_value());
        QCOMPARE(toJson(*again).dump(), toJson(run).dump());
        QVERIFY(again->config.arrangement == run.config.arrangement);
    }
    void whatCouldNotBeTakenIsNull() {
        const auto document = measurementDocument({flat(10)}, Rule::median);
        const auto& run = document.at("runs").at(0);
        QVERIFY(run.at("retransmits").is_null());
        QVERIFY(run.at("rtt_idle_us").at("p50").is_null());
        QVERIFY(run.at("interface").at("sender").at("bytes").is_null());
        QVERIFY(document.at("summary").at("backward").is_null());
        QCOMPARE(document.at("summary").at("forward").at("rule").get<std::string>(), std::string("median"));
    }
    void whatIsNoRunIsNone() {
        QVERIFY(!runFromJson("text"));
        QVERIFY(!sampleFromJson({{"t_s", "soon"}, {"goodput_bps", 1}}));
    }
    void eachMeetsEachOnce() {
        for (std::size_t n = 0; n <= 7; ++n) {
            const auto pairs = pairsOf(n);
            QCOMPARE(pairs.size(), n * (n == 0 ? 0 : n - 1));
            std::set<std::pair<std::size_t, std::size_t>> unique;
            for (const Pair& p : pairs) {
                QVERIFY(p.from != p.to && p.from < n && p.to < n);
                unique.emplace(p.from, p.to);
            }
            QCOMPARE(unique.size(), pairs.size());
        }
    }
    void neighboursInTimeAreApart() {
        const auto pairs = pairsOf(6);
        int together = 0;
        for (std::size_t i = 1; i < pairs.size(); ++i)
            if (pairs[i].from == pairs[i - 1].from || pairs[i].from == pairs[i - 1].to ||
                pairs[i].to == pairs[i - 1].from || pairs[i].to == pairs[i - 1].to)
                ++together;
        QVERIFY2(together <= 6, qPrintable(QString::number(together))); // of 29
    }
    void aCommonCeilingIsFound() {
        const auto found = commonCeiling({cell(0, 1, 94), cell(0, 2, 940), cell(1, 0, 93.5), cell(2, 1, 94.1),
                                          cell(1, 2, 300), cell(2, 0, 700)});
        QVERIFY(found.has_value());
        QCOMPARE(found->pairs.size(), std::size_t(3));
        QCOMPARE(found->rate, BitRate::megabits(94));
        QVERIFY(!commonCeiling({cell(0, 1, 94), cell(1, 0, 94)}));
        QVERIFY(!commonCeiling({cell(0, 1, 10), cell(0, 2, 100), cell(1, 2, 1000)}));
        QVERIFY(!commonCeiling({}));
    }
    void pairsThatShareLoseTogether() {
        const std::vector<std::string> names{"Loft", "Hall", "Study"};
        const SharedCell halfA{{0, 1}, BitRate::megabits(940), BitRate::megabits(470)};
        const SharedCell halfB{{2, 1}, BitRate::megabits(940), BitRate::megabits(471)};
        const SharedCell whole{{1, 2}, BitRate::megabits(300), BitRate::megabits(299)};
        const std::string text = sharedLimit({halfA, halfB, whole}, names);
        QVERIFY2(text.find("Loft to Hall and Study to Hall share") == 0, text.c_str());
        QVERIFY2(text.find("941 Mbit/s") != std::string::npos, text.c_str());
        QVERIFY(sharedLimit({whole, whole}, names).empty());
        QVERIFY(sharedLimit({halfA}, names).empty()); // alone at once: nothing to share with
        QVERIFY(sharedLimit({halfA, whole}, names).find("instead of 940") != std::string::npos);
        QCOMPARE(halfA.share(), 0.5);
    }
    void oneStepIsFoundAtItsTime_data() {
        QTest::addColumn<double>("at");
        QTest::addColumn<double>("after");
        QTest::addColumn<double>("scatter");
        for (const double at : {1.5, 4.0, 8.2})
            for (const double after : {20.0, 70.0, 300.0})
                for (const double scatter : {0.0, 0.03, 0.06})
                    QTest::addRow("%g s, to %g, %g", at, after, scatter) << at << after << scatter;
    }
    void oneStepIsFoundAtItsTime() {
        QFETCH(double, at);
        QFETCH(double, after);
        QFETCH(double, scatter);
        const auto steps = rateSteps(stepped({{100, at}, {after, 10 - at}}, scatter));
        QCOMPARE(steps.size(), std::size_t(1));
        QVERIFY2(std::fabs(steps[0].t - at) < 0.35, qPrintable(QString::number(steps[0].t)));
        QVERIFY(std::fabs(steps[0].after.inMegabits() / after - 1) < 0.1);
    }
    void severalInOrder() {
        const auto steps = rateSteps(stepped({{100, 4}, {50, 4}, {100, 4}, {10, 4}}, 0.02));
        QCOMPARE(steps.size(), std::size_t(3));
        const double wanted[] = {4, 8, 12};
        for (std::size_t i = 0; i < 3; ++i)
            QVERIFY(std::fabs(steps[i].t - wanted[i]) < 0.2);
        QVERIFY(std::fabs(steps[1].before.inMegabits() / 50 - 1) < 0.05);
        QVERIFY(std::fabs(steps[1].after.inMegabits() / 100 - 1) < 0.05);
    }
    // Without noise each is found at its own sample, in parts that begin anywhere.
    void severalToTheSample() {
        const auto steps = rateSteps(stepped({{100, 3}, {60, 2.2}, {90, 4.1}, {40, 3}}, 0));
        QCOMPARE(steps.size(), std::size_t(3));
        const double wanted[] = {3, 5.2, 9.3};
        const double after[] = {60, 90, 40};
        for (std::size_t i = 0; i < 3; ++i) {
            QVERIFY2(std::fabs(steps[i].t - wanted[i]) < 1e-6, qPrintable(QString::number(steps[i].t)));
            QVERIFY(std::fabs(steps[i].after.inMegabits() / after[i] - 1) < 1e-9);
        }
    }
    void noiseIsNoStep() {
        int found = 0;
        for (std::uint64_t seed = 1; seed <= 1000; ++seed)
            found +=
                rateSteps(stepped({{100, 10}}, 0.05 + 0.15 * static_cast<double>(seed % 3), seed)).empty()
                    ? 0
                    : 1;
        qInfo("%d of 1000 runs without a step are said to have one", found);
        QVERIFY(found <= 20);
    }
    void aShortRunHasNone() {
        QVERIFY(rateSteps(Run{}).empty());
        QVERIFY(rateSteps(stepped({{100, 0.9}, {10, 0.9}}, 0)).empty());
    }
    void theRunSaysIt() {
        const auto lines = remarks(stepped({{100, 5}, {40, 5}}, 0.01));
        QCOMPARE(lines.size(), std::size_t(1));
        QVERIFY2(lines[0].starts_with("the rate fell from ") &&
                     lines[0].find(" at 5.00 s") != std::string::npos,
                 lines[0].c_str());
    }
    // What lies exactly on a bound, where a little more or less would be answered otherwise.
    void whatLiesOnABound() {
        DelayStatistics delays;
        for (int i = 0; i < 4097; ++i) // one more than is kept for the median
            delays.add(i, i < 2048 ? 1000 : 3000);
        QCOMPARE(delays.takeMedian(), std::optional(2000.0));
        QVERIFY(!percentilesOf({1, 2}) && percentilesOf({1, 2, 3})->p50 == 2);
        DatagramStatistics datagrams;
        constexpr std::uint64_t window = 1 << 17;
        QVERIFY(datagrams.take(window, 0, 0));
        QVERIFY(datagrams.take(1, 0, 0) && !datagrams.take(0, 0, 0)); // the oldest that is still told apart
        QVERIFY(!datagrams.take(window + 1 + (1 << 26), 0, 0) && datagrams.take(window + (1 << 26), 0, 0));
        QVERIFY(!secondsSpread(flat(100, 2)) && secondsSpread(flat(100, 3)) == 0.0);
        QVERIFY(!secondsSpread(flat(0, 5)));
        house::Schedule schedule;
        schedule.from = "1970-01-01T00:00:00Z";
        schedule.hours = 2;
        QCOMPARE(slotAt(schedule, 0), std::optional<std::int64_t>(0));
        QVERIFY(slotAt(schedule, 1) && !slotAt(schedule, 2) && !slotAt(schedule, -1));
        Run few = flat(100);
        few.samples.change().resize(5);
        QCOMPARE(capacitySummary({few}, Direction::forward, Rule::median)->runs, 1);
        few.samples.change().resize(4);
        QVERIFY(!capacitySummary({few}, Direction::forward, Rule::median));
        // A run that carried nothing has no logarithm; it takes no part in what is compared.
        const std::vector<double> a{1, 2, 3, 0, 1, 5};
        const std::vector<double> b{1, 2, 3, 1, 0, 5};
        QCOMPARE(compare(a, b, "A", "B", Rule::mean, 1).pairs, 4);
        const Sample low{0.1, 1e6, {}, {}, {}, {}, {}, {}, {}, {}};
        Watch watch(BitRate::megabits(10), 0.1); // a tenth of the rate is not less than that
        watch.add(0.1, low);
        watch.end(0.2);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(0));
    }
    void aSearchEndsAtItsEnds() {
        const SearchSettings settings{BitRate::megabits(1), BitRate::megabits(2), 0.001, 1, 16};
        RateSearch passes(settings);
        passes.tell(BitRate::megabits(2), 1);
        QCOMPARE(passes.next(), std::optional(BitRate::megabits(1)));
        passes.tell(BitRate::megabits(1), 0);
        QVERIFY(!passes.next()); // as narrow as was asked for
        RateSearch fails(settings);
        fails.tell(BitRate::megabits(2), 1);
        fails.tell(BitRate::megabits(1), 1);
        QVERIFY(!fails.next()); // the lower end lost as well
        RateSearch doubts(settings);
        doubts.tell(BitRate::megabits(1.5), 0);
        doubts.tell(BitRate::megabits(1.5), 1);
        QVERIFY(!doubts.best()); // passed by luck
        SearchResult result;
        result.trials = {flat(100)};
        result.trials[0].config.rate = BitRate::megabits(100);
        result.trials[0].datagrams = DatagramCount{1000, 0, 999, 0, 0, 0, 0, {}};
        QVERIFY(reportOf(result, settings).trials.at(0).passed); // just as many as are accepted
    }
    void aSeriesIsReadBackAndItsColumnsAreAsLong() {
        std::vector<Sample> samples{flat(100).samples[0], flat(100).samples[1]};
        samples[1].streamBps = {4e7, 6e7};
        samples[1].retransmits = 7;
        samples[0].cpuSender = 0.25;
        const auto form = seriesToJson(samples);
        const auto back = seriesFromJson(form);
        QVERIFY(back && back->size() == 2 && (*back)[0].cpuSender == 0.25 && (*back)[1].retransmits == 7U);
        QVERIFY((*back)[1].streamBps == samples[1].streamBps && (*back)[0].streamBps.empty());
        QVERIFY(seriesToJson(*back) == form);
        for (const auto& [key, column] : form.items()) {
            auto shorter = form;
            shorter[key].erase(0);
            QVERIFY2(!seriesFromJson(shorter), key.c_str());
            shorter.erase(key);
            QCOMPARE(seriesFromJson(shorter).has_value(), key != "t_s" && key != "goodput_bps");
        }
    }
};

QTEST_GUILESS_MAIN(TestBenchmark)
#include "test_benchmark.moc"
