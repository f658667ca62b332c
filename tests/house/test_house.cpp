#include "house/edit.h"
#include "house/validate.h"
#include "support/houses.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

std::string kinds(const House& house, const Route& route) {
    std::string text;
    const std::vector<Element> elements = findRoute(house, route.from, route.to).value();
    for (const Element& e : elements)
        text += std::string(name(e.kind)) + " ";
    return text;
}

bool complains(const House& house, const std::string& word) {
    for (const auto& fault : validate(house))
        if (fault.sentence().find(word) != std::string::npos) return true;
    return false;
}

} // namespace

class TestHouse : public QObject {
    Q_OBJECT

  private slots:
    void aNewBoxHasAPortThatItsMediumJoins() {
        for (const Medium medium :
             {Medium::data_cable, Medium::coax, Medium::mains, Medium::air, Medium::bus, Medium::phone})
            QVERIFY2(joins(medium, portFor(medium)), std::string(name(medium)).c_str());
    }
    void findsTheRouteInTheGraph() {
        const House h = coaxHouse();
        QCOMPARE(
            kinds(h, h.routes[0]),
            std::string("host port cable port switch port cable port adapter coax adapter port cable port "
                        "adapter bus host "));
        auto back = findRoute(h, "shelf-end", "desk-end").value();
        auto forth = findRoute(h, "desk-end", "shelf-end").value();
        std::reverse(back.begin(), back.end());
        QCOMPARE(back.size(), forth.size());
        for (std::size_t i = 0; i < back.size(); ++i)
            QCOMPARE(back[i].id, forth[i].id);
    }
    void choosesTheShorterWayAndDoesNotPassThroughHosts() {
        House h = wiredHouse();
        // A third machine with two ports, cabled to both ends, must not become a way through.
        h.devices.push_back({"relay",
                             "Relay",
                             DeviceKind::host,
                             "",
                             "",
                             {{"a", "a", PortKind::ethernet, ""}, {"b", "b", PortKind::ethernet, ""}}});
        h.devices[0].ports.push_back({"lan2", "LAN 2", PortKind::ethernet, ""});
        h.devices[2].ports.push_back({"lan2", "LAN 2", PortKind::ethernet, ""});
        Connection c = h.connections[0];
        c.id = "r1";
        c.ends = {{"desk", "lan2"}, {"relay", "a"}};
        Connection d = c;
        d.id = "r2";
        d.ends = {{"relay", "b"}, {"shelf", "lan2"}};
        h.connections.insert(h.connections.begin(), {c, d});
        QVERIFY(validate(h).empty());
        QCOMPARE(findRoute(h, "desk-end", "shelf-end").value()[4].id, std::string("switch"));
        // A direct cable is shorter than the way over the switch.
        d.ends = {{"desk", "lan2"}, {"shelf", "lan2"}};
        h.connections = {h.connections[2], h.connections[3], d};
        QCOMPARE(findRoute(h, "desk-end", "shelf-end").value().size(), std::size_t(5));
    }
    void saysWhenNothingJoinsTheEnds() {
        House h = wiredHouse();
        h.connections.pop_back();
        const auto route = findRoute(h, "desk-end", "shelf-end");
        QVERIFY(!route);
        QVERIFY(route.error().sentence().find("nothing joins Desk to Shelf") != std::string::npos);
        QVERIFY(!findRoute(h, "desk-end", "nowhere"));
    }
    void acceptsSoundHouses() {
        QVERIFY(validate(wiredHouse()).empty());
        QVERIFY(validate(coaxHouse()).empty());
    }
    void findsEveryFault() {
        House h = coaxHouse();
        h.connection("socket")->ends.pop_back();
        QVERIFY(complains(h, "fewer than two ends"));
        h = wiredHouse();
        h.connections[0].ends.pop_back(); // a run of which one end is known: a finding, not a fault
        QVERIFY(validate(h).empty());
        h = wiredHouse();
        h.connections[1].ends[0] = {"switch", "p1"};
        QVERIFY(complains(h, "already joined by run-1"));
        h = wiredHouse();
        h.connections[1].ends[0].port = "p9";
        QVERIFY(complains(h, "no such port"));
        h = wiredHouse();
        h.devices[1].id = "desk";
        QVERIFY(complains(h, "same id"));
        h = wiredHouse();
        h.devices[1].id = "Bad Id";
        QVERIFY(complains(h, "a-z"));
        h = wiredHouse();
        h.devices[0].room = "attic";
        QVERIFY(complains(h, "does not exist"));
        h = wiredHouse();
        h.connections[0].length = quantity::Length::metres(5000);
        QVERIFY(complains(h, "0 to 1000 m"));
        h = wiredHouse();
        h.connections[0].goodPairs = 7;
        QVERIFY(complains(h, "good pairs"));
        h = wiredHouse();
        h.endpoints[0].device = "switch";
        QVERIFY(complains(h, "not a host"));
        h = wiredHouse();
        h.routes[0].to = "desk-end";
        QVERIFY(complains(h, "same machine"));
        h = wiredHouse();
        h.routes[0].mtu = 60000;
        QVERIFY(complains(h, "MTU"));
        h = wiredHouse();
        h.connections[0].medium = Medium::coax;
        QVERIFY(complains(h, "does not fit"));
    }
    // The bound itself is allowed, and nothing beyond it.
    void boundsAreAllowedThemselves() {
        struct Case {
            const char* words;
            int low;
            int high;
            std::function<void(House&, int)> set;
        };
        const std::vector<Case> cases{
            {"good pairs must be", 0, 4, [](House& h, int n) { h.connections[0].goodPairs = n; }},
            {"walls must be", 0, 20, [](House& h, int n) { h.connections[0].walls = n; }},
            {"stations must be", 1, 256, [](House& h, int n) { h.connections[0].stations = n; }},
            {"bad connectors", 0, 2, [](House& h, int n) { h.connections[0].badConnectors = n; }},
            {"length must be", 0, 1000,
             [](House& h, int n) { h.connections[0].length = quantity::Length::metres(n); }},
            {"floor must be", -10, 100, [](House& h, int n) { h.rooms.at(0).floor = n; }},
            {"splitter has from", 2, 8,
             [](House& h, int n) {
                 h.coaxParts.push_back({});
                 h.coaxParts.back().kind = CoaxPartKind::splitter;
                 h.coaxParts.back().ways = n;
             }},
            {"from 1 to 64 disks", 1, 64,
             [](House& h, int n) {
                 h.devices[0].storage = Storage();
                 h.devices[0].storage->disks = n;
             }},
            {"times at once", 1, 999,
             [](House& h, int n) {
                 h.spots.push_back({});
                 h.spots.back().uses.push_back({});
                 h.spots.back().uses.back().count = n;
             }},
            {"hours go from", 0, 24,
             [](House& h, int n) {
                 h.appliances.push_back({});
                 h.appliances.back().hours.push_back({});
                 h.appliances.back().hours.back().to = n;
             }},
        };
        for (const Case& c : cases)
            for (const int n : {c.low - 1, c.low, c.high, c.high + 1}) {
                House h = wiredHouse();
                c.set(h, n);
                const bool isOutside = n < c.low || n > c.high;
                QVERIFY2(complains(h, c.words) == isOutside,
                         qPrintable(QString("%1 %2").arg(c.words).arg(n)));
            }
    }
    void aLabelHasAtMostTwoHundredBytes() {
        House h = wiredHouse();
        h.devices[0].label = std::string(200, 'x');
        QVERIFY(!complains(h, "label is too long"));
        h.devices[0].label += 'x';
        QVERIFY(complains(h, "label is too long"));
    }
    void seesTheRouteAsBoxesAndCables() {
        const House h = coaxHouse();
        const Chain chain = chainOf(findRoute(h, "desk-end", "shelf-end").value());
        QCOMPARE(chain.units.size(), std::size_t(4));
        std::vector<Id> links;
        for (const Link& link : chain.links)
            links.push_back(link.connection);
        QCOMPARE(links, (std::vector<Id>{"run-1", "run-2", "run-3"}));
        QCOMPARE(chain.units[2].devices, (std::vector<Id>{"coax-a", "coax-b"}));
        QCOMPARE(chain.units[3].devices, (std::vector<Id>{"nic", "shelf"}));
        QCOMPARE(chain.unitOf("coax"), std::size_t(2));
    }
    void putsASwitchIntoACable() {
        const House h = wiredHouse();
        const NewUnit unit{"Switch", "switch-1g", "1000base-t", DeviceKind::network_switch, {}, "cat6"};
        const auto changed = insertUnit(h, h.routes[0], "run-1", unit);
        QVERIFY(changed.has_value());
        QVERIFY(validate(*changed).empty());
        QCOMPARE(kinds(*changed, h.routes[0]),
                 std::string("host port cable port switch port cable port switch port cable port host "));
        QVERIFY(!insertUnit(h, h.routes[0], "switch", unit));
    }
    void putsInAPairAndTakesItOutAgain() {
        const House h = wiredHouse();
        const NewUnit pair{"Mains pair",        "mains-1200",  "1000base-t",
                           DeviceKind::adapter, Medium::mains, "cat6"};
        const House with = insertUnit(h, h.routes[0], "run-1", pair).value();
        QVERIFY(validate(with).empty());
        QVERIFY(kinds(with, h.routes[0]).find("adapter mains adapter") != std::string::npos);
        const House without = removeUnit(with, h.routes[0], with.devices.back().id).value();
        QCOMPARE(without, h);
    }
    void movesABoxPastItsNeighbour() {
        const House h = coaxHouse();
        const House moved = moveUnit(h, h.routes[0], "switch", +1).value();
        QVERIFY(validate(moved).empty());
        QCOMPARE(
            kinds(moved, h.routes[0]),
            std::string("host port cable port adapter coax adapter port cable port switch port cable port "
                        "adapter bus host "));
        QCOMPARE(moveUnit(moved, h.routes[0], "switch", -1).value(), h);
    }
    void refusesEditsThatMakeNoSense() {
        House h = wiredHouse();
        QVERIFY(!removeUnit(h, h.routes[0], "desk"));
        QVERIFY(!removeUnit(h, h.routes[0], "run-1"));
        QVERIFY(!moveUnit(h, h.routes[0], "switch", +1));
        h.devices[1].ports.push_back({"p3", "3", PortKind::ethernet, ""});
        h.devices.push_back(
            {"printer", "Printer", DeviceKind::host, "", "", {{"lan", "", PortKind::ethernet, ""}}});
        Connection c = h.connections[0];
        c.id = "run-9";
        c.label = "printer lead";
        c.ends = {{"switch", "p3"}, {"printer", "lan"}};
        h.connections.push_back(c);
        const auto refused = removeUnit(h, h.routes[0], "switch");
        QVERIFY(!refused);
        QVERIFY(refused.error().sentence().find("printer lead") != std::string::npos);
    }
    void freeIdsAreFree() {
        const House h = wiredHouse();
        QCOMPARE(h.freeId("lamp"), std::string("lamp"));
        QCOMPARE(h.freeId("switch"), std::string("switch-2"));
    }
};

QTEST_GUILESS_MAIN(TestHouse)
#include "test_house.moc"
