// A week by its hours, what goes with an appliance, and when a schedule is due.
#include "benchmark/schedule.h"
#include "benchmark/week.h"
#include "benchmark/welch.h"
#include "quantity/moment.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::benchmark;

namespace {

constexpr std::int64_t monday = 1'777'852'800; // 2026-05-04T00:00:00Z
constexpr std::int64_t hour = 3600;

RouteRun runAt(std::int64_t at, double mbps, Direction d = Direction::forward,
               const std::vector<std::string>& appliances = {}) {
    Run run = testing::steadyRun(d, mbps, 4, 0.002, "run-" + std::to_string(at) + name(d)[0]);
    run.startedAt = quantity::utcText(at);
    run.conditions.appliances = appliances;
    return {"desk-shelf", run};
}

house::House withAppliances(const std::vector<house::Appliance>& appliances) {
    house::House h = testing::wiredHouse();
    h.appliances = appliances;
    return h;
}

// A week of hours; while `on` says so the rate is multiplied by `factor`. A little noise, by a fixed rule.
RouteRuns weekWith(const std::function<bool(int)>& on, double factor, const std::string& noted = {}) {
    RouteRuns out;
    for (int h = 0; h < 7 * 24; ++h)
        for (const Direction d : {Direction::forward, Direction::backward}) {
            const double noise = 1 + 0.02 * std::sin(h * 12.9898 + (d == Direction::forward ? 0 : 2));
            const bool isOn = on(h % 24);
            out.push_back(runAt(
                monday + h * hour + 60, (d == Direction::forward ? 100 : 60) * noise * (isOn ? factor : 1), d,
                isOn && !noted.empty() ? std::vector<std::string>{noted} : std::vector<std::string>{}));
        }
    return out;
}

} // namespace

