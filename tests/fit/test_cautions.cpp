// Cautions appear where the work meets them, and only there.
#include "fit/cautions.h"
#include "support/houses.h"
#include "support/plant.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

bool says(const House& h, const Id& where, const std::string& word) {
    for (const fit::Caution& c : fit::cautionsAt(h, where))
        if ((c.what + c.why).find(word) != std::string::npos) return true;
    return false;
}

} // namespace

class TestCautions : public QObject {
    Q_OBJECT

  private slots:
    void everyCautionSaysWhy() {
        House h = mainsHouse();
        h.rooms.push_back({"cellar", "Cellar", -1});
        for (const fit::Caution& c : fit::cautionsOf(h)) {
            QVERIFY(!c.why.empty());
            QCOMPARE(c.what.back(), '.');
        }
    }
    void theyStandWhereTheyBelong() {
        House h = wiredHouse();
        QVERIFY(fit::cautionsOf(h).empty()); // nothing here calls for one
        h.rooms.push_back({"barn", "Barn", 0, "Barn"});
        h.device("shelf")->room = "barn";
        QVERIFY(says(h, "run-2", "fibre"));
        QVERIFY(!says(h, "run-1", "fibre"));
        h = mainsHouse();
        QVERIFY(says(h, "main", "electrician"));
        QVERIFY(says(h, "loft", "joists"));
        QVERIFY(!says(h, "hall", "joists"));
        QVERIFY(says(h, "loft", "ladder") && !says(h, "hall", "ladder"));
        h.circuits[0].wiring = "aluminium";
        QVERIFY(says(h, "c0", "electrician"));
        QVERIFY(!says(h, "c1", "electrician"));
        h = coaxTreeHouse(true, true);
        QVERIFY(says(h, "entry", "earth"));
        QVERIFY(!says(h, "s1", "direct current"));
        h.coaxUse.satellite = true;
        QVERIFY(says(h, "s1", "direct current"));
        QVERIFY(says(h, "entry", "operator"));
        QVERIFY(!says(h, "s1", "operator"));
        h.weighing.plan = {{"desk", "new-own"}, {"screen", "coax"}};
        QVERIFY(says(h, "desk", "landlord") && says(h, "desk", "pipes"));
        QVERIFY(!says(h, "screen", "landlord"));
        h = coaxHouse();
        QVERIFY(says(h, "coax-a", "private"));
        h.devices[0].ports[0].phy = "10gbase-t";
        QVERIFY(says(h, "desk", "hot"));
        h.devices[0].ports.push_back({"slot", "slot", PortKind::pcie, ""});
        QVERIFY(says(h, "desk", "unplug"));
        Port line{"line", "line", PortKind::mains, ""};
        line.strip = Strip::surge_protected;
        h.devices[0].ports.push_back(line);
        const auto ofStrip = [&](Strip strip, house::StripUse use) {
            h.devices[0].ports.back().strip = strip;
            h.practices.strips = use;
            return std::pair(says(h, "desk", "straight into the wall"),
                             says(h, "desk", "at the wall as well"));
        };
        using enum house::StripUse;
        QCOMPARE(ofStrip(Strip::surge_protected, wall_only), std::pair(true, false));
        QCOMPARE(ofStrip(Strip::surge_protected, plain_strip), std::pair(true, false));
        QCOMPARE(ofStrip(Strip::plain, wall_only), std::pair(true, false));
        QCOMPARE(ofStrip(Strip::plain, plain_strip), std::pair(false, true));
        QCOMPARE(ofStrip(Strip::wall, plain_strip), std::pair(false, false));
    }
};

QTEST_GUILESS_MAIN(TestCautions)
#include "test_cautions.moc"
