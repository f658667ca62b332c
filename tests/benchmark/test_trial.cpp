// Trials: their plan, what is done of them, and when a comparison is settled.
#include "benchmark/statistics.h"
#include "benchmark/trial_ranking.h"
#include "house/validate.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTest>
#include <limits>
#include <map>
#include <numeric>
#include <random>
#include <set>

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

// Without the runs before it on a bench and over one cable, unless asked for.
TrialPlan planOver(std::vector<house::Id> routes, int repeats, bool isWhole = false) {
    TrialPlan plan;
    plan.routes = std::move(routes);
    plan.repeats = repeats;
    plan.baseline = plan.bench = isWhole;
    return plan;
}

} // namespace

class TestTrial : public QObject {
    Q_OBJECT

  private slots:
    void baselineAndBenchComeFirst() {
        const house::House h = coaxHouse("usb3");
        const house::Trial trial = planTrial(h, planOver({h.routes[0].id}, 2, true)).value();
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
        TrialPlan plan = planOver({h.routes[0].id}, 1, true);
        QCOMPARE(planTrial(h, plan)->steps.size(), std::size_t(2));
        plan.baseline = false;
        QCOMPARE(planTrial(h, plan)->steps.size(), std::size_t(1));
    }
    void comparedPlacesAreInterleaved() {
        const house::House h = twoRoutes();
        std::string arms;
        const auto planned = planTrial(h, planOver({h.routes[0].id, "other"}, 4)).value();
        for (const house::TrialStep& step : planned.steps)
            arms += step.arm;
        QCOMPARE(arms, std::string("ABBAABBA"));
    }
    void placesOfAPlanAreFinishedOneByOne() {
        const house::House h = twoRoutes();
        TrialPlan plan = planOver({h.routes[0].id, "other"}, 3);
        plan.compares = false;
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
        const house::Trial trial = planTrial(h, planOver({h.routes[0].id}, 1, true)).value();
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
        const house::Trial trial = planTrial(h, planOver({h.routes[0].id, "other"}, 3)).value();
        RouteRuns runs;
        double wobble = 0;
        for (const house::TrialStep& step : trial.steps)
            for (const auto& configs : configsOf(step))
                runs.push_back({"", runOf(step, configs[0], (step.arm == "A" ? 800 : 500) + (wobble += 1))});
        const auto ranking = rankArms(h, trial, runs, Direction::forward);
        QVERIFY(ranking.has_value());
        QCOMPARE(ranking->arms.size(), std::size_t(2));
        QCOMPARE(ranking->arms[0].arm, std::string("A"));
        QCOMPARE(ranking->arms[0].route, h.routes[0].id);
        QCOMPARE(ranking->arms[0].summary.runs, 3);
        QCOMPARE(ranking->arms[0].summary.streams, 4); // those with one stream say nothing of a ceiling
        QCOMPARE(ranking->neighbours.size(), std::size_t(1));
        QCOMPARE(ranking->neighbours[0].verdict, Verdict::aFaster);
        QCOMPARE(ranking->morePairs, 0);
        QVERIFY2(ranking->words.find(h.routes[0].label) != std::string::npos, ranking->words.c_str());
        QVERIFY(!rankArms(h, planTrial(h, planOver({"other"}, 3)).value(), runs, Direction::forward));
    }
    // Three arms, of which two are alike but for noise: what is settled is said, and what is not.
    void manyArmsAreRanked() {
        house::House h = twoRoutes();
        house::Route third = h.routes[0];
        third.id = "third";
        third.label = "The third way";
        h.routes.push_back(third);
        TrialPlan plan = planOver({h.routes[0].id, "other", "third"}, 4);
        plan.streams = {1, 4};
        const house::Trial trial = planTrial(h, plan).value();
        // By hand: B is twice the others; A and C differ by a part of their spread.
        const std::map<std::string, std::vector<double>> mbps{
            {"A", {400, 430, 380, 410}}, {"B", {800, 812, 806, 809}}, {"C", {410, 390, 430, 395}}};
        std::map<std::string, std::size_t> turn;
        RouteRuns runs;
        for (const house::TrialStep& step : trial.steps) {
            const double rate = mbps.at(step.arm)[turn[step.arm]++];
            for (const auto& configs : configsOf(step))
                // One stream carries half; only the most streams count.
                runs.push_back({"", runOf(step, configs[0], configs[0].streams == 4 ? rate : rate / 2)});
        }
        const auto ranking = rankArms(h, trial, runs, Direction::forward).value();
        QCOMPARE(ranking.arms[0].arm, std::string("B"));
        QCOMPARE(ranking.arms[0].summary.runs, 4);
        QCOMPARE(ranking.neighbours.size(), std::size_t(2));
        QCOMPARE(ranking.neighbours[0].verdict, Verdict::aFaster);
        QCOMPARE(ranking.neighbours[1].verdict, Verdict::undecided);
        QVERIFY2(ranking.words.find("The other way” is faster by") != std::string::npos,
                 ranking.words.c_str());
        QVERIFY2(ranking.words.find("not settled") != std::string::npos, ranking.words.c_str());
        // Three arms are three comparisons, which share one risk.
        std::map<std::string, std::vector<double>> rates;
        for (const house::TrialStep& step : trial.steps)
            for (const RouteRun& r : runs)
                if (r.run.step == step.id && r.run.config.streams == 4 &&
                    r.run.config.direction == Direction::forward)
                    rates[step.arm].push_back(r.run.goodput.bps());
        const Comparison shared =
            compare(rates["B"], rates[ranking.arms[1].arm], "", "", h.measuring.summary, 3);
        QCOMPARE(ranking.neighbours[0].low, shared.low);
        QCOMPARE(ranking.neighbours[0].high, shared.high);
        // Backward the same, by runs of its own; nothing is known before there are two arms.
        QCOMPARE(rankArms(h, trial, runs, Direction::backward)->arms[0].arm, std::string("B"));
        std::erase_if(runs, [&](const RouteRun& r) { return r.run.step != trial.steps[0].id; });
        QVERIFY(!rankArms(h, trial, runs, Direction::forward));
    }
    // Three equal arms looked at after every turn: at most one trial of twenty names a winner.
    void equalArmsSeldomHaveAWinner() {
        std::mt19937 random(7);
        std::normal_distribution<double> draw(1e9, 5e7);
        int won = 0;
        constexpr int trials = 400;
        for (int t = 0; t < trials; ++t) {
            std::vector<double> arms[3];
            bool named = false;
            for (int turn = 1; turn <= 20 && !named; ++turn) {
                for (auto& arm : arms)
                    arm.push_back(draw(random));
                for (const auto& [a, b] : {std::pair(0, 1), std::pair(1, 2), std::pair(0, 2)}) {
                    const Verdict v = compare(arms[a], arms[b], "A", "B", Rule::mean, 3).verdict;
                    named = named || v == Verdict::aFaster || v == Verdict::bFaster;
                }
            }
            won += named ? 1 : 0;
        }
        QVERIFY2(won <= trials / 20 + 8, qPrintable(QString::number(won))); // two standard errors above 5 %
        QVERIFY(won > 0);
    }
    void theOrderOfTurnsIsChosen() {
        house::House h = twoRoutes();
        house::Route third = h.routes[0];
        third.id = "third";
        h.routes.push_back(third);
        TrialPlan plan = planOver({h.routes[0].id, "other", "third"}, 3);
        plan.pause = 30;
        const auto arms = [&](TrialOrder order) {
            plan.order = order;
            std::string out;
            const house::Trial trial = planTrial(h, plan).value();
            for (const house::TrialStep& step : trial.steps) {
                out += step.arm.empty() ? "-" : step.arm;
                [&] { QCOMPARE(step.pause, 30.0); }();
            }
            return out;
        };
        QCOMPARE(arms(TrialOrder::thereAndBack), std::string("ABCCBAABC"));
        QCOMPARE(arms(TrialOrder::rotating), std::string("ABCBCACAB"));
        QCOMPARE(arms(TrialOrder::oneByOne), std::string("---------"));
        plan.order = TrialOrder::thereAndBack;
        house::Trial trial = planTrial(h, plan).value();
        // Each step has two runs for each number of streams, each after its pause.
        QCOMPARE(secondsLeft(trial, {}), 9 * 4 * (10 + 30 + 3.0));
        trial = withOneMoreTurn(trial);
        QCOMPARE(trial.steps.size(), std::size_t(12));
        std::string last;
        std::set<std::string> ids;
        for (const house::TrialStep& step : trial.steps) {
            ids.insert(step.id);
            last += step.arm;
        }
        QCOMPARE(ids.size(), trial.steps.size());
        QCOMPARE(last.substr(9), std::string("CBA"));
        for (const double bad : {-1.0, 601.0, std::nan("")}) {
            plan.pause = bad;
            QVERIFY(!planTrial(h, plan));
        }
        plan.pause = 600;
        QVERIFY(planTrial(h, plan));
        plan.routes.assign(27, "other");
        QVERIFY(planTrial(h, plan).error().sentence().find("at most 26") != std::string::npos);
        plan.routes.assign(26, "other");
        QVERIFY(planTrial(h, plan));
    }
    // Student's interval by hand: four runs of 100, 110, 90, 100 have s = 8.165, t = 3.182, half = 12.99.
    void runsThatSettleANeed() {
        std::vector<Run> runs;
        for (const double mbps : {100.0, 110.0, 90.0, 100.0})
            runs.push_back(steadyRun(Direction::forward, mbps, 1));
        const Summary s = summarise(runs, Direction::forward, Rule::mean).value();
        QCOMPARE(std::round(s.least.inMegabits()), 90.0);
        QCOMPARE(std::round(s.most.inMegabits()), 110.0);
        QCOMPARE(runsToSettle(s, BitRate::megabits(80)), std::optional(0));
        QCOMPARE(runsToSettle(s, BitRate::megabits(114)), std::optional(0));
        // 8 apart: t(5) · 8.165 / √6 = 8.57 is not enough, t(6) · 8.165 / √7 = 7.55 is.
        QCOMPARE(runsToSettle(s, BitRate::megabits(92)), std::optional(3));
        // Two at 90 and 110: s = 14.14, half 12.71 · 10 = 127 against 100 apart; of three 4.30 · 14.14 / √3
        // = 35.
        Summary two = s;
        two.runs = 2;
        two.goodput = BitRate::megabits(100);
        two.low = BitRate::bitsPerSecond(100e6 - 127.062e6);
        two.high = BitRate::bitsPerSecond(100e6 + 127.062e6);
        QCOMPARE(runsToSettle(two, BitRate::megabits(200)), std::optional(1));
        two.runs = 1;
        QVERIFY(!runsToSettle(two, BitRate::megabits(200)));
        QVERIFY(!runsToSettle(s, BitRate::megabits(100)));
        runs.resize(1);
        QVERIFY(
            !runsToSettle(summarise(runs, Direction::forward, Rule::mean).value(), BitRate::megabits(92)));
    }

