// What is found in shipped and random houses, what is refused in damaged ones, and what edits leave, as it
// was kept.
#include "house/addressing.h"
#include "house/dated_changes.h"
#include "house/edit.h"
#include "house/findings.h"
#include "house/machine_ports.h"
#include "house/propose.h"
#include "house/remove.h"
#include "house/route.h"
#include "house/validate.h"
#include "job/house_json.h"
#include "support/bounds.h"
#include "support/kept.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;

namespace {

json ofHouse(const house::House& house) {
    json out;
    for (const quantity::Problem& p : house::findings(house))
        out["findings"].push_back(p.sentence());
    for (const quantity::Problem& p : house::validate(house))
        out["faults"].push_back(p.sentence());
    for (const house::OpenEnd& e : house::continuityList(house))
        out["open"].push_back({e.connection, e.candidates});
    for (const house::Clash& c : house::clashesOf(house))
        out["clashes"].push_back({c.what, c.mend});
    for (const house::Route& route : house.routes)
        out["wrong-ports"][route.id] = house::wrongPorts(house, route);
    out["names"] = house::hostNames(house);
    for (const house::Jack& jack : house.jacks)
        out["places"].push_back({house.stripAt(jack.id), house.roomOf({jack.id, ""})});
    return out;
}

// Takes every third thing of one kind out and leaves what points to it.
house::House damaged(house::House h, int kind) {
    const auto thin = [](auto& list) {
        for (std::size_t i = list.size() / 3 * 3; i > 0; i -= 3)
            list.erase(list.begin() + static_cast<std::ptrdiff_t>(i) - 1);
    };
    switch (kind) {
    case 0:
        thin(h.rooms);
        break;
    case 1:
        thin(h.devices);
        break;
    case 2:
        thin(h.jacks);
        break;
    case 3:
        thin(h.endpoints);
        break;
    case 4:
        thin(h.coaxParts);
        thin(h.panels);
        break;
    default:
        for (house::Device& d : h.devices)
            thin(d.ports);
    }
    return h;
}

// What a change leaves, and how much of it does not hold together.
json leftBy(const quantity::Result<house::House>& done) {
    if (!done) return done.error().sentence();
    return {done->connections.size(), house::validate(*done).size(), testing::digestOf(job::toJson(*done))};
}

// What a route passes.
json wayOf(const quantity::Result<house::House>& done, const house::Route& route) {
    if (!done) return done.error().sentence();
    json out;
    const auto elements = house::RouteFinder(*done).find(route);
    for (const house::Element& e : elements ? *elements : std::vector<house::Element>())
        out.push_back(e.id);
    return out;
}

// Where each wire and each of its ends can be plugged in instead, and how many places do not fit.
json pluggedIn(const house::House& house) {
    std::vector<std::string> places;
    for (const house::Jack& jack : house.jacks)
        places.push_back(jack.id);
    for (const house::Device& d : house.devices)
        for (const house::Port& p : d.ports)
            places.push_back(d.id + "." + p.id);
    json out;
    for (const house::Connection& c : house.connections)
        for (std::size_t end = 0; end <= c.ends.size(); ++end) {
            const std::string element =
                end == c.ends.size() ? c.id : c.ends[end].device + "." + c.ends[end].port;
            int unfit = 0;
            for (const std::string& place : places) {
                const auto done = house::pluggedAt(house, element, place);
                if (done)
                    out[element].push_back({place, done->connection(c.id)->ends[0].device,
                                            done->connection(c.id)->ends[0].port,
                                            house::validate(*done).size()});
                else
                    ++unfit;
            }
            out[element].push_back(unfit);
        }
    return out;
}

std::vector<house::Id> thingsOf(const house::House& h) {
    std::vector<house::Id> out;
    const auto add = [&](const auto& list) {
        for (const auto& thing : list)
            out.push_back(thing.id);
    };
    add(h.rooms);
    add(h.devices);
    add(h.connections);
    add(h.endpoints);
    add(h.jacks);
    add(h.panels);
    add(h.circuits);
    add(h.coaxParts);
    add(h.spots);
    add(h.routes);
    return out;
}

} // namespace

