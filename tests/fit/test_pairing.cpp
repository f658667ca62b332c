// The order of pairing, what is recorded of it, and what an adapter's page says.
#include "fit/adapter_reading.h"
#include "fit/pairing.h"
#include "support/classes.h"
#include "support/mains_rooms.h"
#include "trace/diagnose.h"

#include <QTest>

using namespace metrodos;
using house::Medium;
using testing::classes;

namespace {

void addThird(house::House& h, bool isPlanned) {
    house::Device third = *h.device("mains-b");
    third.id = "mains-c";
    third.label = "Attic adapter";
    third.ports[1].jack = "o0-6";
    h.devices.push_back(third);
    h.connection("mains")->ends.push_back({"mains-c", "plug"});
    if (isPlanned) h.fitting.planned.push_back("mains-c");
}

} // namespace

class TestPairing : public QObject {
    Q_OBJECT

  private slots:
    void theFirstTwoAndEachFurtherOne() {
        house::House h = testing::mainsRooms();
        addThird(h, true);
        const auto turns = fit::pairingOf(h, Medium::mains);
        QCOMPARE(turns.size(), std::size_t(2));
        QCOMPARE(turns[0].does,
                 std::string("Press pair on “Hall adapter”, then on “Loft adapter” within two minutes"));
        QCOMPARE(turns[1].does,
                 std::string("Press pair on “Hall adapter”, which is a member, then on “Attic adapter” "
                             "within two minutes"));
        QVERIFY(fit::pairingOf(h, Medium::coax).empty());
        QVERIFY(fit::pairingOf(h, Medium::data_cable).empty());
    }
    void aNewOneJoinsAMemberThatWasThere() {
        house::House h = testing::mainsRooms();
        h.fitting.planned.clear();
        QVERIFY(fit::pairingOf(h, Medium::mains).empty()); // nothing new
        addThird(h, true);
        const auto turns = fit::pairingOf(h, Medium::mains);
        QCOMPARE(turns.size(), std::size_t(1));
        QCOMPARE(turns[0].first, house::Id("mains-a"));
        QCOMPARE(turns[0].second, house::Id("mains-c"));
        QVERIFY(turns[0].does.find("which is a member") != std::string::npos);
    }
    void radioIsJoinedByItsKey() {
        house::House h = testing::mainsRooms();
        h.connection("mains")->medium = Medium::air;
        QVERIFY(fit::pairingOf(h, Medium::air).empty());
    }
    void whatIsDoneIsRecorded() {
        const house::House h = testing::mainsRooms();
        const auto turn = fit::pairingOf(h, Medium::mains).front();
        QVERIFY(!turn.isDone);
        const house::House paired = fit::withPaired(h, turn, "2026-05-04T10:00:00Z");
        QVERIFY(fit::pairingOf(paired, Medium::mains).front().isDone);
        QCOMPARE(paired.device("mains-a")->setUp.pairedAt, std::string("2026-05-04T10:00:00Z"));
        // Who was a member stays one since then, and what has gone meanwhile changes nothing.
        QCOMPARE(fit::withPaired(paired, turn, "2026-06-01T10:00:00Z").device("mains-a")->setUp.pairedAt,
                 std::string("2026-05-04T10:00:00Z"));
        QVERIFY(fit::withPaired(h, {"gone", "gone too", "", false}, "2026-06-01T10:00:00Z") == h);
        // Paired is not proven.
        QVERIFY(!paired.device("mains-a")->setUp.isPrivate);
        const house::House proven = fit::withPrivacy(paired, Medium::mains, true, "2026-05-04T10:05:00Z");
        for (const char* id : {"mains-a", "mains-b"}) {
            QVERIFY(proven.device(id)->setUp.isPrivate == true);
            QCOMPARE(proven.device(id)->setUp.at, std::string("2026-05-04T10:05:00Z"));
        }
        QVERIFY(fit::withPrivacy(proven, Medium::mains, false, "x").device("mains-b")->setUp.isPrivate ==
                false);
        QVERIFY(fit::keyPlaceOf(proven, Medium::mains).empty());
        const house::House kept = fit::withKeyPlace(proven, Medium::mains, "envelope in the hall");
        QCOMPARE(fit::keyPlaceOf(kept, Medium::mains), std::string("envelope in the hall"));
        QVERIFY(fit::keyPlaceOf(kept, Medium::coax).empty());
    }
    void aPageIsTakenOver() {
        house::House h = testing::mainsRooms();
        h.device("mains-b")->setUp.name = "loft-unit";
        h.device("mains-b")->setUp.keyPlace = "envelope";
        house::AdapterStatus status;
        status.firmware = "2.1";
        status.powerSaving = true;
        status.isPrivate = false;
        status.peers = {{"Hall adapter", quantity::BitRate::megabits(400), quantity::BitRate::megabits(300)},
                        {"stranger", quantity::BitRate::megabits(10), {}}};
        std::vector<std::string> unknown;
        house::House next = fit::withStatus(h, "mains-b", status, "2026-05-04T10:00:00Z", unknown);
        const house::AdapterRecord& record = next.device("mains-b")->setUp;
        QCOMPARE(record.firmware, std::string("2.1"));
        QCOMPARE(record.name, std::string("loft-unit")); // the page did not say
        QCOMPARE(record.keyPlace, std::string("envelope"));
        QVERIFY(record.powerSaving == true && record.isPrivate == false && !record.lightsOff);
        QCOMPARE(unknown, std::vector<std::string>{"stranger"});
        const auto rates = fit::ratesOf(next, "mains-b");
        QCOMPARE(rates.size(), std::size_t(1));
        QCOMPARE(rates[0].other, house::Id("mains-a"));
        QCOMPARE(rates[0].to->inMegabits(), 400.0);
        QCOMPARE(rates[0].from->inMegabits(), 300.0);
        QCOMPARE(rates[0].at, std::string("2026-05-04T10:00:00Z"));
        // Seen from the other one the ways change places.
        QCOMPARE(fit::ratesOf(next, "mains-a")[0].to->inMegabits(), 300.0);
        // A later reading takes the place of the earlier.
        status.peers = {{"Hall adapter", quantity::BitRate::megabits(100), {}}};
        unknown.clear();
        next = fit::withStatus(next, "mains-b", status, "2026-05-05T10:00:00Z", unknown);
        QCOMPARE(next.connection("mains")->phyRates.size(), std::size_t(2));
        QCOMPARE(fit::ratesOf(next, "mains-b")[0].to->inMegabits(), 100.0);
        QCOMPARE(fit::ratesOf(next, "mains-b")[0].at, std::string("2026-05-05T10:00:00Z"));
        // The name that was recorded speaks before the label.
        status.peers = {{"loft-unit", quantity::BitRate::megabits(77), {}}};
        next = fit::withStatus(next, "mains-a", status, "2026-05-06T10:00:00Z", unknown);
        QCOMPARE(fit::ratesOf(next, "mains-a")[0].to->inMegabits(), 77.0);
        QVERIFY(fit::withStatus(h, "nothing", status, "x", unknown) == h);
        // Only on a medium that the adapter is on, whoever is called so elsewhere; and never on a cable.
        house::Connection other = *h.connection("mains");
        other.id = "other-mains";
        other.ends = {{"mains-a", "plug"}, {"mains-a", "lan"}};
        h.connections.push_back(other);
        status.peers = {{"Hall adapter", quantity::BitRate::megabits(50), {}},
                        {"Desk computer", quantity::BitRate::megabits(60), {}}};
        unknown.clear();
        next = fit::withStatus(h, "mains-b", status, "2026-05-07T10:00:00Z", unknown);
        QVERIFY(next.connection("other-mains")->phyRates.empty());
        QVERIFY(next.connection("lead-b")->phyRates.empty() && next.connection("lead-a")->phyRates.empty());
        QCOMPARE(next.connection("mains")->phyRates.size(), std::size_t(1));
        QCOMPARE(unknown, std::vector<std::string>{"Desk computer"});
    }
    // 0.35 to 0.55 of what is shown, mains; a coax modem leaves more.
    void aShownRateStandsForLess() {
        const auto mains =
            fit::impliedGoodput(classes(), Medium::mains, quantity::BitRate::megabits(400)).value();
        QCOMPARE(std::lround(mains.p10.inMegabits()), 140L);
        QCOMPARE(std::lround(mains.p90.inMegabits()), 220L);
        QVERIFY(!fit::impliedGoodput(classes(), Medium::bus, quantity::BitRate::megabits(400)));
    }
    // What the page shows is evidence: a slow modem is the limit, and the verdict says so.
    void aReadingFeedsTheVerdict() {
        house::House h = testing::mainsRooms();
        const auto expected = [&](const house::House& of) {
            return trace::diagnoseRoute(of, classes(), of.routes.front(), {}).value().carried.inMegabits();
        };
        const double before = expected(h);
        house::AdapterStatus status;
        status.peers = {{"Hall adapter", quantity::BitRate::megabits(40), quantity::BitRate::megabits(40)}};
        std::vector<std::string> unknown;
        const house::House read = fit::withStatus(h, "mains-b", status, "2026-05-04T10:00:00Z", unknown);
        const double after = expected(read);
        QVERIFY2(after < 0.5 * before && after > 8 && after < 30,
                 (std::to_string(before) + " " + std::to_string(after)).c_str());
    }
};

QTEST_APPLESS_MAIN(TestPairing)
#include "test_pairing.moc"
