// Steps of the rate are found where they are, and none where there are none.
#include "benchmark/rate_steps.h"
#include "benchmark/remarks.h"

#include <QTest>
#include <random>

using namespace metrodos;
using namespace metrodos::benchmark;

namespace {

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

class TestRateSteps : public QObject {
    Q_OBJECT

  private slots:
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
};

QTEST_GUILESS_MAIN(TestRateSteps)
#include "test_rate_steps.moc"
