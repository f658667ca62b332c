#include "benchmark/rate_steps.h"
#include "benchmark/run_json.h"
#include "benchmark/statistics.h"

#include <QTest>
#include <nlohmann/json.hpp>
#include <random>

using namespace metrodos::benchmark;
using metrodos::quantity::BitRate;

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
    void garbageInAnyFieldIsRefusedOrHarmless() {
        const nlohmann::json good = toJson(flat(10, 1));
        const std::vector<nlohmann::json> garbage{
            nullptr, -1, 1e300, "x", nlohmann::json::array(), nlohmann::json::object(), true};
        int refused = 0;
        for (const auto& [key, value] : good.items())
            for (const auto& bad : garbage) {
                nlohmann::json mutant = good;
                mutant[key] = bad;
                if (!runFromJson(mutant)) ++refused;
            }
        QVERIFY(refused > 60);
        QVERIFY(!runFromJson("text"));
        QVERIFY(!sampleFromJson({{"t_s", "soon"}, {"goodput_bps", 1}}));
    }
};

QTEST_GUILESS_MAIN(TestBenchmark)
#include "test_benchmark.moc"
