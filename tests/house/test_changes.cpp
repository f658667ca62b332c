// What was exchanged between two states of a house is noted with its time.
#include "house/dated_changes.h"
#include "house/edit.h"
#include "house/remove.h"
#include "house/validate.h"
#include "support/houses.h"
#include "support/mains_rooms.h"

#include <QTest>
#include <functional>

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
    // Whether a plug sits in a strip is noted of its outlet, and not known of another one.
    void aPlugThatMovesForgetsItsStrip() {
        house::House h = testing::mainsRooms();
        h.device("mains-b")->ports[1].strip = house::Strip::plain;
        const std::string now = h.device("mains-b")->ports[1].jack;
        QVERIFY(house::pluggedAt(h, "mains", now).value() == h);
        int moved = 0;
        for (const house::Jack& jack : h.jacks) {
            if (jack.id == now || jack.room != h.jack(now)->room) continue;
            const house::House there = house::pluggedAt(h, "mains", jack.id).value();
            QCOMPARE(there.device("mains-b")->ports[1].jack, jack.id);
            QCOMPARE(there.device("mains-b")->ports[1].strip, house::Strip::unknown);
            ++moved;
        }
        QVERIFY(moved > 0);
    }
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
    // A port that is another one now, another outlet, another socket.
    void portsPlacesAndSocketsAreExchangedToo() {
        House before = testing::coaxHouse();
        before.jacks = {{"o-1", "outlet 1", "study", JackKind::mains},
                        {"o-2", "outlet 2", "study", JackKind::mains}};
        before.device("coax-a")->ports.push_back({"power", "mains", PortKind::mains, "", "o-1"});
        before.device("shelf")->ports.push_back({"usb-2", "USB 2", PortKind::usb, "usb3-10g"});
        const auto noted = [&](const std::function<void(House&)>& change) {
            House after = before;
            change(after);
            const auto changes = withChangesNoted(before, after, at).changes;
            return changes.size() == 1 ? changes.front().thing + ": " + changes.front().text
                                       : std::to_string(changes.size());
        };
        QCOMPARE(noted([](House& h) {
                     h.port({"desk", "lan"})->phy = "100base-tx";
                 }),
                 std::string("desk: “Desk computer, LAN” changed from 2.5gbase-t to 100base-tx"));
        QCOMPARE(
            noted([](House& h) {
                h.port({"coax-a", "power"})->jack = "o-2";
            }),
            std::string("coax-a: the place of “Coax adapter, mains” changed from “outlet 1” to “outlet 2”"));
        QCOMPARE(noted([](House& h) {
                     h.connection("socket")->ends[1] = {"shelf", "usb-2"};
                 }),
                 std::string("socket: the socket of “USB socket” changed from Shelf computer, USB to Shelf "
                             "computer, USB 2"));
        QCOMPARE(noted([](House& h) { h.port({"desk", "lan"})->phy.clear(); }), std::string("0"));
        QCOMPARE(noted([](House& h) { h.port({"coax-a", "power"})->jack.clear(); }), std::string("0"));
        // A box of another class is one exchange, whatever ports it brings.
        QCOMPARE(noted([](House& h) {
                     h.device("switch")->deviceClass = "switch-10g";
                     for (Port& p : h.device("switch")->ports)
                         p.phy = "10gbase-t";
                 }),
                 std::string("switch: “Switch” changed from switch-2.5g to switch-10g"));
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
        // The ends of what is allowed.
        for (const auto& most : std::initializer_list<void (*)(Schedule&)>{
                 [](Schedule& x) { x.everyMinutes = 1, x.seconds = 1, x.hours = 1, x.streams = 1; },
                 [](Schedule& x) { x.everyMinutes = 1440, x.seconds = 60, x.hours = 744, x.streams = 32; },
                 [](Schedule& x) { x.everyMinutes = 1, x.seconds = 6.5; }}) { // 2 × 7.5 s of 60
            House good = h;
            most(good.schedules.front());
            QVERIFY(validate(good).empty());
        }
        h.schedules.front().everyMinutes = 1;
        h.schedules.front().seconds = 6.6;
        QVERIFY(!validate(h).empty());
    }
};

QTEST_GUILESS_MAIN(TestChanges)
#include "test_changes.moc"
