// Trials: their plan, what is done of them, and when a comparison is settled.
#include "benchmark/trial.h"
#include "house/validate.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTest>
#include <random>

using namespace metrodos;
using namespace metrodos::benchmark;
using metrodos::testing::coaxHouse;
using metrodos::testing::steadyRun;
using metrodos::testing::wiredHouse;

namespace {

// Both routes over one house: what matters is their names.
house::House twoRoutes() {
    house::House h = coaxHouse("usb3");
    house::Route other = h.routes[0];
    other.id = "other";
    other.label = "The other way";
    h.routes.push_back(other);
    return h;
}

Run runOf(const house::TrialStep& step, const RunConfig& config, double mbps) {
    Run run = steadyRun(config.direction, mbps, config.streams);
    run.step = step.id;
    run.config.arrangement.setup = step.setup;
    return run;
}

std::vector<double> draws(double centre, double spread, int count, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> draw(centre, spread);
    std::vector<double> out;
    for (int i = 0; i < count; ++i)
        out.push_back(draw(random));
    return out;
}

} // namespace

class TestTrial : public QObject {
    Q_OBJECT

  private slots:
    void baselineAndBenchComeFirst() {
        const house::House h = coaxHouse("usb3");
        TrialPlan plan;
        plan.routes = {h.routes[0].id};
        plan.repeats = 2;
        const house::Trial trial = planTrial(h, plan).value();
        QCOMPARE(trial.steps.size(), std::size_t(4));
        QCOMPARE(trial.steps[0].setup, house::Setup::baseline);
        QCOMPARE(trial.steps[1].setup, house::Setup::bench);
        QCOMPARE(trial.steps[2].setup, house::Setup::place);
        QVERIFY(trial.steps[0].prepare.find("one short good cable") != std::string::npos);
        QVERIFY(trial.steps[1].prepare.find("side by side") != std::string::npos);
        QVERIFY(trial.steps[3].prepare.find("Leave everything") != std::string::npos);
        QVERIFY(trial.steps[2].arm.empty());
        house::House with = h;
        with.trials.push_back(trial);
        QVERIFY2(house::validate(with).empty(),
                 house::validate(with).empty() ? "" : house::validate(with).front().sentence().c_str());
    }
    void aRouteOfCableHasNoBench() {
        const house::House h = wiredHouse();
        TrialPlan plan;
        plan.routes = {h.routes[0].id};
        plan.repeats = 1;
        QCOMPARE(planTrial(h, plan)->steps.size(), std::size_t(2));
        plan.baseline = false;
        QCOMPARE(planTrial(h, plan)->steps.size(), std::size_t(1));
    }
    void comparedPlacesAreInterleaved() {
        const house::House h = twoRoutes();
        TrialPlan plan;
        plan.routes = {h.routes[0].id, "other"};
        plan.repeats = 4;
        plan.baseline = plan.bench = false;
        std::string arms;
        const auto planned = planTrial(h, plan).value();
        for (const house::TrialStep& step : planned.steps)
            arms += step.arm;
        QCOMPARE(arms, std::string("ABBAABBA"));
    }
    void placesOfAPlanAreFinishedOneByOne() {
        const house::House h = twoRoutes();
        TrialPlan plan;
        plan.routes = {h.routes[0].id, "other"};
        plan.repeats = 3;
        plan.compares = plan.baseline = plan.bench = false;
        const auto planned = planTrial(h, plan).value();
        std::string routes;
        for (const house::TrialStep& step : planned.steps) {
            QVERIFY(step.arm.empty()); // nothing is compared
            routes += step.route == "other" ? 'o' : 'f';
        }
        QCOMPARE(routes, std::string("fffooo"));
    }
    void whatCannotBePlannedIsASentence() {
        const house::House h = wiredHouse();
        TrialPlan plan;
        QVERIFY(!planTrial(h, plan));
        plan.routes = {"nosuch"};
        QVERIFY(planTrial(h, plan).error().sentence().find("nosuch") != std::string::npos);
        plan.routes = {h.routes[0].id};
        plan.repeats = 0;
        QVERIFY(!planTrial(h, plan));
        plan.repeats = 1;
        plan.streams.clear();
        QVERIFY(!planTrial(h, plan));
    }
    void aStepAsksForEveryStreamAndDirection() {
        house::TrialStep step;
        step.streams = {1, 4};
        step.directions = house::Directions::both;
        QCOMPARE(configsOf(step).size(), std::size_t(4));
        step.directions = house::Directions::backward;
        QCOMPARE(configsOf(step).size(), std::size_t(2));
        QCOMPARE(configsOf(step)[1][0].streams, 4);
        step.directions = house::Directions::together;
        QCOMPARE(configsOf(step).size(), std::size_t(2));
        QCOMPARE(configsOf(step)[0].size(), std::size_t(2));
    }
    void itGoesOnWhereItStopped() {
        const house::House h = coaxHouse("usb3");
        TrialPlan plan;
        plan.routes = {h.routes[0].id};
        plan.repeats = 1;
        const house::Trial trial = planTrial(h, plan).value();
        RouteRuns runs;
        const double all = secondsLeft(trial, runs);
        QCOMPARE(all, 3 * 4 * 13.0);
        QCOMPARE(nextStep(trial, runs)->id, trial.steps[0].id);
        for (const auto& configs : configsOf(trial.steps[0]))
            runs.push_back({"", runOf(trial.steps[0], configs[0], 900)});
        QCOMPARE(nextStep(trial, runs)->id, trial.steps[1].id);
        QVERIFY(secondsLeft(trial, runs) < all);
        // One that was cut off does not count.
        for (const auto& configs : configsOf(trial.steps[1]))
            runs.push_back({"", runOf(trial.steps[1], configs[0], 900)});
        runs.back().run.complete = false;
        QCOMPARE(nextStep(trial, runs)->id, trial.steps[1].id);
        runs.back().run.complete = true;
        for (const auto& configs : configsOf(trial.steps[2]))
            runs.push_back({"", runOf(trial.steps[2], configs[0], 900)});
        QVERIFY(nextStep(trial, runs) == nullptr);
        QCOMPARE(secondsLeft(trial, runs), 0.0);
    }
    void benchRunsSayNothingOfTheRoute() {
        house::TrialStep step;
        step.setup = house::Setup::baseline;
        QVERIFY(!runOf(step, {}, 900).showsCeiling());
        step.setup = house::Setup::place;
        QVERIFY(runOf(step, {}, 900).showsCeiling());
    }
    void armsAreCompared() {
        const house::House h = twoRoutes();
        TrialPlan plan;
        plan.routes = {h.routes[0].id, "other"};
        plan.repeats = 3;
        plan.baseline = plan.bench = false;
        const house::Trial trial = planTrial(h, plan).value();
        RouteRuns runs;
        double wobble = 0;
        for (const house::TrialStep& step : trial.steps)
            for (const auto& configs : configsOf(step))
                runs.push_back({"", runOf(step, configs[0], (step.arm == "A" ? 800 : 500) + (wobble += 1))});
        const auto c = compareArms(h, trial, runs, Direction::forward);
        QVERIFY(c.has_value());
        QCOMPARE(c->verdict, Verdict::aFaster);
        QVERIFY2(c->sentence.find(h.routes[0].label) != std::string::npos, c->sentence.c_str());
        plan.routes = {"other"};
        QVERIFY(!compareArms(h, planTrial(h, plan).value(), runs, Direction::forward));
    }

