// The house: its graph and routes, what it lacks, what is found with a tester, what is put in and taken out.
#include "house/chain.h"
#include "house/edit.h"
#include "house/findings.h"
#include "house/remove.h"
#include "house/validate.h"
#include "support/houses.h"
#include "support/mains_rooms.h"
#include "support/plant.h"

#include <QTest>
#include <functional>

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

bool finds(const House& house, const std::string& word) {
    for (const auto& finding : findings(house))
        if (finding.sentence().find(word) != std::string::npos) return true;
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
    void findsEveryFault() {
        // A run of which one end is known is a finding, not a fault.
        House h = wiredHouse();
        h.connections[0].ends.pop_back();
        QVERIFY(validate(h).empty());
        const std::vector<std::tuple<House, const char*, std::function<void(House&)>>> cases{
            {coaxHouse(), "fewer than two ends", [](House& f) { f.connection("socket")->ends.pop_back(); }},
            {wiredHouse(), "already joined by run-1",
             [](House& f) {
                 f.connections[1].ends[0] = {"switch", "p1"};
             }},
            {wiredHouse(), "no such port", [](House& f) { f.connections[1].ends[0].port = "p9"; }},
            {wiredHouse(), "same id", [](House& f) { f.devices[1].id = "desk"; }},
            {wiredHouse(), "a-z", [](House& f) { f.devices[1].id = "Bad Id"; }},
            {wiredHouse(), "does not exist", [](House& f) { f.devices[0].room = "attic"; }},
            {wiredHouse(), "0 to 1000 m",
             [](House& f) { f.connections[0].length = quantity::Length::metres(5000); }},
            {wiredHouse(), "good pairs", [](House& f) { f.connections[0].goodPairs = 7; }},
            {wiredHouse(), "walls must be", [](House& f) { f.connections[0].walls = 21; }},
            {wiredHouse(), "stations must be", [](House& f) { f.connections[0].stations = 257; }},
            {wiredHouse(), "not a host", [](House& f) { f.endpoints[0].device = "switch"; }},
            {wiredHouse(), "same machine", [](House& f) { f.routes[0].to = "desk-end"; }},
            {wiredHouse(), "MTU", [](House& f) { f.routes[0].mtu = 60000; }},
            {wiredHouse(), "does not fit", [](House& f) { f.connections[0].medium = Medium::coax; }},
            {coaxTreeHouse(false, true), "ends there",
             [](House& f) {
                 f.connection("run-b")->ends[0] = {"s1", "out-1"};
             }},
            {coaxTreeHouse(false, true), "no such port",
             [](House& f) {
                 f.connection("run-b")->ends[0] = {"s2", "out-9"};
             }},
            {coaxTreeHouse(false, true), "splitter has from", [](House& f) { f.coaxParts.back().ways = 9; }},
            {mainsHouse(), "on a circuit already",
             [](House& f) { f.circuits[1].outlets[0].jack = f.circuits[0].outlets[0].jack; }},
            {mainsHouse(), "feeds itself", [](House& f) { f.panels[0].fedBy = "sub"; }},
            {mainsHouse(), "hours go from 0 to 24",
             [](House& f) {
                 f.appliances = {{"saw", "saw", "", "o0-0", {{8, 25}}}};
             }},
            {jacked(), "no data jack", [](House& f) { f.jacks[0].kind = JackKind::coax; }},
            {jacked(), "does not exist", [](House& f) { f.jacks[0].room = "moon"; }},
        };
        for (auto [house, words, spoil] : cases) {
            QVERIFY(validate(house).empty());
            spoil(house);
            QVERIFY2(complains(house, words), words);
        }
        // As far as they may go.
        h = wiredHouse();
        h.connections[0].walls = 20;
        h.connections[0].stations = 256;
        QVERIFY(validate(h).empty());
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
    // On the bench are the adapters side by side with both machines; for the baseline the machines alone.
    void onTheBenchThereIsNoWiring() {
        const House h = coaxHouse();
        const auto route = findRoute(h, "desk-end", "shelf-end").value();
        const auto kept = [&](Setup setup, const std::vector<Id>& bypassed = {}) {
            const std::vector<bool> in = passed(route, setup, bypassed);
            std::string out;
            for (std::size_t i = 0; i < route.size(); ++i)
                if (in[i]) out += (out.empty() ? "" : " ") + route[i].id;
            return out;
        };
        QCOMPARE(kept(Setup::baseline), std::string("desk desk.lan nic.lan nic socket shelf"));
        QCOMPARE(kept(Setup::bench),
                 std::string("desk desk.lan coax-a.lan coax-a coax-b coax-b.lan nic.lan nic socket shelf"));
        QCOMPARE(kept(Setup::baseline, {"nic"}), std::string("desk desk.lan nic.lan socket shelf"));
    }
    void aStripIsThatOfItsOutlet() {
        House h = mainsRooms();
        h.device("mains-a")->ports[1].strip = Strip::plain;
        h.device("mains-b")->ports[1].strip = Strip::surge_protected;
        QCOMPARE(h.stripAt("o0-0"), Strip::plain);
        QCOMPARE(h.stripAt("o0-4"), Strip::surge_protected);
        QCOMPARE(h.stripAt("o0-5"), Strip::unknown);
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

QTEST_GUILESS_MAIN(TestHouse)
#include "test_house.moc"