class TestKeptFindings : public QObject {
    Q_OBJECT

  private slots:
    void ofShippedHouses() {
        json all;
        for (const auto& [name, house] : testing::shippedHouses()) {
            all[name]["whole"] = ofHouse(house);
            for (int kind = 0; kind < 6; ++kind)
                for (const quantity::Problem& p : house::validate(damaged(house, kind)))
                    all[name]["damaged"].push_back(p.sentence());
        }
        QVERIFY_KEPT("findings", all);
    }
    void ofRandomHouses() {
        json all;
        for (std::uint32_t seed = 1; seed <= 12; ++seed) {
            house::House house = testing::RandomHouse(seed).make({});
            house.routes = testing::allRoutes(house);
            for (double metres = 0; house::Connection & c : house.connections)
                c.length = quantity::Length::metres(metres += 12.5);
            json& of = all[std::to_string(seed)];
            of["whole"] = ofHouse(house);
            for (const quantity::Problem& p : house::validate(damaged(house, static_cast<int>(seed % 6))))
                of["damaged"].push_back(p.sentence());
        }
        QVERIFY_KEPT("findings-random", all);
    }
    // What the form of a job would refuse before is let through to be judged here.
    void ofSpoiltHouses() {
        const json whole = job::toJson(testing::fullHouse());
        QVERIFY(house::validate(job::houseFromJson(whole).value()).empty());
        QVERIFY_KEPT("spoilt-houses", testing::spoilt(whole, 2, [](const json& broken) {
                         const auto read = job::houseFromJson(broken);
                         if (!read) return read.error().sentence();
                         std::string said;
                         for (const quantity::Problem& p : house::validate(*read))
                             said += p.sentence() + " ";
                         return said;
                     }));
    }
    // How far each figure, text and list of a house may go.
    void ofBounds() {
        const json whole = job::toJson(testing::fullHouse());
        QVERIFY_KEPT("bounds-houses", testing::boundsOf(whole, [](const json& form) {
                         const auto read = job::houseFromJson(form);
                         return read && house::validate(*read).empty();
                     }));
    }
    // Counts that the form of a job never lets this far.
    void ofCounts() {
        json all;
        for (const int n : {-1, 0, 1, 2, 3, 8, 9, 20, 21, 64, 65, 256, 257, 999, 1000}) {
            house::House h = testing::fullHouse();
            h.spots[0].uses[0].count = n;
            h.coaxParts[3].ways = n;
            h.connections[0].badConnectors = h.connections[0].walls = h.connections[0].stations = n;
            h.routes[0].mtu = h.connections[1].goodPairs.emplace(n);
            for (house::Device& d : h.devices)
                if (d.storage) d.storage->disks = n;
            h.trials[0].steps.resize(static_cast<std::size_t>(n + 1), h.trials[0].steps[0]);
            h.circuits[0].outlets[0].fromPrevious = quantity::Length::metres(10.0 * n);
            for (const quantity::Problem& p : house::validate(h))
                all[std::to_string(n)].push_back(p.sentence());
        }
        QVERIFY_KEPT("counts", all);
    }
    // Small networks, with addresses, pools and hardware drawn so that they meet.
    void ofAddressPlans() {
        std::mt19937 draw(7);
        const auto host = [&] { return "192.168.7." + std::to_string(draw() % 18); };
        json all;
        for (int n = 0; n < 120; ++n) {
            house::House h = testing::fullHouse();
            const std::string prefix = "192.168.7.0/" + std::to_string(28 + n % 2);
            h.addressing = {{{"net-1", "Net", prefix, host(), host(), host()}}, {}};
            for (std::size_t i = 0; i < draw() % 9; ++i)
                h.addressing.ports.push_back(
                    {house::freeAddressId(h.addressing), h.devices[i].id, h.devices[i].ports[0].id, "net-1",
                     host(), draw() % 2 == 0 ? house::AddressKind::fixed : house::AddressKind::reserved,
                     "02:00:5e:10:00:0" + std::to_string(draw() % 8)});
            json said = {job::toJson(h)["addressing"]};
            for (const house::Clash& c : house::clashesOf(h))
                said.push_back({c.kind, c.network, c.address, c.what, c.mend, c.mended.has_value()});
            const house::Network& net = h.addressing.networks[0];
            if (const auto free = house::freeAddress(h.addressing, net)) said.push_back(free->text());
            if (const auto pool = house::shiftedPool(h.addressing, net))
                said.push_back({pool->poolFrom, pool->poolTo});
            all.push_back(said);
        }
        QVERIFY_KEPT("address-plans", all);
    }
    void ofEdits() {
        json all;
        for (const char* word : {"cheapest", "steadiest", "no_drilling", "fastest", "lasting", ""})
            all["objectives"][word] = house::objective(word).has_value();
        auto houses = testing::shippedHouses();
        houses.emplace_back("full-house", testing::fullHouse());
        for (const auto& [name, house] : houses) {
            json& of = all[name];
            for (const house::Id& thing : thingsOf(house))
                of["without"][thing] = leftBy(house::without(house, thing));
            for (const house::Route& r : house::proposedRoutes(house))
                of["proposed"].push_back({r.id, r.label, r.from, r.to});
            for (const house::Device& d : house.devices) {
                for (const auto& ports : {house::ethernetPorts(house, d), house::machinePorts(house, d)})
                    of["ports"][d.id].push_back(ports.size());
                for (const house::Port& p : d.ports) {
                    const std::string place = d.id + "." + p.id;
                    of["places"].push_back(
                        {house::labelOfPlace(house, place), house::portOfPlace(place).port});
                }
            }
            of["plugged"] = pluggedIn(house);
            for (const house::Connection& c : house.connections)
                for (const house::PortRef& end : house::portsAt(house, c))
                    of["ends"][c.id].push_back(end.device + "." + end.port);
            for (const house::Jack& jack : house.jacks)
                of["places"].push_back(house::labelOfPlace(house, jack.id));
            for (const house::Route& route : house.routes) {
                const auto elements = house::findRoute(house, route.from, route.to);
                if (!elements) continue;
                const house::RouteShape shape = house::shapeOf(*elements);
                json& way = of["routes"][route.id];
                way.push_back(shape.lastUnit());
                for (std::size_t i = 0; i < elements->size(); ++i) {
                    const house::Element& e = (*elements)[i];
                    const auto moved = house::moveUnit(house, route, e.id, i % 2 == 0 ? 1 : -1);
                    const auto more =
                        house::insertUnit(house, route, e.id,
                                          {"Pair", "coax-2500", "1000base-t", house::DeviceKind::adapter,
                                           house::Medium::coax, "cat6"});
                    way.push_back({e.id, e.label, house::name(e.kind), shape.isAtEnd(i),
                                   leftBy(house::removeUnit(house, route, e.id)), leftBy(more),
                                   wayOf(moved, route)});
                }
            }
            for (const house::Device& d : house.devices)
                if (const auto less = house::without(house, d.id)) {
                    of["without it"][d.id] = wayOf(less, house.routes.front());
                    for (const house::DatedChange& c :
                         house::withChangesNoted(house, *less, "2026-05-04T10:00:00Z").changes)
                        of["noted"].push_back({d.id, c.thing, c.text, c.at});
                }
            for (const house::Connection& c : house.connections)
                of["found"][c.id] = leftBy(house::withEndFound(house, c.id, {house.rooms[0].id, ""}));
        }
        QVERIFY_KEPT("edits", all);
    }
};

QTEST_GUILESS_MAIN(TestKeptFindings)
#include "test_kept_findings.moc"