    void aPlainDifferenceIsSettled() {
        const auto c = compare(draws(900e6, 5e6, 5, 1), draws(600e6, 5e6, 5, 2), "A", "B");
        QCOMPARE(c.verdict, Verdict::aFaster);
        QVERIFY(c.low > 280e6 && c.high < 320e6 && c.morePairs == 0);
        QCOMPARE(compare(draws(600e6, 5e6, 5, 2), draws(900e6, 5e6, 5, 1), "A", "B").verdict,
                 Verdict::bFaster);
    }
    void theSameTwiceIsAlike() {
        const auto c = compare(draws(900e6, 3e6, 6, 1), draws(901e6, 3e6, 6, 2), "A", "B");
        QCOMPARE(c.verdict, Verdict::alike);
        QVERIFY(c.sentence.find("5 %") != std::string::npos);
        const std::vector<double> equal(3, 941e6);
        QCOMPARE(compare(equal, equal, "A", "B").verdict, Verdict::alike);
    }
    void tooFewSaySo() {
        const std::vector<double> one(1, 1e8);
        const std::vector<double> three(3, 1e8);
        QCOMPARE(compare(one, three, "A", "B").verdict, Verdict::tooFew);
        QCOMPARE(compare(one, three, "A", "B").morePairs, 1);
        QCOMPARE(compare({}, three, "A", "B").morePairs, 2);
    }
    // Worked by hand: A 100, 120; B 80, 100: means 110 and 90, variances 200 and 200, standard error
    // √(200/2 + 200/2) = 14.14, two degrees of freedom, t = 4.303: half width 60.9.
    void theIntervalIsWelchs() {
        const std::vector<double> a{100e6, 120e6};
        const std::vector<double> b{80e6, 100e6};
        const auto c = compare(a, b, "A", "B");
        QCOMPARE(c.verdict, Verdict::undecided);
        QVERIFY(std::fabs(c.difference - 20e6) < 1);
        QVERIFY2(std::fabs(c.high - 80.85e6) < 0.1e6, qPrintable(QString::number(c.high)));
        QVERIFY(c.morePairs > 1 && c.morePairs < maxPairs);
    }
    // The forecast of further pairs is about right: with that many the same spread is settled in most cases.
    void theForecastOfPairsHolds() {
        int settled = 0;
        int asked = 0;
        for (unsigned seed = 1; seed <= 200; ++seed) {
            const auto a = draws(300e6, 20e6, 40, seed);
            const auto b = draws(275e6, 20e6, 40, seed + 1000);
            const auto first = compare(std::span(a).first(4), std::span(b).first(4), "A", "B");
            if (first.verdict != Verdict::undecided || first.morePairs > 30) continue;
            ++asked;
            const auto n = static_cast<std::size_t>(4 + first.morePairs);
            if (compare(std::span(a).first(n), std::span(b).first(n), "A", "B").verdict != Verdict::undecided)
                ++settled;
        }
        QVERIFY(asked > 50);
        QVERIFY2(settled > asked / 2, qPrintable(QString::number(settled) + "/" + QString::number(asked)));
    }
    // Two equal things are called different in about one case of twenty.
    void falseAlarmsAreRare() {
        int wrong = 0;
        for (unsigned seed = 1; seed <= 1000; ++seed) {
            const auto v =
                compare(draws(300e6, 30e6, 5, seed), draws(300e6, 30e6, 5, seed + 5000), "A", "B").verdict;
            if (v == Verdict::aFaster || v == Verdict::bFaster) ++wrong;
        }
        QVERIFY2(wrong > 20 && wrong < 75, qPrintable(QString::number(wrong)));
    }
};

QTEST_GUILESS_MAIN(TestTrial)
#include "test_trial.moc"
