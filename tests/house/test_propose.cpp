// Routes that a survey asks for: between what is joined, with the needs that are stated.
#include "house/propose.h"
#include "support/houses.h"

#include <QTest>
#include <set>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

// Desk and shelf on one switch, whose other port leads to the service's box.
House served() {
    House h = wiredHouse();
    h.routes.clear();
    h.device("switch")->ports.push_back({"p3", "3", PortKind::ethernet, "1000base-t"});
    h.devices.push_back({"box",
                         "Box",
                         DeviceKind::router,
                         "router-1g",
                         "study",
                         {{"p1", "1", PortKind::ethernet, "1000base-t"}}});
    Connection lead = h.connections[1];
    lead.id = "lead";
    lead.ends = {{"switch", "p3"}, {"box", "p1"}};
    h.connections.push_back(lead);
    h.service = Service{"net", "internet service", "box", {}, {}};
    return h;
}

Spot spotAt(const char* device, double down, double up, const char* peer) {
    Spot s;
    s.id = std::string("spot-") + device + peer;
    s.label = s.id;
    s.room = "study";
    s.device = device;
    if (down > 0) s.needDown = quantity::BitRate::megabits(down);
    if (up > 0) s.needUp = quantity::BitRate::megabits(up);
    s.peer = peer;
    return s;
}

std::vector<std::string> labels(const std::vector<Route>& routes) {
    std::vector<std::string> out;
    for (const Route& r : routes)
        out.push_back(r.label);
    return out;
}

} // namespace

class TestPropose : public QObject {
    Q_OBJECT

  private slots:
    void fromEveryMachineToTheServiceAndBetweenThem() {
        const House h = served();
        const auto routes = proposedRoutes(h);
        QCOMPARE(labels(routes),
                 (std::vector<std::string>{"Desk to the service", "Shelf to the service", "Desk to Shelf"}));
        QCOMPARE(routes[0].from, Id("desk-end"));
        QCOMPARE(routes[0].to, Id("net"));
        std::set<Id> ids;
        for (const Route& r : routes) {
            QVERIFY(ids.insert(r.id).second && isId(r.id));
            QVERIFY(!r.needForward && !r.needBackward);
        }
        House without = h;
        without.service.reset();
        QCOMPARE(labels(proposedRoutes(without)), (std::vector<std::string>{"Desk to Shelf"}));
    }
    // A label is cut between letters: half a letter could not be written into a job.
    void theLongestNamesGiveAWholeLabel() {
        House h = served();
        std::string longest = "a";
        while (longest.size() < 151)
            longest += "ü";
        h.endpoints[0].label = longest.substr(1);
        h.endpoints[1].label = longest;
        const std::string label = routeBetween(h, h.endpoints[0].id, h.endpoints[1].id).label;
        QCOMPARE(label.size(), std::size_t(199)); // 200 bytes would end in half an ü
        QCOMPARE(QString::fromStdString(label).toStdString(), label);
    }
    // Forward is towards the end: what a spot sends to the service, or gets from another machine.
    void withTheNeedsThatAreStated() {
        House h = served();
        h.spots = {spotAt("desk", 100, 20, ""), spotAt("desk", 60, 30, "service"),
                   spotAt("shelf", 400, 0, "desk"), spotAt("desk", 7, 9, "shelf"), spotAt("", 900, 900, "")};
        const auto routes = proposedRoutes(h);
        QCOMPARE(routes[0].needForward->inMegabits(), 30.0); // the larger of the two
        QCOMPARE(routes[0].needBackward->inMegabits(), 100.0);
        QVERIFY(!routes[1].needForward && !routes[1].needBackward);
        QCOMPARE(routes[2].needForward->inMegabits(), 400.0); // beside the 9 that the desk sends
        QCOMPARE(routes[2].needBackward->inMegabits(), 7.0);
        const Route back = routeBetween(h, "shelf-end", "desk-end");
        QCOMPARE(back.needForward->inMegabits(), 7.0);
        QCOMPARE(back.needBackward->inMegabits(), 400.0);
        QCOMPARE(routeBetween(h, "net", "desk-end").needForward->inMegabits(), 100.0);
    }
    void notWhatIsThereOrJoinedByNothing() {
        House h = served();
        h.routes = {routeBetween(h, "shelf-end", "desk-end")}; // the other way about
        QCOMPARE(proposedRoutes(h).size(), std::size_t(2));
        h.routes.push_back(routeBetween(h, "desk-end", "net"));
        QCOMPARE(labels(proposedRoutes(h)), (std::vector<std::string>{"Shelf to the service"}));
        h.routes.clear();
        std::erase_if(h.connections, [](const Connection& c) { return c.id == "run-2"; });
        QCOMPARE(labels(proposedRoutes(h)), (std::vector<std::string>{"Desk to the service"}));
    }
    void pairsAreAtMostADozenThoseOfNeedsFirst() {
        House h = served();
        for (int i = 0; i < 7; ++i) {
            const std::string id = "m" + std::to_string(i);
            h.device("switch")->ports.push_back({"x" + id, id, PortKind::ethernet, "1000base-t"});
            h.devices.push_back(
                {id, id, DeviceKind::host, "", "study", {{"lan", "LAN", PortKind::ethernet, ""}}});
            Connection c = h.connections[0];
            c.id = "c" + id;
            c.ends = {{"switch", "x" + id}, {id, "lan"}};
            h.connections.push_back(c);
            h.endpoints.push_back({id + "-end", id, id, ""});
        }
        h.service.reset();
        h.spots = {spotAt("m6", 10, 0, "m5")};
        const auto routes = proposedRoutes(h);
        QCOMPARE(routes.size(), maxPairs);
        QCOMPARE(routes[0].label, std::string("m5 to m6"));
        QCOMPARE(routes[0].needForward->inMegabits(), 10.0);
    }
};

QTEST_GUILESS_MAIN(TestPropose)
#include "test_propose.moc"
