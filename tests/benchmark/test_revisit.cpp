// An earlier day once more: what has to be set, what has changed since, and what may be the cause. The
// comparisons that runs allow. How good statements were.
#include "benchmark/comparison_presets.h"
#include "benchmark/revisit.h"
#include "benchmark/run_filter.h"
#include "benchmark/statements.h"
#include "house/validate.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::benchmark;

namespace {

RouteRun runOn(const std::string& at, double mbps, Direction d = Direction::forward,
               const std::string& step = {}) {
    static int number = 0;
    Run run = testing::steadyRun(d, mbps, 4, 0.002, "run-" + std::to_string(++number));
    run.startedAt = at;
    run.conditions.hour = 10;
    run.step = step;
    return {"desk-shelf", run};
}

RouteRuns threeOn(const std::string& day, double mbps, Direction d = Direction::forward,
                  const std::string& step = {}) {
    return {runOn(day + "T10:00:00Z", mbps, d, step), runOn(day + "T10:01:00Z", mbps * 1.01, d, step),
            runOn(day + "T10:02:00Z", mbps * 0.99, d, step)};
}

void append(RouteRuns& to, const RouteRuns& more) {
    to.insert(to.end(), more.begin(), more.end());
}

} // namespace

class TestRevisit : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        qputenv("TZ", "UTC");
        ::tzset();
    }
    void visitsAreDays() {
        RouteRuns runs = threeOn("2026-05-04", 100);
        append(runs, threeOn("2025-11-01", 100));
        RouteRun cut = runOn("2026-06-01T10:00:00Z", 1);
        cut.run.complete = false;
        runs.push_back(cut);
        const auto visits = visitsOf(runs);
        QCOMPARE(visits.size(), std::size_t(2));
        QCOMPARE(visits[0].day, std::string("2025-11-01"));
        QCOMPARE(visits[0].runs, 3);
    }
    void theRunsOfADayAreAskedForAgain() {
        house::House h = testing::wiredHouse();
        RouteRuns runs = threeOn("2026-05-04", 100);
        append(runs, threeOn("2026-05-04", 90, Direction::backward));
        for (RouteRun& r : runs) {
            r.run.conditions.appliances = {"saw"};
            r.run.conditions.othersActive = false;
        }
        RouteRun baseline = runOn("2026-05-04T11:00:00Z", 940);
        baseline.run.config.arrangement.setup = house::Setup::baseline;
        runs.push_back(baseline);
        append(runs, threeOn("2026-05-05", 100)); // another day
        const auto trial = revisitOf(h, runs, "2026-05-04");
        QVERIFY2(trial.has_value(), trial ? "" : trial.error().sentence().c_str());
        QCOMPARE(trial->revisits, std::string("2026-05-04"));
        QCOMPARE(trial->steps.size(), std::size_t(2));
        const auto place =
            std::find_if(trial->steps.begin(), trial->steps.end(),
                         [](const house::TrialStep& s) { return s.setup == house::Setup::place; });
        QVERIFY(place->directions == house::Directions::both);
        QCOMPARE(place->streams, std::vector<int>{4});
        QCOMPARE(place->seconds, 10.0);
        for (const char* words :
             {"Switch on “saw”", "nobody else uses the network", "then it was from 10 to 11 h"})
            QVERIFY2(place->prepare.find(words) != std::string::npos, place->prepare.c_str());
        const auto& other = trial->steps[place == trial->steps.begin() ? 1 : 0];
        QVERIFY(other.setup == house::Setup::baseline && other.directions == house::Directions::forward);
        QVERIFY2(other.prepare.starts_with("Join the two machines by one short cable"),
                 other.prepare.c_str());
        h.trials.push_back(*trial);
        QVERIFY(house::validate(h).empty());
        QVERIFY(revisitOf(h, runs, "2026-05-04")->id != trial->id);
        QVERIFY(!revisitOf(h, runs, "2026-05-06"));
        h.routes.clear();
        QVERIFY(!revisitOf(h, runs, "2026-05-04"));
    }
    void whatCannotBeAskedForAgainIsLeftOut() {
        const house::House h = testing::wiredHouse();
        const auto spoiled = [&](const std::function<void(Run&)>& spoil) {
            RouteRun r = runOn("2026-05-04T10:00:00Z", 100);
            spoil(r.run);
            return revisitOf(h, {r}, "2026-05-04").has_value();
        };
        QVERIFY(spoiled([](Run&) {}));
        QVERIFY(!spoiled([](Run& r) { r.complete = false; }));
        QVERIFY(!spoiled([](Run& r) { r.config.protocol = Protocol::udp; }));
        QVERIFY(!spoiled([](Run& r) { r.config.rate = BitRate::megabits(5); }));
        QVERIFY(!spoiled([](Run& r) { r.config.group = "g"; }));
        QVERIFY(!spoiled([](Run& r) { r.config.arrangement.swapped = true; }));
        QVERIFY(!spoiled([](Run& r) { r.config.arrangement.bypassed = {"switch"}; }));
    }
    void whatHasChangedIsSaidWithItsCause() {
        house::House h = testing::wiredHouse();
        RouteRuns runs = threeOn("2026-05-04", 400);
        append(runs, threeOn("2026-05-04", 300, Direction::backward));
        const auto trial = revisitOf(h, runs, "2026-05-04").value();
        h.trials = {trial};
        QVERIFY(changedSince(h, trial, runs, Rule::median).empty()); // nothing was repeated yet
        const std::string step = trial.steps.front().id;
        append(runs, threeOn("2026-11-01", 280, Direction::forward, step));
        append(runs, threeOn("2026-11-01", 301, Direction::backward, step));
        h.changes = {{"c1", "2026-07-01T00:00:00Z", "switch", "“Switch” changed from a to b"},
                     {"c2", "2026-07-01T00:00:00Z", "nowhere", "something else changed"},
                     {"c3", "2026-01-01T00:00:00Z", "switch", "long before"}};
        const auto since = changedSince(h, trial, runs, Rule::median);
        QCOMPARE(since.size(), std::size_t(2));
        const Since& forward = since[0].direction == Direction::forward ? since[0] : since[1];
        const Since& backward = since[0].direction == Direction::forward ? since[1] : since[0];
        QVERIFY(forward.comparison.real == true);
        QVERIFY2(std::fabs(*forward.comparison.ratio - 0.7) < 0.01, forward.sentence.c_str());
        QCOMPARE(forward.between.size(), std::size_t(1));
        QVERIFY2(forward.sentence.find("30 % slower") != std::string::npos &&
                     forward.sentence.find("“Switch” changed from a to b: the likely cause") !=
                         std::string::npos,
                 forward.sentence.c_str());
        QVERIFY2(backward.sentence.find(" backward: as on 2026-05-04") != std::string::npos ||
                     backward.sentence.find("not settled") != std::string::npos,
                 backward.sentence.c_str());
        QVERIFY2(backward.sentence.find("likely cause") == std::string::npos, backward.sentence.c_str());
        h.changes.clear();
        const auto alone = changedSince(h, trial, runs, Rule::median);
        QVERIFY(std::any_of(alone.begin(), alone.end(), [](const Since& s) {
            return s.sentence.find("nothing that the way passes was noted as exchanged since") !=
                   std::string::npos;
        }));
    }
    void comparisonsAreOffered() {
        house::House h = testing::wiredHouse();
        QVERIFY(presetsOf(h, {}, "").empty());
        RouteRuns runs = threeOn("2025-05-04", 100);
        append(runs, threeOn("2026-05-04", 90, Direction::backward));
        runs.front().run.conditions.appliances = {"big \"saw\""};
        runs.front().run.conditions.othersActive = true;
        runs.back().run.conditions.othersActive = false;
        h.changes = {{"c1", "2026-01-01T00:00:00Z", "switch", "“Switch” changed from a to b"}};
        const auto presets = presetsOf(h, runs, "desk-shelf");
        std::vector<std::string> labels;
        for (const ComparisonPreset& p : presets) {
            labels.push_back(p.label);
            // Each is a pair of filters that mean something and share nothing.
            const auto a = parseRunFilter(p.first);
            const auto b = parseRunFilter(p.second);
            QVERIFY2(a && b, p.first.c_str());
            const auto first = matching(runs, *a, h);
            const auto second = matching(runs, *b, h);
            QVERIFY2(!first.empty() && !second.empty(), p.label.c_str());
            for (const RouteRun& x : first)
                for (const RouteRun& y : second)
                    QVERIFY2(x.run.id != y.run.id, p.label.c_str());
        }
        for (const char* wanted :
             {"before and after: “Switch” changed from a to b", "one way against the other", "2025 and 2026",
              "the first day and the last", "alone and with others"})
            QVERIFY2(std::find(labels.begin(), labels.end(), wanted) != labels.end(), wanted);
        QVERIFY(presetsOf(h, runs, "elsewhere").empty());
        // Four appliances are enough to choose from.
        for (int i = 0; i < 6; ++i)
            runs[1].run.conditions.appliances.push_back("lamp " + std::to_string(i));
        const auto more = presetsOf(h, runs, "desk-shelf");
        QCOMPARE(std::count_if(more.begin(), more.end(),
                               [](const ComparisonPreset& p) { return p.label.ends_with("off and on"); }),
                 std::ptrdiff_t(4));
    }
    // Six runs of each, at ln 100 ± 0.1 and 5 % more: variance 0.012 each; (1.96 + 0.8416)² × 0.024 /
    // ln(1.05)² = 79.1.
    void howManyRunsWouldTellIsReckoned() {
        RouteRuns a;
        RouteRuns b;
        for (int i = 0; i < 6; ++i) {
            RouteRun one = runOn("2026-05-04T10:00:00Z", 100);
            one.run.goodput = BitRate::megabits(100 * std::exp(i % 2 == 0 ? 0.1 : -0.1));
            a.push_back(one);
            one.run.goodput = one.run.goodput * 1.05;
            b.push_back(one);
        }
        const auto c = compareSets(a, b, "a", "b", testing::wiredHouse(), Rule::mean);
        QVERIFY(!c.real);
        QVERIFY2(c.runsNeeded >= 79 && c.runsNeeded <= 81, qPrintable(QString::number(c.runsNeeded)));
    }
    void aLimitThatWasExchangedHeldOrDidNot() {
        house::House h = testing::wiredHouse();
        h.changes = {{"c1", "2026-01-01T00:00:00Z", "switch", "switch exchanged", 0.9, "desk-shelf"},
                     {"c2", "2026-03-01T00:00:00Z", "shelf", "shelf exchanged", 0.6, "desk-shelf"},
                     {"c3", "2026-05-01T00:00:00Z", "desk", "desk exchanged", 0.8, "desk-shelf"},
                     {"c4", "2026-05-02T00:00:00Z", "desk", "of which nobody had said anything"}};
        RouteRuns runs = threeOn("2025-12-01", 100);
        append(runs, threeOn("2026-02-01", 200)); // the first one lifted it
        append(runs, threeOn("2026-04-01", 200)); // the second did not
        const auto s = statementsOf(h, runs, Rule::median);
        QCOMPARE(s.size(), std::size_t(3));
        QVERIFY(s[0].fate == Fate::held);
        QVERIFY2(s[0].sentence.starts_with("forward 2.00 times as fast after it, by 3 and 3 runs"),
                 s[0].sentence.c_str());
        QVERIFY2(s[1].fate != Fate::held, s[1].sentence.c_str());
        QVERIFY(s[2].fate == Fate::open); // nobody measured after it
        // Runs of before the first one say nothing of the second, however many.
        for (const char* day : {"2025-09-01", "2025-10-01", "2025-11-01"})
            append(runs, threeOn(day, 100));
        QVERIFY(statementsOf(h, runs, Rule::median)[1].fate != Fate::held);
        // Slower after it is no confirmation.
        RouteRuns worse = threeOn("2025-12-01", 100);
        append(worse, threeOn("2026-02-01", 50));
        QVERIFY(statementsOf(h, worse, Rule::median)[0].fate == Fate::refuted);
    }
    void aPlanHeldWhereItsNeedsAreMet() {
        house::House h = testing::wiredHouse();
        h.routes.front().needForward = BitRate::megabits(150);
        h.changes = {{"c1", "2026-01-01T00:00:00Z", std::string(planThing), "the plan was fitted", 0.95, ""}};
        QVERIFY(statementsOf(h, threeOn("2025-12-01", 200), Rule::median)[0].fate == Fate::open);
        QVERIFY(statementsOf(h, threeOn("2026-02-01", 200), Rule::median)[0].fate == Fate::held);
        h.routes.front().needForward =
            summarise({threeOn("2026-02-01", 200)[0].run, threeOn("2026-02-01", 200)[1].run,
                       threeOn("2026-02-01", 200)[2].run},
                      Direction::forward, Rule::median)
                ->goodput;
        QVERIFY(statementsOf(h, threeOn("2026-02-01", 200), Rule::median)[0].fate ==
                Fate::held); // met exactly
        h.routes.front().needForward = BitRate::megabits(150);
        const auto refuted = statementsOf(h, threeOn("2026-02-01", 100), Rule::median)[0];
        QVERIFY(refuted.fate == Fate::refuted && refuted.isPlan);
        QVERIFY2(refuted.sentence.find("forward carries 1") != std::string::npos, refuted.sentence.c_str());
    }
    // Wilson's interval of 9 of 10 is 0.596 to 0.982 (1927, by hand: (0.9 + 0.192 ± 1.96 √(0.009 + 0.0096)) /
    // 1.384).
    void calibrationIsCounted() {
        std::vector<Statement> statements;
        for (int i = 0; i < 10; ++i) {
            Statement s;
            s.said = 0.92;
            s.fate = i == 0 ? Fate::refuted : Fate::held;
            statements.push_back(s);
        }
        Statement open;
        open.said = 0.92;
        statements.push_back(open);
        Statement sure;
        sure.said = 1;
        sure.fate = Fate::held;
        statements.push_back(sure);
        Statement low;
        low.said = 0.3;
        low.fate = Fate::refuted;
        statements.push_back(low);
        const auto spans = calibrationOf(statements);
        QCOMPARE(spans.size(), std::size_t(2));
        QCOMPARE(spans[0].from, 0.3);
        QCOMPARE(spans[0].count, 1);
        QCOMPARE(spans[0].held, 0);
        QCOMPARE(spans[1].count, 11);
        QCOMPARE(spans[1].held, 10);
        statements.erase(statements.end() - 2, statements.end());
        const auto ten = calibrationOf(statements);
        QCOMPARE(ten[0].count, 10);
        QVERIFY2(std::fabs(ten[0].low - 0.596) < 0.001 && std::fabs(ten[0].high - 0.982) < 0.001,
                 qPrintable(QString("%1 %2").arg(ten[0].low).arg(ten[0].high)));
        QVERIFY(sentenceOf(ten).starts_with("of 10 statements made with 92 % in the mean, 9 held (90 %)"));
        QCOMPARE(sentenceOf(std::vector<Calibration>{}),
                 std::string("no statement was confirmed or refuted yet"));
    }
};

QTEST_GUILESS_MAIN(TestRevisit)
#include "test_revisit.moc"