class TestWeek : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        qputenv("TZ", "UTC");
        ::tzset();
    }
    void everyHourHasItsRuns() {
        RouteRuns runs;
        for (const double mbps : {100.0, 110.0, 120.0, 130.0, 140.0})
            runs.push_back(runAt(monday + 18 * hour + static_cast<std::int64_t>(mbps), mbps));
        runs.push_back(runAt(monday + 6 * 24 * hour + 23 * hour + 59 * 60, 50)); // Sunday, the last hour
        runs.push_back(runAt(monday + 18 * hour, 999, Direction::backward));
        RouteRun other = runAt(monday, 7);
        other.route = "elsewhere";
        runs.push_back(other);
        RouteRun cut = runAt(monday + 18 * hour, 1);
        cut.run.complete = false;
        runs.push_back(cut);
        RouteRun bench = runAt(monday + 18 * hour, 1);
        bench.run.config.arrangement.setup = house::Setup::bench;
        runs.push_back(bench);
        const Week week = weekOf(runs, {}, "desk-shelf", Direction::forward);
        const WeekHour& evening = week[0][18];
        QCOMPARE(evening.runs, 5);
        QVERIFY(std::fabs(evening.p50->inMegabits() - 120) < 1);
        QVERIFY(std::fabs(evening.p10->inMegabits() - 104) < 1); // type 7 of five values: 0.4 of the way
        QVERIFY(std::fabs(evening.p90->inMegabits() - 136) < 1);
        QCOMPARE(week[6][23].runs, 1);
        int all = 0;
        for (const auto& day : week)
            for (const WeekHour& h : day)
                all += h.runs;
        QCOMPARE(all, 6);
    }
    void dropOutsStandInTheirHours() {
        WatchReport watch;
        watch.head.route = "desk-shelf";
        watch.head.startedAt = quantity::utcText(monday + 24 * hour + 10 * hour);
        watch.config.direction = Direction::forward;
        watch.hours.resize(2);
        watch.hours[0].seconds = 3600;
        watch.hours[1].seconds = 1800;
        watch.dropOuts = {{100, 1.5, ""}, {200, 0.5, ""}, {3700, 2, ""}};
        const Week week = weekOf({}, {watch}, "desk-shelf", Direction::forward);
        QCOMPARE(week[1][10].dropOuts, 2);
        QCOMPARE(week[1][10].dropOutSeconds, 2.0);
        QCOMPARE(week[1][10].watchedSeconds, 3600.0);
        QCOMPARE(week[1][11].dropOuts, 1);
        QCOMPARE(week[1][11].watchedSeconds, 1800.0);
        // Another way, another direction: nothing.
        QCOMPARE(weekOf({}, {watch}, "desk-shelf", Direction::backward)[1][10].dropOuts, 0);
        QCOMPARE(weekOf({}, {watch}, "elsewhere", Direction::forward)[1][10].dropOuts, 0);
    }
    void theSlowestHourIsSaid() {
        QVERIFY(sentenceOf(Week{}).empty());
        const RouteRuns runs = weekWith([](int h) { return h == 20; }, 0.5);
        const std::string said = sentenceOf(weekOf(runs, {}, "desk-shelf", Direction::forward));
        QVERIFY2(said.starts_with("the slowest hour is from 20 to 21 h (5"), said.c_str()); // 50 Mbit/s or so
    }
    void anApplianceThatWasNotedIsFound() {
        const house::House h =
            withAppliances({{"saw", "saw", "", "", {}}, {"lamp", "lamp", "", "", {{18, 23}}}});
        const RouteRuns runs = weekWith([](int at) { return at >= 9 && at < 12; }, 0.6, "saw");
        const auto found = coincidencesOf(h, runs, "desk-shelf");
        QCOMPARE(found.size(), std::size_t(2));
        const Coincidence& saw = found.front();
        QCOMPARE(saw.appliance, std::string("saw"));
        QVERIFY(saw.isNoted && saw.isReal);
        QCOMPARE(saw.with, 7 * 3 * 2);
        QCOMPARE(saw.without, 7 * 21 * 2);
        QVERIFY2(std::fabs(saw.ratio - 0.6) < 0.01, qPrintable(QString::number(saw.ratio)));
        QVERIFY(saw.low < saw.ratio && saw.ratio < saw.high && saw.high < 0.65);
        QVERIFY2(saw.sentence.find("more than chance would do") != std::string::npos, saw.sentence.c_str());
        // The lamp's hours are only as much faster as the saw's are slower: nothing of its own.
        QVERIFY2(!found.back().isReal, found.back().sentence.c_str());
        QVERIFY(!found.back().isNoted);
    }
    void twoThatRanTogetherCannotBeToldApart() {
        const house::House h =
            withAppliances({{"saw", "saw", "", "", {{9, 12}}}, {"fan", "fan", "", "", {{9, 12}}}});
        const auto found =
            coincidencesOf(h, weekWith([](int at) { return at >= 9 && at < 12; }, 0.6), "desk-shelf");
        QCOMPARE(found.size(), std::size_t(2));
        QVERIFY(found.front().isReal);
        QCOMPARE(found.front().alike.size(), std::size_t(1));
        QVERIFY2(found.front().sentence.find("cannot tell it from") != std::string::npos,
                 found.front().sentence.c_str());
        // By its hours alone: it is said that nobody saw it.
        QVERIFY(found.front().sentence.find("was not noted") != std::string::npos);
    }
    // Of a hundred weeks of nothing but noise, five in a hundred at most are called real.
    void noiseIsNoCause() {
        const house::House h = withAppliances({{"a", "a", "", "", {{0, 6}}},
                                               {"b", "b", "", "", {{6, 12}}},
                                               {"c", "c", "", "", {{12, 18}}},
                                               {"d", "d", "", "", {{18, 24}}}});
        std::mt19937 random(7);
        std::normal_distribution<double> noise(0, 0.1);
        int wrong = 0;
        constexpr int weeks = 200;
        for (int week = 0; week < weeks; ++week) {
            RouteRuns runs;
            for (int i = 0; i < 48; ++i) {
                RouteRun one = runAt(monday + i * hour, 100);
                one.run.goodput = one.run.goodput * std::exp(noise(random));
                runs.push_back(one);
            }
            for (const Coincidence& c : coincidencesOf(h, runs, "desk-shelf"))
                if (c.isReal) {
                    ++wrong;
                    break;
                }
        }
        QVERIFY2(wrong <= weeks * 8 / 100, qPrintable(QString::number(wrong)));
    }
    // By hand: means 10 and 12, variances 1 and 4 of three values each; error √(5/3), degrees of freedom
    // (5/3)² / ((1/3)²/2 + (4/3)²/2) = 50/17 = 2.94; t of 0.05 there is 3.22.
    void welchIsWhatTheBookSays() {
        const std::vector<double> a{9, 10, 11};
        const std::vector<double> b{10, 12, 14};
        const Welch test = welch(a, b, 0.05);
        QCOMPARE(test.difference, 2.0);
        QVERIFY2(std::fabs(test.half - 3.22 * std::sqrt(5.0 / 3)) < 0.02,
                 qPrintable(QString::number(test.half)));
        QCOMPARE(test.variances, 5.0);
        const std::vector<double> same{3, 3};
        QCOMPARE(welch(same, same, 0.05).half, 0.0);
    }
    void aScheduleIsDueInTime() {
        house::Schedule s{"s", "", "r", quantity::utcText(monday), 60, 3};
        QCOMPARE(slotCount(s), 3);
        QCOMPARE(slotAt(s, 2), std::optional(monday + 2 * hour));
        QVERIFY(!slotAt(s, 3) && !slotAt(s, -1));
        QCOMPARE(nextSlot(s, monday - 5), std::optional(monday));
        QCOMPARE(nextSlot(s, monday), std::optional(monday));
        QCOMPARE(nextSlot(s, monday + 1), std::optional(monday + hour));
        QVERIFY(!nextSlot(s, monday + 2 * hour + 1));
        QVERIFY(!slotDue(s, monday - 1));
        QCOMPARE(slotDue(s, monday), std::optional(monday));
        QCOMPARE(slotDue(s, monday + 900), std::optional(monday)); // a quarter of an hour late
        QVERIFY(!slotDue(s, monday + 901));
        QCOMPARE(slotDue(s, monday + hour), std::optional(monday + hour));
        QVERIFY(!slotDue(s, monday + 3 * hour)); // over
        const auto configs = configsOf(s);
        QCOMPARE(configs.size(), std::size_t(2));
        QVERIFY(configs[0].direction == Direction::forward && configs[1].direction == Direction::backward);
        QCOMPARE(configs[0].seconds, 5.0);
        QCOMPARE(configs[0].streams, 4);
        QCOMPARE(dutyOf(s), 10.0 / 3600);
        s.from = "tomorrow";
        QVERIFY(!slotAt(s, 0) && !nextSlot(s, monday) && !slotDue(s, monday));
    }
};

QTEST_GUILESS_MAIN(TestWeek)
#include "test_week.moc"
