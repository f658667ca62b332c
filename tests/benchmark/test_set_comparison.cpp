// Two sets of runs against each other: the arithmetic of Welch, what is said of it, and what else differs.
#include "benchmark/set_comparison.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTest>
#include <cmath>
#include <random>

using namespace metrodos;
using benchmark::Direction;
using benchmark::RouteRuns;
using benchmark::Rule;

namespace {

// Runs of these rates, in Mbit/s.
RouteRuns runsOf(const std::vector<double>& mbps, const std::string& stem = "a") {
    RouteRuns out;
    for (std::size_t i = 0; i < mbps.size(); ++i) {
        benchmark::Run run = testing::steadyRun(Direction::forward, mbps[i], 4, 0, stem + std::to_string(i));
        run.goodput = quantity::BitRate::megabits(mbps[i]);
        out.push_back({"desk-shelf", run});
    }
    return out;
}

benchmark::SetComparison compared(const RouteRuns& a, const RouteRuns& b, Rule rule = Rule::mean) {
    return benchmark::compareSets(a, b, "before", "after", testing::wiredHouse(), rule);
}

} // namespace

class TestSetComparison : public QObject {
    Q_OBJECT

  private slots:
    // Worked by hand. A: ln of 90, 100, 110 has mean 4.60182, variance 0.010076; B: ln of 130, 140, 150, 160
    // has mean 4.97375, variance 0.007987. Difference 0.37193; standard error √(0.010076/3 + 0.007987/4) =
    // 0.07318; Welch–Satterthwaite: 0.0053552² / (0.0033585²/2 + 0.0019967²/3) = 4.115 degrees;
    // t(0.975; 4.115) = 2.7460.
    void theIntervalIsWelchs() {
        const auto c = compared(runsOf({90, 100, 110}), runsOf({130, 140, 150, 160}, "b"));
        QCOMPARE(c.runsA, 3);
        QCOMPARE(c.runsB, 4);
        QVERIFY(std::abs(std::log(*c.ratio) - 0.37193) < 1e-4);
        const double half = std::log(*c.high) - std::log(*c.ratio);
        QVERIFY2(std::abs(half - 2.7460 * 0.07318) < 5e-4, std::to_string(half).c_str());
        QVERIFY(std::abs(std::log(*c.ratio) - std::log(*c.low) - half) < 1e-9);
        QVERIFY(c.real == true);
        QCOMPARE(c.runsNeeded, 0);
        QVERIFY2(c.sentence.starts_with("after is 45 % faster than before"), c.sentence.c_str());
        // The other way round it is the inverse.
        const auto back = compared(runsOf({130, 140, 150, 160}, "b"), runsOf({90, 100, 110}));
        QVERIFY(std::abs(*back.ratio * *c.ratio - 1) < 1e-9);
        QVERIFY(back.sentence.find("slower than") != std::string::npos);
    }
    void whatIsAlikeIsSaidToBe() {
        const auto c =
            compared(runsOf({100, 101, 99, 100, 100.5}), runsOf({100, 100.2, 99.7, 100.4, 99.9}, "b"));
        QVERIFY(c.real == false);
        QVERIFY2(c.sentence.find("alike") != std::string::npos, c.sentence.c_str());
    }
    void whatIsNotSettledSaysWhatWouldSettleIt() {
        const auto c = compared(runsOf({60, 100, 150}), runsOf({80, 120, 170}, "b"));
        QVERIFY(!c.real.has_value());
        QVERIFY2(c.runsNeeded > 3 && c.runsNeeded <= 200, std::to_string(c.runsNeeded).c_str());
        QVERIFY2(c.sentence.find("not settled") != std::string::npos, c.sentence.c_str());
    }
    void fewRunsAreNoVerdict() {
        QVERIFY(!compared({}, runsOf({100})).ratio);
        QVERIFY(compared({}, runsOf({100})).sentence.find("no whole runs of before") != std::string::npos);
        const auto one = compared(runsOf({100}), runsOf({50}, "b"));
        QVERIFY(std::abs(*one.ratio - 0.5) < 1e-9);
        QVERIFY(!one.low && !one.real);
        QCOMPARE(one.runsNeeded, 3);
        RouteRuns cut = runsOf({100, 100, 100});
        for (auto& r : cut)
            r.run.complete = false;
        QVERIFY(!compared(cut, runsOf({100, 100}, "b")).ratio);
    }
    void runsWithoutAnySpreadAreCompared() {
        const auto c = compared(runsOf({100, 100, 100}), runsOf({94, 94, 94}, "b"));
        QVERIFY(c.real == true && std::isfinite(*c.low) && std::isfinite(*c.high));
        const auto same = compared(runsOf({100, 100, 100}), runsOf({100, 100, 100}, "b"));
        QVERIFY(same.real == false && *same.ratio == 1);
    }
    void aSmallRealDifferenceIsCalledSmall() {
        const auto c = compared(runsOf({100, 100.01, 99.99, 100}), runsOf({101, 101.01, 100.99, 101}, "b"));
        QVERIFY(c.real == true);
        QVERIFY2(c.sentence.find("too little to be worth anything") != std::string::npos, c.sentence.c_str());
    }
    // Sets of one distribution are told apart about one time in twenty.
    void equalsAreToldApartRarely() {
        std::mt19937 random(11);
        std::normal_distribution<double> noise(0, 0.1);
        int wrong = 0;
        constexpr int rounds = 1000;
        for (int i = 0; i < rounds; ++i) {
            std::vector<double> a;
            std::vector<double> b;
            for (int k = 0; k < 6; ++k) {
                a.push_back(100 * std::exp(noise(random)));
                b.push_back(100 * std::exp(noise(random)));
            }
            RouteRuns ra;
            RouteRuns rb;
            for (const double rate : a) {
                benchmark::Run run;
                run.goodput = quantity::BitRate::megabits(rate);
                ra.push_back({"r", run});
            }
            for (const double rate : b) {
                benchmark::Run run;
                run.goodput = quantity::BitRate::megabits(rate);
                rb.push_back({"r", run});
            }
            wrong += compared(ra, rb).real == true ? 1 : 0;
        }
        QVERIFY2(wrong > 20 && wrong < 85, std::to_string(wrong).c_str());
    }
    void oneDifferenceIsComparedTwoAreConfounded() {
        RouteRuns a = runsOf({100, 101, 102});
        RouteRuns b = runsOf({120, 121, 122}, "b");
        QVERIFY(compared(a, b).differs.empty());
        for (auto& r : b)
            r.run.conditions.changed = "adapter exchanged";
        auto c = compared(a, b);
        QCOMPARE(c.differs.size(), std::size_t(1));
        QVERIFY2(c.differs[0] == "what was changed: none against adapter exchanged", c.differs[0].c_str());
        QVERIFY(c.confoundedBy.empty() && c.sentence.find("more than one thing") == std::string::npos);
        for (auto& r : b)
            r.run.conditions.othersActive = true;
        c = compared(a, b);
        QCOMPARE(c.confoundedBy.size(), std::size_t(2));
        QVERIFY2(c.sentence.ends_with("more than one thing differs, and each may be the cause"),
                 c.sentence.c_str());
    }
    void whatDiffersIsNamed_data() {
        QTest::addColumn<QString>("what");
        for (const char* what :
             {"the way", "the direction", "the streams", "the protocol", "the set-up", "the place",
              "other people", "appliances", "what was changed", "measured or simulated", "the hour"})
            QTest::newRow(what) << what;
    }
    void whatDiffersIsNamed() {
        QFETCH(QString, what);
        const RouteRuns a = runsOf({100, 101, 102});
        RouteRuns b = runsOf({100, 101, 102}, "b");
        for (auto& r : b) {
            benchmark::Run& run = r.run;
            if (what == "the way") r.route = "other";
            if (what == "the direction") run.config.direction = Direction::backward;
            if (what == "the streams") run.config.streams = 1;
            if (what == "the protocol") run.config.protocol = benchmark::Protocol::udp;
            if (what == "the set-up") run.config.arrangement.setup = house::Setup::bench;
            if (what == "the place")
                run.config.arrangement.altered = {{"mains", house::AlterationKind::other_outlet, "o2"}};
            if (what == "other people") run.conditions.othersActive = false;
            if (what == "appliances") run.conditions.appliances = {"kettle"};
            if (what == "what was changed") run.conditions.changed = "cable";
            if (what == "measured or simulated") run.simulated = true;
            if (what == "the hour") run.conditions.hour = 20;
        }
        const auto c = compared(a, b);
        QCOMPARE(c.differs.size(), std::size_t(1));
        QVERIFY2(c.differs[0].starts_with(what.toStdString() + ": "), c.differs[0].c_str());
    }
    // 23 h and 1 h are two hours apart, and as good as the same; 10 h and 20 h are not.
    void hoursAreOnAClock() {
        RouteRuns a = runsOf({100, 101});
        RouteRuns b = runsOf({100, 101}, "b");
        const auto hours = [&](std::vector<int> ofA, std::vector<int> ofB) {
            for (std::size_t i = 0; i < 2; ++i) {
                a[i].run.conditions.hour = ofA[i];
                b[i].run.conditions.hour = ofB[i];
            }
            return compared(a, b).differs;
        };
        QVERIFY(hours({23, 23}, {1, 1}).empty());
        QVERIFY(hours({22, 2}, {0, 1}).empty());
        QVERIFY(hours({9, 18}, {12, 20}).empty()); // one within the other's span
        QVERIFY(
            hours({0, 12}, {6, 6}).empty()); // of two spans as narrow, that which begins earlier in the day
        QCOMPARE(hours({10, 11}, {20, 20}), std::vector<std::string>{"the hour: 10 h to 11 h against 20 h"});
        QCOMPARE(hours({23, 0}, {4, 5}).size(), std::size_t(1));
        a[0].run.conditions.hour.reset();
        a[0].run.startedAt.clear();
        a[1].run.conditions.hour.reset();
        a[1].run.startedAt.clear();
        QVERIFY(compared(a, b).differs.empty()); // nobody knows
    }
    void aRuleOfSummaryDecidesTheFigure() {
        RouteRuns a = runsOf({100, 101, 102});
        for (auto& r : a) { // two seconds of ten stall
            std::vector<benchmark::Sample> samples(r.run.samples.begin(), r.run.samples.end());
            for (std::size_t i = 0; i < 20; ++i)
                samples[40 + i].goodputBps = 10e6;
            r.run.samples = std::move(samples);
        }
        const RouteRuns b = runsOf({100, 101, 102}, "b");
        QVERIFY(*compared(a, b, Rule::sustained).ratio > 5);
        QVERIFY(std::abs(*compared(a, b, Rule::mean).ratio - 1) < 1e-9);
    }
};

QTEST_APPLESS_MAIN(TestSetComparison)
#include "test_set_comparison.moc"
