// The address plan: what clashes, in cases worked by hand and in random nets against a count of its own.
#include "house/addressing.h"
#include "house/remove.h"
#include "house/validate.h"
#include "support/houses.h"

#include <QTest>
#include <random>
#include <set>

using namespace metrodos;
using namespace metrodos::house;

namespace {

// The wired house with a network and an address for the machine at the desk and the one at the shelf.
House planned() {
    House h = testing::wiredHouse();
    h.addressing.networks = {
        {"home", "Home", "192.168.7.0/24", "192.168.7.1", "192.168.7.100", "192.168.7.199"}};
    h.addressing.ports = {
        {"a1", "desk", "lan", "home", "192.168.7.20", AddressKind::reserved, "02:00:5e:10:00:01"},
        {"a2", "shelf", "lan", "home", "192.168.7.21", AddressKind::fixed, ""}};
    return h;
}

std::vector<ClashKind> kindsOf(const House& h) {
    std::vector<ClashKind> out;
    for (const Clash& c : clashesOf(h))
        out.push_back(c.kind);
    return out;
}

// The one clash that a plan has, with its mend made.
Clash only(const House& h) {
    const auto clashes = clashesOf(h);
    return clashes.size() == 1 ? clashes.front() : Clash{};
}
House mended(const House& h, const Clash& clash) {
    House out = h;
    out.addressing = clash.mended.value();
    return out;
}

} // namespace

class TestAddressing : public QObject {
    Q_OBJECT

