// What was exchanged between two states of a house is noted with its time.
#include "house/dated_changes.h"
#include "house/remove.h"
#include "house/validate.h"
#include "support/houses.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::house;
using metrodos::quantity::BitRate;

namespace {

House withService() {
    House h = testing::wiredHouse();
    h.service = Service{"service", "Operator's box", "switch", BitRate::megabits(250), BitRate::megabits(50)};
    return h;
}

constexpr const char* at = "2026-06-01T10:00:00Z";

} // namespace

class TestChanges : public QObject {
    Q_OBJECT

  private slots:
    void anExchangeIsNoted() {
        const House before = withService();
        House after = before;
        after.service->down = BitRate::megabits(900);
        after.device("switch")->deviceClass = "switch-10g";
        const House noted = withChangesNoted(before, after, at);
        QCOMPARE(noted.changes.size(), std::size_t(2));
        QCOMPARE(noted.changes[0].text,
                 std::string("the download of “Operator's box” changed from 250 Mbit/s to 900 Mbit/s"));
        QCOMPARE(noted.changes[0].thing, std::string("service"));
        QCOMPARE(noted.changes[0].at, std::string(at));
        QCOMPARE(noted.changes[1].text, std::string("“Switch” changed from switch-1g to switch-10g"));
        QVERIFY(noted.changes[0].id != noted.changes[1].id);
        QVERIFY(isId(noted.changes[0].id));
        QVERIFY(validate(noted).empty());
        // Who has noted it already is not told again.
        QCOMPARE(withChangesNoted(before, noted, "2026-06-01T10:00:05Z").changes.size(), std::size_t(2));
        // The same things once more are other exchanges.
        House third = noted;
        third.service->down = BitRate::megabits(250);
        QCOMPARE(withChangesNoted(noted, third, "2026-07-01T10:00:00Z").changes.size(), std::size_t(3));
    }
    void whatBecomesKnownIsNoExchange() {
        House before = withService();
        before.device("switch")->deviceClass.clear();
        before.service->up.reset();
        const House after = withService();
        QVERIFY(withChangesNoted(before, after, at).changes.empty());
        QVERIFY(withChangesNoted(after, before, at).changes.empty());
        QVERIFY(withChangesNoted(after, after, at).changes.empty());
    }
    void cablesAreExchangedToo() {
        House before = withService();
        before.connections.front().cableClass = "cat5e";
        House after = before;
        after.connections.front().cableClass = "cat6a";
        const auto changes = withChangesNoted(before, after, at).changes;
        QCOMPARE(changes.size(), std::size_t(1));
        QCOMPARE(changes.front().thing, before.connections.front().id);
        QVERIFY(changes.front().text.ends_with("changed from cat5e to cat6a"));
    }
    void theNewestAreKept() {
        House h = withService();
        for (std::size_t i = 0; i < maxChanges + 20; ++i) {
            House next = h;
            next.service->down = BitRate::megabits(100 + static_cast<double>(i % 2) * 50);
            h = withChangesNoted(h, next, at);
        }
        QCOMPARE(h.changes.size(), maxChanges);
        QVERIFY(validate(h).empty());
    }
    void betweenTwoMoments() {
        House h = withService();
        h.changes = {{"b", "2026-03-01T00:00:00Z", "switch", "b"},
                     {"a", "2026-02-01T00:00:00Z", "switch", "a"},
                     {"c", "2026-04-01T00:00:00Z", "switch", "c"}};
        const auto found = changesBetween(h, "2026-02-01T00:00:00Z", "2026-03-01T00:00:00Z");
        QCOMPARE(found.size(), std::size_t(1)); // after the first, and the last itself
        QCOMPARE(found.front().id, std::string("b"));
        QCOMPARE(changesBetween(h, "", "9").size(), std::size_t(3));
        QCOMPARE(changesBetween(h, "", "9").front().id, std::string("a"));
    }
    void aScheduleBelongsToItsRoute() {
        House h = withService();
        const Id route = h.routes.front().id;
        Schedule s{"schedule", "Hourly", route, at};
        h.schedules = {s};
        QVERIFY(validate(h).empty());
        QCOMPARE(h.freeId("schedule"), std::string("schedule-2"));
        QVERIFY(h.schedule("schedule") != nullptr && h.schedule("other") == nullptr);
        // It goes with its route, and by itself.
        QVERIFY(without(h, route).value().schedules.empty());
        QVERIFY(without(h, "schedule").value().schedules.empty());
        h.schedules.front().route = "nowhere";
        QVERIFY(!validate(h).empty());
        h.schedules.front() = s;
        for (const auto& spoil : std::initializer_list<void (*)(Schedule&)>{
                 [](Schedule& x) { x.everyMinutes = 0; }, [](Schedule& x) { x.hours = 745; },
                 [](Schedule& x) { x.seconds = 61; }, [](Schedule& x) { x.streams = 33; },
                 [](Schedule& x) { x.everyMinutes = 1, x.seconds = 30; }}) { // it would never rest
            House bad = h;
            spoil(bad.schedules.front());
            QVERIFY(!validate(bad).empty());
        }
    }
};

QTEST_GUILESS_MAIN(TestChanges)
#include "test_changes.moc"
