// The survey: what it lacks, what is found with a tester, what goes when a thing goes.
#include "house/edit.h"
#include "house/findings.h"
#include "house/remove.h"
#include "house/validate.h"
#include "support/houses.h"
#include "support/plant.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

bool finds(const House& house, const std::string& word) {
    for (const auto& finding : findings(house))
        if (finding.sentence().find(word) != std::string::npos) return true;
    return false;
}

bool complains(const House& house, const std::string& word) {
    for (const auto& fault : validate(house))
        if (fault.sentence().find(word) != std::string::npos) return true;
    return false;
}

// Two machines plugged into jacks of one run.
House jacked() {
    House h = wiredHouse();
    h.jacks = {{"j1", "Study data 1", "study", JackKind::data},
               {"j2", "Study data 2", "study", JackKind::data}};
    h.connections = {h.connections[0]};
    h.connections[0].ends = {{"j1", ""}, {"j2", ""}};
    h.device("desk")->ports[0].jack = "j1";
    h.device("shelf")->ports[0].jack = "j2";
    return h;
}

} // namespace

class TestSurvey : public QObject {
    Q_OBJECT

  private slots:
    void soundSurveysHaveNoFindings() {
        QVERIFY(findings(wiredHouse()).empty());
        QVERIFY(findings(mainsHouse()).empty());
        QVERIFY(validate(mainsHouse()).empty());
        QVERIFY(validate(coaxTreeHouse(true, true)).empty());
        QVERIFY(findings(coaxTreeHouse(true, true)).empty());
    }
    void findsWhatIsOpen() {
        House h = coaxTreeHouse(true, true);
        h.connection("run-a")->ends.pop_back();
        QVERIFY(finds(h, "one end only"));
        QVERIFY(finds(h, "no run ends in the jack"));
        h = mainsHouse();
        h.circuits[0].outlets.pop_back();
        QVERIFY(finds(h, "on no circuit"));
        h = coaxTreeHouse(true, true);
        h.connections.push_back(coaxRun("loop", {"s3", "out-2"}, {"s2", "out-3"}, 3));
        QVERIFY(finds(h, "closes a loop"));
        h = wiredHouse();
        h.connections[0].length = quantity::Length::metres(130);
        QVERIFY(finds(h, "more than 100 m"));
        h = wiredHouse();
        h.devices[1].kind = DeviceKind::router;
        h.service = Service{"net", "service", "switch", {}, {}};
        QVERIFY(findings(h).empty());
        h.connections.pop_back();
        QVERIFY(finds(h, "nothing joins “Shelf computer” to the service"));
    }
    void faultsOfTheSurveyAreRefused() {
        House h = coaxTreeHouse(false, true);
        h.connection("run-b")->ends[0] = {"s1", "out-1"};
        QVERIFY(complains(h, "ends there"));
        h = coaxTreeHouse(false, true);
        h.connection("run-b")->ends[0] = {"s2", "out-9"};
        QVERIFY(complains(h, "no such port"));
        h = mainsHouse();
        h.circuits[1].outlets[0].jack = h.circuits[0].outlets[0].jack;
        QVERIFY(complains(h, "on a circuit already"));
        h = mainsHouse();
        h.panels[0].fedBy = "sub";
        QVERIFY(complains(h, "feeds itself"));
        h = jacked();
        h.jacks[0].kind = JackKind::coax;
        QVERIFY(complains(h, "no data jack"));
        h = jacked();
        h.jacks[0].room = "moon";
        QVERIFY(complains(h, "does not exist"));
        h = mainsHouse();
        h.appliances = {{"saw", "saw", "", "o0-0", {{8, 25}}}};
        QVERIFY(complains(h, "hours go from 0 to 24"));
    }
    void aRouteGoesThroughJacks() {
        const House h = jacked();
        const auto route = findRoute(h, "desk-end", "shelf-end").value();
        QCOMPARE(route.size(), std::size_t(5));
        QCOMPARE(route[2].entryJack, Id("j1"));
        QCOMPARE(route[2].exitJack, Id("j2"));
    }
    void aSwitchBehindAJackIsPluggedIn() {
        const House h = jacked();
        const House with =
            insertUnit(h, h.routes[0], "run-1",
                       {"Switch", "switch-1g", "1000base-t", DeviceKind::network_switch, {}, "cat5e"})
                .value();
        QVERIFY(validate(with).empty());
        const auto route = findRoute(with, "desk-end", "shelf-end").value();
        QCOMPARE(route.size(), std::size_t(9));
        QCOMPARE(route[2].exitJack, Id("j2")); // the run keeps both its jacks
        QVERIFY(with.device("shelf")->ports[0].jack.empty());
        // Taking it out again takes its lead, not the run in the wall.
        const House without = removeUnit(with, with.routes[0], "switch-1g").value();
        QVERIFY(without.connection("run-1") != nullptr);
        QCOMPARE(findRoute(without, "desk-end", "shelf-end").value().size(), std::size_t(5));
    }
    void theTesterJoinsEnds() {
        House h = coaxTreeHouse(true, true);
        QVERIFY(continuityList(h).empty());
        h.connection("run-b")->ends.pop_back(); // the jack end
        const auto list = continuityList(h);
        QCOMPARE(list.size(), std::size_t(1));
        QCOMPARE(list[0].candidates, (std::vector<Id>{"b"}));
        const House found = withEndFound(h, "run-b", {"b", ""}).value();
        QVERIFY(findings(found).empty());
        QVERIFY(!withEndFound(found, "run-b", {"a", ""}));               // both ends known
        QVERIFY(!withEndFound(h, "run-b", {"a", ""}));                   // another run ends there
        QVERIFY(withEndFound(h, "run-b", {"cupboard", ""}).has_value()); // loose in a room
        QVERIFY(withEndLost(found, "run-b", {"b", ""}).has_value());
        QVERIFY(!withEndLost(found, "run-b", {"c", ""}));
        QVERIFY(!withEndFound(h, "nothing", {"b", ""}));
    }
    void whatGoesTakesItsReferencesWithIt() {
        House h = coaxHouse();
        const House noSwitch = without(h, "switch").value();
        QVERIFY(validate(noSwitch).empty());
        QCOMPARE(noSwitch.connection("run-1")->ends.size(), std::size_t(1));
        QVERIFY(noSwitch.routes.size() == 1);
        const House noAdapter = without(h, "coax-a").value();
        QVERIFY(noAdapter.connection("coax") == nullptr); // no network of one
        const House noDesk = without(h, "desk").value();
        QVERIFY(validate(noDesk).empty());
        QVERIFY(noDesk.routes.empty() && noDesk.endpoint("desk-end") == nullptr);
        h = mainsHouse();
        const House noOutlet = without(h, "o0-3").value();
        QVERIFY(validate(noOutlet).empty());
        QCOMPARE(noOutlet.circuits[0].outlets.size(), std::size_t(7));
        QVERIFY(!without(h, "hall")); // not empty
        QVERIFY(validate(without(h, "main").value()).empty());
        QVERIFY(!without(h, "nothing"));
        h = coaxTreeHouse(true, true);
        const House noSplitter = without(h, "s2").value();
        QVERIFY(validate(noSplitter).empty());
        QVERIFY(finds(noSplitter, "one end only"));
    }
};

QTEST_GUILESS_MAIN(TestSurvey)
#include "test_survey.moc"