  private slots:
    void onlySoManyNetworksAndAddresses() {
        House h = planned();
        const auto isTooMuch = [&] {
            const auto faults = validate(h);
            return std::any_of(faults.begin(), faults.end(), [](const quantity::Problem& p) {
                return p.sentence().find("more than 100 networks or 1000 addresses") != std::string::npos;
            });
        };
        while (h.addressing.networks.size() < 100) {
            Network more = h.addressing.networks.front();
            more.id = "net-" + std::to_string(h.addressing.networks.size());
            h.addressing.networks.push_back(more);
        }
        while (h.addressing.ports.size() < 1000) {
            PortAddress more = h.addressing.ports.front();
            more.id = "a-" + std::to_string(h.addressing.ports.size());
            h.addressing.ports.push_back(more);
        }
        QVERIFY(!isTooMuch());
        h.addressing.networks.push_back(h.addressing.networks.front());
        QVERIFY(isTooMuch());
        h.addressing.networks.pop_back();
        h.addressing.ports.push_back(h.addressing.ports.front());
        QVERIFY(isTooMuch());
    }
    void aSoundPlanHasNoClash() {
        QVERIFY(clashesOf(planned()).empty());
        QVERIFY(clashesOf(testing::wiredHouse()).empty());
        QVERIFY(validate(planned()).empty());
    }
    void aFixedAddressInThePoolIsToldAndThePoolShifts() {
        House h = planned();
        h.addressing.ports[1].address = "192.168.7.120";
        const Clash c = only(h);
        QCOMPARE(c.kind, ClashKind::inside_pool);
        QCOMPARE(c.address, Id("a2"));
        // A hundred addresses fit behind it and before it; behind is nearer: 21 further on, against 80 back.
        const House after = mended(h, c);
        QCOMPARE(after.addressing.networks[0].poolFrom, std::string("192.168.7.121"));
        QCOMPARE(after.addressing.networks[0].poolTo, std::string("192.168.7.220"));
        QVERIFY(clashesOf(after).empty());
        // A reservation may lie there.
        h.addressing.ports[1].kind = AddressKind::reserved;
        h.addressing.ports[1].hardware = "02:00:5e:10:00:02";
        QVERIFY(clashesOf(h).empty());
    }
    void aPoolThatCannotStayAsLargeTakesTheLargestGap() {
        House h = planned();
        Network& n = h.addressing.networks[0];
        n.prefix = "192.168.7.0/28"; // hosts 1 to 14
        n.poolFrom = "192.168.7.2";
        n.poolTo = "192.168.7.14";
        h.addressing.ports[0].address = "192.168.7.2";
        h.addressing.ports[1].address = "192.168.7.6";
        // Fixed are 1 and 6; 2 is reserved: gaps 2–5 and 7–14.
        const auto next = shiftedPool(h.addressing, n);
        QVERIFY(next.has_value());
        QCOMPARE(next->poolFrom + "-" + next->poolTo, std::string("192.168.7.7-192.168.7.14"));
        n = *next;
        QVERIFY(!shiftedPool(h.addressing, n)); // it can stay
    }
    // What lies outside of the network takes no place in it.
    void addressesElsewhereAreNoneOfItsOwn() {
        House h = planned();
        Network& n = h.addressing.networks[0];
        n.poolFrom = "192.168.7.100";
        n.poolTo = "192.168.7.199";
        h.addressing.ports[1].address = "192.168.7.120";
        for (const char* gateway : {"192.168.6.130", "192.168.8.130", "2001:db8::1", ""}) {
            n.gateway = gateway;
            h.addressing.ports[0].kind = AddressKind::fixed;
            h.addressing.ports[0].address = gateway;
            const auto next = shiftedPool(h.addressing, n);
            QVERIFY(next.has_value());
            QCOMPARE(next->poolFrom + "-" + next->poolTo, std::string("192.168.7.121-192.168.7.220"));
            QCOMPARE(freeAddress(h.addressing, n)->text(), std::string("192.168.7.1"));
        }
        // Two that are fixed side by side leave no gap between them.
        n.gateway = "192.168.7.1";
        h.addressing.ports[0].address = "192.168.7.121";
        QCOMPARE(shiftedPool(h.addressing, n)->poolFrom, std::string("192.168.7.122"));
    }
    void theWordsOfTheFilesComeBack() {
        for (const FoundBy how : waysOfFinding)
            QVERIFY(foundBy(name(how)) == how);
        QVERIFY(!foundBy("guess"));
        for (const AddressKind kind : {AddressKind::reserved, AddressKind::fixed})
            QVERIFY(addressKind(name(kind)) == kind);
        QVERIFY(!addressKind("leased"));
    }
    void eachFaultIsSaidWithItsMend() {
        struct Plan { // what of it is spoilt
            House& house;
            Network& network;
            PortAddress& desk;
            PortAddress& shelf;
        };
        struct Case {
            ClashKind kind;
            bool hasMend;
            void (*spoil)(Plan);
        };
        const Case cases[] = {
            {ClashKind::bad_network, false, [](Plan p) { p.network.prefix = "192.168.7"; }},
            {ClashKind::bad_network, false, [](Plan p) { p.network.gateway = "router"; }},
            {ClashKind::bad_network, false, [](Plan p) { p.network.poolTo.clear(); }},
            {ClashKind::gateway_outside, true, [](Plan p) { p.network.gateway = "192.168.8.1"; }},
            {ClashKind::gateway_outside, true, [](Plan p) { p.network.gateway = "192.168.7.255"; }},
            {ClashKind::pool_outside, false, [](Plan p) { p.network.poolTo = "192.168.8.9"; }},
            {ClashKind::pool_outside, false, [](Plan p) { std::swap(p.network.poolFrom, p.network.poolTo); }},
            {ClashKind::gateway_in_pool, true, [](Plan p) { p.network.gateway = "192.168.7.150"; }},
            {ClashKind::gone, true, [](Plan p) { p.shelf.port = "other"; }},
            {ClashKind::gone, true, [](Plan p) { p.shelf.network = "attic"; }},
            {ClashKind::missing, true, [](Plan p) { p.shelf.address.clear(); }},
            {ClashKind::bad_address, true, [](Plan p) { p.shelf.address = "192.168.7.x"; }},
            {ClashKind::wrong_network, true, [](Plan p) { p.shelf.address = "192.168.8.21"; }},
            {ClashKind::not_for_hosts, true, [](Plan p) { p.shelf.address = "192.168.7.255"; }},
            {ClashKind::twice, true, [](Plan p) { p.shelf.address = p.desk.address; }},
            {ClashKind::twice, true, [](Plan p) { p.shelf.address = p.network.gateway; }},
            {ClashKind::twice_reserved, false,
             [](Plan p) {
                 p.shelf.kind = AddressKind::reserved;
                 p.shelf.hardware = "02-00-5E-10-00-01";
             }},
            {ClashKind::no_hardware, true, [](Plan p) { p.desk.hardware.clear(); }},
            {ClashKind::overlap, false,
             [](Plan p) {
                 p.house.addressing.networks.push_back(
                     {"wide", "Wide", "192.168.0.0/16", "192.168.0.1", "", ""});
             }},
        };
        for (const Case& wrong : cases) {
            House h = planned();
            wrong.spoil({h, h.addressing.networks[0], h.addressing.ports[0], h.addressing.ports[1]});
            const Clash c = only(h);
            QVERIFY2(c.kind == wrong.kind, c.what.c_str());
            QVERIFY(!c.what.empty() && !c.mend.empty());
            QCOMPARE(c.mended.has_value(), wrong.hasMend);
            if (wrong.hasMend) QVERIFY2(clashesOf(mended(h, c)).empty(), c.mend.c_str());
        }
    }
    void aMendIsTheFirstAddressThatIsFree() {
        House h = planned();
        h.addressing.ports[1].address = h.addressing.ports[0].address;
        const House after = mended(h, only(h));
        QCOMPARE(after.addressing.ports[1].address, std::string("192.168.7.2"));
        // Over the pool, where the lower ones are taken.
        h.addressing.networks[0].poolFrom = "192.168.7.2";
        QCOMPARE(freeAddress(h.addressing, h.addressing.networks[0])->text(), std::string("192.168.7.200"));
        h.addressing.networks[0].poolTo = "192.168.7.254";
        QVERIFY(!freeAddress(h.addressing, h.addressing.networks[0]));
        const auto kinds = kindsOf(h);
        QVERIFY(std::count(kinds.begin(), kinds.end(), ClashKind::none_left) == 1);
    }
    void version6HasTheSameRules() {
        House h = planned();
        h.addressing.networks[0] = {
            "home", "Home", "2001:db8:7::/64", "2001:db8:7::1", "2001:db8:7::1000", "2001:db8:7::1fff"};
        h.addressing.ports[0].address = "2001:db8:7::20";
        h.addressing.ports[1].address = "2001:db8:7::1800";
        const Clash c = only(h);
        QCOMPARE(c.kind, ClashKind::inside_pool);
        QVERIFY(clashesOf(mended(h, c)).empty());
        h.addressing.ports[1].address = "2001:db8:7::"; // the routers' anycast address
        QCOMPARE(only(h).kind, ClashKind::not_for_hosts);
        h.addressing.ports[1].address = "192.168.7.21";
        QCOMPARE(only(h).kind, ClashKind::wrong_network);
    }
    void anAddressSaysWhichPortIsUnderTest() {
        House h = planned();
        QVERIFY(portAt(h, "192.168.7.21") == PortRef({"shelf", "lan"}));
        QVERIFY(portAt(h, "192.168.7.21:47710") == PortRef({"shelf", "lan"}));
        QVERIFY(!portAt(h, "192.168.7.22"));
        QVERIFY(!portAt(h, "shelf.local"));
        const Route& route = h.routes.front();
        h.endpoints[1].address = "192.168.7.21:47710";
        QVERIFY(wrongPorts(h, route).empty());
        // The same machine by a slow port that the route does not pass.
        h.device("shelf")->ports.push_back({"old", "old LAN", PortKind::ethernet, "100base-tx"});
        h.addressing.ports.push_back({"a3", "shelf", "old", "home", "192.168.7.22", AddressKind::fixed, ""});
        h.endpoints[1].address = "192.168.7.22:47710";
        const auto said = wrongPorts(h, route);
        QCOMPARE(said.size(), std::size_t(1));
        QVERIFY2(said[0].find("old LAN") != std::string::npos &&
                     said[0].find("192.168.7.22") != std::string::npos,
                 said[0].c_str());
    }
    void othersCanReadIt() {
        House h = planned();
        h.name = "Test\nHouse";
        h.device("shelf")->label = "Shelf computer";
        h.device("desk")->label = "Shelf computer";
        h.addressing.ports.push_back(
            {"a3", "switch", "p1", "home", "2001:db8::5", AddressKind::reserved, "02:00:5e:10:00:03"});
        const auto names = hostNames(h);
        QCOMPARE(names.at("a1"), std::string("shelf-computer"));
        QCOMPARE(names.at("a2"), std::string("shelf-computer-lan"));
        QCOMPARE(hostsFile(h), std::string("# Hosts of Test House\n192.168.7.20\tshelf-computer\n"
                                           "192.168.7.21\tshelf-computer-lan\n2001:db8::5\tswitch\n"));
        QCOMPARE(reservations(h, ReservationSyntax::lines),
                 std::string(
                     "# Reservations of Test House\ndhcp-host=02:00:5e:10:00:01,192.168.7.20,shelf-computer\n"
                     "dhcp-host=02:00:5e:10:00:03,[2001:db8::5],switch\n"));
        QCOMPARE(
            reservations(h, ReservationSyntax::blocks),
            std::string("# Reservations of Test House\nhost shelf-computer { hardware ethernet "
                        "02:00:5e:10:00:01; fixed-address 192.168.7.20; }\nhost switch { hardware ethernet "
                        "02:00:5e:10:00:03; fixed-address6 2001:db8::5; }\n"));
        h.addressing.ports[0].hardware = "no\nhost evil { }";
        QVERIFY(reservations(h, ReservationSyntax::blocks).find("evil") == std::string::npos);
    }
    void namesAreThoseOfHosts() {
        House h = planned();
        h.device("desk")->label = "--Wohn–zimmer: TV (4K)!";
        h.device("shelf")->label = "日本";
        const auto names = hostNames(h);
        QCOMPARE(names.at("a1"), std::string("wohn-zimmer-tv-4k"));
        QCOMPARE(names.at("a2"), std::string("host"));
    }
    void whatGoesTakesItsAddressAlong() {
        const House h = without(planned(), "desk").value();
        QCOMPARE(h.addressing.ports.size(), std::size_t(1));
        QVERIFY(clashesOf(h).empty());
    }
    // A count of its own, over plain numbers of 32 bits, says of each random plan whether anything is wrong.
    void aPlanThatSaysNoClashHasNone() {
        std::mt19937 random(7);
        const auto upTo = [&](unsigned n) { return static_cast<unsigned>(random() % n); };
        int sound = 0;
        int mendedAll = 0;
        for (int round = 0; round < 2000; ++round) {
            House h = testing::wiredHouse();
            Device& box = *h.device("switch");
            box.ports.clear();
            h.connections.clear();
            const unsigned bits = 26 + upTo(4); // 6 to 62 hosts
            const unsigned net = 0xC0A80000U + (upTo(4) << 6U);
            const unsigned size = 1U << (32 - bits);
            const unsigned base = net & ~(size - 1);
            const auto text = [](unsigned a) {
                return std::to_string(a >> 24U) + "." + std::to_string(a >> 16U & 255U) + "." +
                       std::to_string(a >> 8U & 255U) + "." + std::to_string(a & 255U);
            };
            // Mostly within, now and then beyond.
            const auto somewhere = [&] { return upTo(12) == 0 ? base + size + upTo(4) : base + upTo(size); };
            const unsigned gateway = upTo(4) == 0 ? somewhere() : base + 1;
            const unsigned from = base + 2 + upTo(size / 2);
            const unsigned to = upTo(10) == 0 ? from - 1 - upTo(2) : from + upTo(size / 4);
            h.addressing.networks = {
                {"n", "N", text(base) + "/" + std::to_string(bits), text(gateway), text(from), text(to)}};
            const unsigned hosts = upTo(5);
            std::vector<std::pair<unsigned, bool>> planned; // address, fixed
            for (unsigned i = 0; i < hosts; ++i) {
                const std::string id = "p" + std::to_string(i);
                box.ports.push_back({id, id, PortKind::ethernet, ""});
                planned.emplace_back(somewhere(), upTo(2) == 0);
                h.addressing.ports.push_back(
                    {id, "switch", id, "n", text(planned.back().first),
                     planned.back().second ? AddressKind::fixed : AddressKind::reserved,
                     "02:00:5e:10:00:0" + std::to_string(i)});
            }
            const auto isHost = [&](unsigned a) { return a > base && a < base + size - 1; };
            bool isSound = isHost(gateway) && isHost(from) && isHost(to) && from <= to &&
                           (gateway < from || gateway > to);
            std::set<unsigned> seen{gateway};
            for (const auto& [address, isFixed] : planned)
                isSound = isSound && isHost(address) && seen.insert(address).second &&
                          !(isFixed && address >= from && address <= to);
            const auto clashes = clashesOf(h);
            QVERIFY2(clashes.empty() == isSound,
                     (std::to_string(round) + ": " + (clashes.empty() ? "" : clashes.front().what)).c_str());
            sound += isSound ? 1 : 0;
            // Mend after mend comes to an end.
            bool isStuck = false;
            for (int step = 0; step < 40 && !clashesOf(h).empty() && !isStuck; ++step) {
                isStuck = true;
                for (const Clash& c : clashesOf(h))
                    if (c.mended && !(*c.mended == h.addressing)) {
                        h.addressing = *c.mended;
                        isStuck = false;
                        break;
                    }
            }
            mendedAll += clashesOf(h).empty() ? 1 : 0;
            for (const Clash& c : clashesOf(h)) // what is left, a person has to mend, or there is no room
                QVERIFY2(!c.mended || isStuck || c.kind == ClashKind::inside_pool, c.what.c_str());
        }
        QVERIFY2(sound > 200 && sound < 1800, std::to_string(sound).c_str());
        QVERIFY2(mendedAll > 1500, std::to_string(mendedAll).c_str());
    }
};

QTEST_APPLESS_MAIN(TestAddressing)
#include "test_addressing.moc"