    void aPlainDifferenceIsSettled() {
        const auto c = compare(draws(900e6, 5e6, 5, 1), draws(600e6, 5e6, 5, 2), "A", "B");
        QCOMPARE(c.verdict, Verdict::aFaster);
        QVERIFY(c.low > 1.4 && c.high < 1.6 && c.morePairs == 0 && c.pairs == 5);
        QVERIFY2(c.sentence.starts_with("A is faster by 50 %") ||
                     c.sentence.starts_with("A is faster by 49 %") ||
                     c.sentence.starts_with("A is faster by 51 %"),
                 c.sentence.c_str());
        const auto other = compare(draws(600e6, 5e6, 5, 2), draws(900e6, 5e6, 5, 1), "A", "B");
        QCOMPARE(other.verdict, Verdict::bFaster);
        QVERIFY(std::fabs(other.ratio * c.ratio - 1) < 1e-9);
    }
    void theSameTwiceIsAlike() {
        const auto c = compare(draws(900e6, 3e6, 6, 1), draws(901e6, 3e6, 6, 2), "A", "B");
        QCOMPARE(c.verdict, Verdict::alike);
        QVERIFY(c.sentence.find("5 %") != std::string::npos);
        const std::vector<double> equal(3, 941e6);
        QCOMPARE(compare(equal, equal, "A", "B").verdict, Verdict::alike);
    }
    // One pair of six is odd: the rule that sums up decides what it counts for.
    void theRuleThatSumsUpAlsoCompares() {
        const std::vector<double> b{100e6, 100e6, 100e6, 100e6, 100e6, 100e6};
        const std::vector<double> a{110e6, 111e6, 109e6, 110.5e6, 109.5e6, 10e6};
        const auto by = [&](Rule rule) { return compare(a, b, "A", "B", rule).ratio; };
        // By hand: the logarithms are 0.0953, 0.1044, 0.0862, 0.0998, 0.0908 and −2.3026.
        QVERIFY(std::fabs(by(Rule::mean) - std::exp(-1.82609 / 6)) < 1e-4);
        QVERIFY(std::fabs(by(Rule::median) - std::exp((0.0953 + 0.0908) / 2)) < 1e-4);
        QVERIFY(std::fabs(by(Rule::trimmed) - std::exp((0.0953 + 0.0862 + 0.0998 + 0.0908) / 4)) < 1e-4);
        QVERIFY(by(Rule::best) == by(Rule::mean) && by(Rule::sustained) == by(Rule::mean));
        // Trimmed, as of five runs: (1.1, 1.0833…) the rest is left as it is.
        QVERIFY(
            std::fabs(compare(std::span(a).first(3), std::span(b).first(3), "A", "B", Rule::trimmed).ratio -
                      1.1) < 1e-9);
    }
    void tooFewSaySo() {
        const std::vector<double> two(2, 1e8);
        const std::vector<double> three(3, 1e8);
        QCOMPARE(compare(two, three, "A", "B").verdict, Verdict::tooFew);
        QCOMPARE(compare(two, three, "A", "B").morePairs, 1);
        QCOMPARE(compare({}, three, "A", "B").morePairs, 3);
    }
    // Two-sided critical values as printed in tables of Student's t.
    void studentsTIsThatOfTheTables() {
        for (const auto& [level, df, value] : {std::tuple(0.05, 1.0, 12.706),
                                               {0.05, 2.0, 4.303},
                                               {0.05, 4.0, 2.776},
                                               {0.05, 10.0, 2.228},
                                               {0.05, 30.0, 2.042},
                                               {0.01, 2.0, 9.925},
                                               {0.01, 3.0, 5.841},
                                               {0.01, 5.0, 4.032},
                                               {0.01, 20.0, 2.845},
                                               {0.001, 4.0, 8.610},
                                               {0.001, 10.0, 4.587},
                                               {0.001, 60.0, 3.460}})
            QVERIFY2(std::fabs(studentT(level, df) / value - 1) < 2e-3,
                     qPrintable(QString("%1 %2: %3").arg(level).arg(df).arg(studentT(level, df))));
        // What is less than one degree, or no number, counts as one, whatever was asked before.
        const double five = studentT(0.07, 5);
        for (const double none : {std::numeric_limits<double>::quiet_NaN(), 0.5}) {
            const double found = studentT(0.07, none);
            QVERIFY(found > five);
            QCOMPARE(found, studentT(0.07, 1));
        }
    }
    // The mean of a series whose neighbours are alike, by the sum over all pairs of its values.
    void theIntervalOfASeriesCountsItsPairs() {
        const std::vector<double> values{10, 11, 13, 12, 14, 15, 13, 12, 11, 9, 8, 9, 11, 12, 12, 10};
        const auto n = static_cast<double>(values.size());
        const double centre = std::accumulate(values.begin(), values.end(), 0.0) / n;
        double squares = 0;
        double neighbours = 0;
        for (std::size_t i = 0; i < values.size(); ++i) {
            squares += std::pow(values[i] - centre, 2);
            if (i > 0) neighbours += (values[i] - centre) * (values[i - 1] - centre);
        }
        double r = neighbours / squares;
        r += (1 + 4 * r) / n; // its bias in a short series
        QVERIFY(r > 0.6 && r < 0.9);
        double pairs = 0;
        for (std::size_t i = 0; i < values.size(); ++i)
            for (std::size_t j = 0; j < values.size(); ++j)
                pairs += std::pow(r, i > j ? i - j : j - i);
        const double share = pairs / (n * n);
        const double variance = squares / n / (1 - share);
        const double freedom = std::max(1.5, n / 2 * (1 - r) / (1 + r));
        const auto found = seriesInterval(values);
        QVERIFY(found.has_value());
        QVERIFY2(std::fabs((found->high - found->low) / 2 /
                               (studentT(0.05, freedom) * std::sqrt(variance * share)) -
                           1) < 1e-9,
                 qPrintable(QString::number((found->high - found->low) / 2)));
        QVERIFY(std::fabs((found->high + found->low) / 2 - centre) < 1e-9);
    }
    // A drift of the hour takes both along: neighbours tell what two piles could not.
    void aDriftOfTheHourDoesNotDecide() {
        std::vector<double> a;
        std::vector<double> b;
        const auto noise = draws(1, 0.01, 24, 9);
        for (std::size_t i = 0; i < 12; ++i) {
            const double hour = 100e6 * (1 - 0.05 * static_cast<double>(i)); // down to a half
            a.push_back(hour * 1.12 * noise[2 * i]);
            b.push_back(hour * noise[2 * i + 1]);
        }
        const auto c = compare(a, b, "A", "B");
        QCOMPARE(c.verdict, Verdict::aFaster);
        QVERIFY(c.low > 1.08 && c.high < 1.16);
    }
    // Followed pair by pair and stopped at the first winner, equal things have one in at most one case of
    // twenty.
    void followingItPairByPairFindsFewFalseWinners_data() {
        QTest::addColumn<int>("rule");
        for (const Rule rule : house::summaryRules)
            QTest::newRow(house::name(rule).data()) << static_cast<int>(rule);
    }
    void followingItPairByPairFindsFewFalseWinners() {
        QFETCH(int, rule);
        int wrong = 0;
        constexpr int cases = 2000;
        for (unsigned seed = 1; seed <= cases; ++seed) {
            const auto a = draws(300e6, 60e6, maxPairs, seed);
            const auto b = draws(300e6, 60e6, maxPairs, seed + 50'000);
            for (std::size_t n = 3; n <= maxPairs; ++n) {
                const auto v =
                    compare(std::span(a).first(n), std::span(b).first(n), "A", "B", static_cast<Rule>(rule))
                        .verdict;
                if (v == Verdict::alike) break;
                if (v != Verdict::aFaster && v != Verdict::bFaster) continue;
                ++wrong;
                break;
            }
        }
        QVERIFY2(wrong <= cases / 20, qPrintable(QString::number(wrong)));
        QVERIFY2(wrong >= cases / 100,
                 qPrintable(QString::number(wrong))); // or it were needlessly slow to decide
    }
    // With the further pairs that it names, most of what is open is settled.
    void theForecastOfPairsHolds() {
        int settled = 0;
        int asked = 0;
        for (unsigned seed = 1; seed <= 400; ++seed) {
            const auto a = draws(300e6, 15e6, 60, seed);
            const auto b = draws(270e6, 15e6, 60, seed + 1000);
            const auto first = compare(std::span(a).first(6), std::span(b).first(6), "A", "B");
            if (first.verdict != Verdict::undecided || first.morePairs > 40) continue;
            ++asked;
            const auto n = static_cast<std::size_t>(6 + first.morePairs);
            if (compare(std::span(a).first(n), std::span(b).first(n), "A", "B").verdict != Verdict::undecided)
                ++settled;
        }
        QVERIFY(asked > 100);
        QVERIFY2(settled > asked * 2 / 3,
                 qPrintable(QString::number(settled) + "/" + QString::number(asked)));
    }
};

QTEST_GUILESS_MAIN(TestTrial)
#include "test_trial.moc"
