// Which runs are meant by what is typed.
#include "benchmark/run_filter.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTest>

using namespace metrodos;
using benchmark::Direction;
using benchmark::RouteRun;

namespace {

RouteRun runAt(const char* id, const char* startedAt, Direction direction = Direction::forward) {
    RouteRun r{"desk-shelf", testing::steadyRun(direction, 100, 4, 0.01, id)};
    r.run.startedAt = startedAt;
    return r;
}

std::vector<RouteRun> some() {
    std::vector<RouteRun> out{runAt("a", "2026-05-04T10:00:00Z"),
                              runAt("b", "2026-05-04T19:30:00Z", Direction::backward),
                              runAt("c", "2026-05-20T23:10:00Z"), runAt("d", "2026-06-01T00:05:00Z")};
    out[1].run.conditions.othersActive = true;
    out[1].run.conditions.appliances = {"Kitchen kettle"};
    out[2].run.conditions.changed = "adapter moved to the landing";
    out[2].run.config.streams = 1;
    out[2].run.config.arrangement.altered = {{"mains", house::AlterationKind::other_outlet, "outlet-3"}};
    out[3].run.config.arrangement.setup = house::Setup::bench;
    out[3].run.step = "trial-2-5";
    out[3].run.simulated = true;
    out[3].route = "elsewhere";
    return out;
}

} // namespace

class TestRunFilter : public QObject {
    Q_OBJECT

  private slots:
    void whatIsTypedFindsItsRuns_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("found"); // ids, one letter each
        const auto row = [](const char* typed, const char* found) { QTest::newRow(typed) << typed << found; };
        row("", "abcd");
        row("route=desk-shelf", "abc");
        row("route=desk", "");
        row("direction=backward", "b");
        row("DIRECTION=forward", "acd");
        row("setup=bench", "d");
        row("setup=place", "abc");
        row("streams=1", "c");
        row("from=2026-05-20", "cd");
        row("from=2026-06", "d");
        row("until=2026-05-04", "ab");
        row("until=2026-05-04T10", "a");
        row("from=2026-05-04T12 until=2026-05-20", "bc");
        row("hours=18-22", "b");
        row("hours=22-6", "cd"); // over midnight
        row("hours=19-20", "b");
        row("others=yes", "b");
        row("others=no", ""); // nobody said that there were none
        row("simulated=yes", "d");
        row("simulated=no", "abc");
        row("appliance=kettle", "b");
        row("appliance=\"kitchen KETTLE\"", "b");
        row("place=outlet-3", "c");
        row("step=trial-2", "d");
        row("step=trial-2-5", "d");
        row("step=trial", ""); // of another trial
        row("landing", "c");
        row("Desk", "abc"); // the way's label
        row("kettle desk", "b");
        row("kettle landing", "");
        row("direction=forward hours=9-11 desk", "a");
    }
    void whatIsTypedFindsItsRuns() {
        QFETCH(QString, typed);
        const auto filter = benchmark::parseRunFilter(typed.toStdString());
        QVERIFY2(filter.has_value(), filter ? "" : filter.error().sentence().c_str());
        QString found;
        house::House h = testing::wiredHouse();
        house::TrialStep step;
        step.id = "trial-2-5";
        h.trials = {{"trial", "First", {}}, {"trial-2", "Second", {step}}};
        for (const RouteRun& r : benchmark::matching(some(), *filter, h))
            found += QString::fromStdString(r.run.id);
        QTEST(found, "found");
    }
    void theNotedHourGoesBeforeThatOfTheClockOfTheWorld() {
        RouteRun r = runAt("a", "2026-05-04T23:30:00Z");
        QCOMPARE(benchmark::hourOf(r.run).value(), 23);
        r.run.conditions.hour = 1;
        QCOMPARE(benchmark::hourOf(r.run).value(), 1);
        QVERIFY(benchmark::parseRunFilter("hours=0-2").value().matches(r, {}));
        r.run.conditions.hour.reset();
        for (const char* bad : {"", "2026-05-04", "2026-05-04Txx"}) {
            r.run.startedAt = bad;
            QVERIFY(!benchmark::hourOf(r.run));
            QVERIFY(!benchmark::parseRunFilter("hours=0-24").value().matches(r, {}));
        }
    }
    void whatCannotBeReadIsSaid() {
        for (const char* bad : {"colour=red", "direction=up", "streams=0", "streams=40", "from=May",
                                "from=2026-5", "until=2026-05-04T1", "hours=18", "hours=18-25",
                                "others=maybe", "route=", "\"open", "setup=cellar"}) {
            const auto filter = benchmark::parseRunFilter(bad);
            QVERIFY2(!filter, bad);
            QVERIFY2(!filter.error().advice.empty(), bad);
        }
        QVERIFY(!benchmark::parseRunFilter(std::string(2000, 'x')));
        std::string many;
        for (int i = 0; i < 30; ++i)
            many += "w ";
        QVERIFY(!benchmark::parseRunFilter(many));
    }
};

QTEST_APPLESS_MAIN(TestRunFilter)
#include "test_run_filter.moc"
