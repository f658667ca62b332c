#include "capacity/ways.h"

#include "capacity/air_channel.h"
#include "capacity/coax_channel.h"
#include "capacity/coax_tree.h"
#include "capacity/mains_channel.h"
#include "house/edit.h"
#include "house/machine_ports.h"

#include <algorithm>
#include <deque>
#include <functional>
#include <map>

namespace metrodos::capacity {
namespace {

using namespace house;
using catalog::Catalog;
using catalog::DeviceClass;
using catalog::Family;

constexpr std::size_t maxJacksTried = 8; // per room and medium

struct Place {
    Id room;
    Id jack;   // when the place is a jack: only that one
    Id device; // when it is a device
    std::string label;
};

std::optional<Place> placeOf(const House& house, const Id& id) {
    if (const Room* room = house.room(id)) return Place{id, "", "", room->label};
    if (const Jack* jack = house.jack(id)) return Place{jack->room, id, "", jack->label};
    if (const Device* device = house.device(id)) return Place{device->room, "", id, device->label};
    return std::nullopt;
}

std::vector<const Jack*> jacksAt(const House& house, const Place& place, JackKind kind) {
    std::vector<const Jack*> out;
    for (const Jack& jack : house.jacks) {
        if (jack.kind != kind || out.size() >= maxJacksTried) continue;
        if (place.jack.empty() ? !place.room.empty() && jack.room == place.room : jack.id == place.jack)
            out.push_back(&jack);
    }
    return out;
}

BitRate slower(const RoutePrediction& p) {
    return std::min(p.forward.p50, p.backward.p50);
}

// Puts a route together from end to end: two machines as fast as the catalog has them, and what is added
// between.
class Builder {
  public:
    Builder(const House& real, const Catalog& catalog, const Place& from, const Place& to)
        : m_catalog(catalog)
        , m_from(from)
        , m_to(to) {
        m_house.rooms = real.rooms;
        m_house.jacks = real.jacks;
        m_house.coaxParts = real.coaxParts;
        m_house.coaxUse = real.coaxUse;
        m_house.panels = real.panels;
        m_house.circuits = real.circuits;
        m_house.appliances = real.appliances;
        for (const Connection& c : real.connections)
            if (c.medium == Medium::coax &&
                std::none_of(c.ends.begin(), c.ends.end(),
                             [&](const PortRef& end) { return real.device(end.device) != nullptr; }))
                m_house.connections.push_back(c);
        m_end = placed(real, from);
        m_first = from.device.empty() ? m_end.device : from.device;
        m_far = placed(real, to);
        m_last = to.device.empty() ? m_far.device : to.device;
    }

    // A switch between two runs; the next thing is joined to it.
    void viaSwitch(const std::string& label, const Id& room) {
        const DeviceClass* cls = fastest(m_catalog, Family::network_switch);
        Device box{m_house.freeId("switch"),
                   label,
                   DeviceKind::network_switch,
                   cls->id,
                   room,
                   {{"p1", "port 1", PortKind::ethernet, cls->ethernetPhy},
                    {"p2", "port 2", PortKind::ethernet, cls->ethernetPhy}}};
        m_house.connections.back().ends.push_back({box.id, "p1"});
        m_end = {box.id, "p2"};
        m_house.devices.push_back(std::move(box));
    }

    // A data run of the real house, its far end still to be joined.
    void run(const Connection& real) {
        Connection copy = real;
        copy.ends = {m_end};
        m_house.connections.push_back(std::move(copy));
    }

    // A pair of adapters with their medium; jacks may be empty. What disturbs them stays where it is.
    void crossing(const House& real, Medium medium, const DeviceClass& cls, const std::string& label,
                  const Jack* a, const Jack* b) {
        if (medium == Medium::mains)
            for (const Device& d : real.devices) {
                const DeviceClass* other = m_catalog.adapterOf(d.deviceClass, Family::mains);
                if (other != nullptr && other->speaks != cls.speaks && m_house.device(d.id) == nullptr)
                    m_house.devices.push_back(d);
            }
        Connection network;
        network.id = m_house.freeId("network");
        network.label = label;
        network.medium = medium;
        for (const Jack* jack : {a, b}) {
            Device box{m_house.freeId("adapter"),           cls.label, DeviceKind::adapter, cls.id,
                       jack == nullptr ? Id() : jack->room, {}};
            Port line{"line", "line", house::portFor(medium), ""};
            if (jack != nullptr) line.jack = jack->id;
            line.strip = Strip::wall;
            box.ports = {{"lan", "LAN", PortKind::ethernet, cls.ethernetPhy}, line};
            network.ends.push_back({box.id, "line"});
            if (network.ends.size() == 1) {
                lead();
                m_house.connections.back().ends.push_back({box.id, "lan"});
            } else {
                m_end = {box.id, "lan"};
            }
            m_house.devices.push_back(std::move(box));
        }
        const Room* here = m_house.room(m_from.room);
        const Room* there = m_house.room(m_to.room);
        if (medium == Medium::air && here != nullptr && there != nullptr) {
            const AirQuestion between = airBetween(m_catalog.air, *here, *there);
            network.length = between.distance;
            network.walls = between.walls;
        }
        m_house.connections.push_back(std::move(network));
        lead();
    }

    // Joins the last cable to the far machine and predicts.
    std::optional<Way> finish(WayKind kind, std::string label) {
        m_house.connections.back().ends.push_back(m_far);
        m_house.endpoints = {{m_house.freeId("end-a"), "here", m_first, ""},
                             {m_house.freeId("end-b"), "there", m_last, ""}};
        Route route;
        route.id = m_house.freeId("way");
        route.label = label;
        route.from = m_house.endpoints[0].id;
        route.to = m_house.endpoints[1].id;
        m_house.routes = {route};
        auto prediction = predict(m_house, m_catalog, route);
        if (!prediction) return std::nullopt;
        return Way{kind, std::move(label), {}, std::move(m_house), std::move(*prediction)};
    }

  private:
    // The machine at a place: the one that is named, or one as fast as the catalog has them.
    PortRef placed(const House& real, const Place& place) {
        const Device* device = real.device(place.device);
        if (device == nullptr || device->kind != DeviceKind::host)
            return machine("machine at " + place.label, place.room);
        m_house.devices.push_back(*device);
        for (const Connection& bus : real.connections) {
            if (bus.medium != Medium::bus ||
                std::none_of(bus.ends.begin(), bus.ends.end(),
                             [&](const PortRef& end) { return end.device == device->id; }))
                continue;
            for (const PortRef& end : bus.ends)
                if (const Device* adapter = real.device(end.device);
                    adapter != nullptr && adapter->id != device->id && m_house.device(adapter->id) == nullptr)
                    m_house.devices.push_back(*adapter);
            m_house.connections.push_back(bus);
        }
        for (Device& d : m_house.devices)
            for (Port& port : d.ports)
                if (port.kind == PortKind::ethernet) port.jack.clear(); // it is plugged elsewhere now
        const auto best = bestPort(real, m_catalog, *device);
        if (best) return *best;
        m_house.device(device->id)->ports.push_back({"new-lan", "LAN", PortKind::ethernet, ""});
        return {device->id, "new-lan"};
    }
    PortRef machine(const std::string& label, const Id& room) {
        const auto host =
            std::ranges::max_element(m_catalog.hosts, {}, [](const auto& host) { return host.goodput.p50; });
        Device device{m_house.freeId("machine"),
                      label,
                      DeviceKind::host,
                      host->id,
                      room,
                      {{"lan", "LAN", PortKind::ethernet, m_catalog.phys.back().id}}};
        PortRef out{device.id, "lan"};
        m_house.devices.push_back(std::move(device));
        return out;
    }

    void lead() {
        Connection c;
        c.id = m_house.freeId("lead");
        c.label = "patch lead";
        c.cableClass = "cat6a";
        c.length = m_catalog.patchLead;
        c.goodPairs = 4;
        c.ends = {m_end};
        m_house.connections.push_back(std::move(c));
    }

    const Catalog& m_catalog;
    Place m_from;
    Place m_to;
    House m_house;
    PortRef m_end;
    Id m_first;
    PortRef m_far;
    Id m_last;
};

std::optional<Way> existing(const House& house, const Catalog& catalog, const Place& from, const Place& to) {
    std::optional<Way> best;
    const auto machines = [&](const Place& place) {
        std::vector<Id> out;
        for (const Device& d : house.devices)
            if (d.kind == DeviceKind::host &&
                (place.device.empty() ? !place.room.empty() && d.room == place.room : d.id == place.device))
                out.push_back(d.id);
        return out;
    };
    for (const Id& a : machines(from))
        for (const Id& b : machines(to)) {
            if (a == b) continue;
            House h = house;
            h.endpoints.push_back({h.freeId("way-a"), h.device(a)->label, a, ""});
            h.endpoints.push_back({h.freeId("way-b"), h.device(b)->label, b, ""});
            Route route;
            route.id = h.freeId("way");
            route.from = h.endpoints[h.endpoints.size() - 2].id;
            route.to = h.endpoints.back().id;
            route.label = h.device(a)->label + " to " + h.device(b)->label;
            h.routes.push_back(route);
            auto prediction = predict(h, catalog, route);
            if (!prediction || (best && slower(*prediction) <= slower(best->prediction))) continue;
            best =
                Way{WayKind::existing, "as it is: " + route.label, {}, std::move(h), std::move(*prediction)};
        }
    return best;
}

// The rooms that data runs join, breadth first: a run of which both rooms are known is a step.
std::optional<Way> overData(const House& house, const Catalog& catalog, const Place& from, const Place& to) {
    struct Reached {
        Id before;
        const Connection* run = nullptr;
    };
    std::map<Id, Reached> reached{{from.room, {}}};
    std::deque<Id> open{from.room};
    while (!open.empty() && !reached.contains(to.room)) {
        const Id here = open.front();
        open.pop_front();
        for (const Connection& c : house.connections) {
            if (c.medium != Medium::data_cable || c.ends.size() != 2) continue;
            const Id a = house.roomOf(c.ends[0]);
            const Id b = house.roomOf(c.ends[1]);
            const Id next = a == here ? b : b == here ? a : Id();
            if (next.empty() || next == here || reached.contains(next)) continue;
            reached[next] = {here, &c};
            open.push_back(next);
        }
    }
    if (!reached.contains(to.room) || from.room == to.room) return std::nullopt;
    std::vector<const Connection*> runs;
    std::vector<Id> rooms;
    for (Id at = to.room; at != from.room; at = reached[at].before) {
        runs.insert(runs.begin(), reached[at].run);
        rooms.insert(rooms.begin(), at);
    }
    Builder builder(house, catalog, from, to);
    std::string label = "data cable";
    for (std::size_t i = 0; i < runs.size(); ++i) {
        builder.run(*runs[i]);
        label += (i == 0 ? ", " : " and ") + runs[i]->label;
        if (i + 1 < runs.size()) {
            const Room* room = house.room(rooms[i]);
            builder.viaSwitch("switch in the " + room->label, room->id);
        }
    }
    return builder.finish(WayKind::data, label);
}

using Classes = std::vector<const DeviceClass*>;

// Over the pair of jacks that carries most, with adapters of the class. `carries` gives the median of a pair
// in bit/s, 0 where it is ruled out.
template <typename Carries>
std::optional<Way> overJacks(const House& house, const Catalog& catalog, const Place& from, const Place& to,
                             WayKind way, Medium medium, JackKind kind, const DeviceClass& cls,
                             Carries carries) {
    const Jack* bestA = nullptr;
    const Jack* bestB = nullptr;
    double best = -1;
    for (const Jack* a : jacksAt(house, from, kind))
        for (const Jack* b : jacksAt(house, to, kind)) {
            const double rate = a == b ? -1 : carries(a->id, b->id);
            if (rate <= best) continue;
            best = rate;
            bestA = a;
            bestB = b;
        }
    if (bestA == nullptr) return std::nullopt;
    Builder builder(house, catalog, from, to);
    const std::string label = std::string(name(medium)) + ", " + bestA->label + " to " + bestB->label;
    builder.crossing(house, medium, cls, label, bestA, bestB);
    auto out = builder.finish(way, label + ", two of " + cls.label);
    if (out) out->adapterClass = cls.id;
    return out;
}

void overCoax(const House& house, const Catalog& catalog, const Place& from, const Place& to,
              const Classes& classes, std::vector<Way>& out) {
    const CoaxPlant plant(house, catalog);
    for (const DeviceClass* cls : classes)
        if (auto way = overJacks(house, catalog, from, to, WayKind::coax, Medium::coax, JackKind::coax, *cls,
                                 [&](const Id& a, const Id& b) {
                                     const CoaxBudget budget = plant.budget({a, b, cls->id, 2, false});
                                     return budget.ruledOut ? 0 : budget.rate.spread().p50.bps();
                                 }))
            out.push_back(std::move(*way));
}

void overMains(const House& house, const Catalog& catalog, const Place& from, const Place& to,
               const Classes& classes, std::vector<Way>& out) {
    const MainsPlant plant(house, catalog);
    for (const DeviceClass* cls : classes)
        if (auto way = overJacks(
                house, catalog, from, to, WayKind::mains, Medium::mains, JackKind::mains, *cls,
                [&](const Id& a, const Id& b) {
                    MainsQuestion question;
                    question.outletA = a;
                    question.outletB = b;
                    question.deviceClass = cls->id;
                    const MainsForecast forecast = plant.forecast(question);
                    return std::min(forecast.forward.spread().p50, forecast.backward.spread().p50).bps();
                }))
            out.push_back(std::move(*way));
}

void overAir(const House& house, const Catalog& catalog, const Place& from, const Place& to,
             const Classes& classes, std::vector<Way>& out) {
    for (const DeviceClass* cls : classes) {
        Builder builder(house, catalog, from, to);
        builder.crossing(house, Medium::air, *cls, "radio", nullptr, nullptr);
        auto way = builder.finish(WayKind::air, "radio, two of " + cls->label);
        if (!way) continue;
        way->adapterClass = cls->id;
        out.push_back(std::move(*way));
    }
}

} // namespace

const DeviceClass* fastest(const Catalog& catalog, Family family) {
    const Classes all = byRate(catalog, family);
    return all.empty() ? nullptr : all.front();
}

std::optional<PortRef> bestPort(const House& house, const Catalog& catalog, const Device& machine) {
    const auto usual =
        std::ranges::max_element(catalog.unknownPort, {}, [](const auto& one) { return one.second; });
    const auto usable = [&](const MachinePort& p) {
        const catalog::Phy* phy = catalog.phy(house.port(p.port)->phy);
        const BitRate rate = phy != nullptr ? phy->rate : catalog.phy(usual->first)->rate;
        const Port* socket = house.port(p.socket);
        const catalog::Bus* bus = socket == nullptr ? nullptr : catalog.bus(socket->phy);
        return bus == nullptr ? rate : std::min(rate, bus->goodput.p50);
    };
    const auto ports = ethernetPorts(house, machine);
    if (ports.empty()) return std::nullopt;
    return std::ranges::max_element(ports, {}, usable)->port;
}

std::vector<const DeviceClass*> byRate(const Catalog& catalog, Family family) {
    Classes out;
    for (const DeviceClass& cls : catalog.devices)
        if (cls.family == family) out.push_back(&cls);
    std::ranges::stable_sort(out, std::ranges::greater(),
                             [](const DeviceClass* cls) { return cls->goodput.p50; });
    return out;
}

quantity::Result<std::vector<Way>> waysBetween(const House& house, const Catalog& catalog, const Id& from,
                                               const Id& to, Adapters adapters) {
    const auto a = placeOf(house, from);
    const auto b = placeOf(house, to);
    if (!a || !b)
        return quantity::problem("there is no place “" + (a ? to : from) + "”", "",
                                 "name a room, a jack or a device");
    if (from == to) return quantity::problem("both places are the same", "", "choose two");
    std::vector<Way> out;
    for (auto* find : {&existing, &overData})
        if (auto way = find(house, catalog, *a, *b)) out.push_back(std::move(*way));
    for (const auto& [family, find] :
         {std::pair(Family::coax, &overCoax), {Family::mains, &overMains}, {Family::air, &overAir}}) {
        Classes classes = byRate(catalog, family);
        if (adapters == Adapters::fastest) classes.resize(std::min<std::size_t>(classes.size(), 1));
        find(house, catalog, *a, *b, classes, out);
    }
    std::ranges::stable_sort(out, std::ranges::greater(),
                             [](const Way& way) { return slower(way.prediction); });
    return out;
}

std::vector<Id> wiresOf(const House& house, const Way& way) {
    std::vector<Id> out;
    for (const ElementPrediction& e : way.prediction.elements) {
        const Connection* connection = way.house.connection(e.element.connection);
        if (connection == nullptr) {
            if (house.device(e.element.device) != nullptr) out.push_back(e.element.device);
            continue;
        }
        if (house.connection(connection->id) != nullptr) out.push_back(connection->id);
        const house::Port* a = way.house.port(e.element.entry);
        const house::Port* b = way.house.port(e.element.exit);
        if (a == nullptr || b == nullptr) continue;
        if (connection->medium == Medium::coax) {
            const CoaxTree tree(house);
            for (const CoaxStep& step : tree.path(a->jack, b->jack).steps)
                if (step.run != nullptr) out.push_back(step.run->id);
        }
        if (connection->medium == Medium::mains)
            for (const house::Circuit& circuit : house.circuits)
                if (std::any_of(circuit.outlets.begin(), circuit.outlets.end(), [&](const auto& outlet) {
                        return outlet.jack == a->jack || outlet.jack == b->jack;
                    }))
                    out.push_back(circuit.id);
    }
    return out;
}

std::optional<Way> wayOverCable(const House& house, const Catalog& catalog, const Id& from, const Id& to,
                                const Connection& cable, const std::string& label) {
    const auto a = placeOf(house, from);
    const auto b = placeOf(house, to);
    if (!a || !b) return std::nullopt;
    Builder builder(house, catalog, *a, *b);
    builder.run(cable);
    return builder.finish(WayKind::data, label);
}

quantity::Result<KeptRoute> withRoute(const House& house, const Way& way) {
    if (way.kind != WayKind::existing)
        return quantity::problem("This way is not installed yet", {}, "install it before it can be measured");
    KeptRoute out{house, {}, true};
    house::Route route = way.prediction.route;
    for (Id* end : {&route.from, &route.to}) {
        const Id device = way.house.deviceAt(*end);
        const auto known = std::find_if(out.house.endpoints.begin(), out.house.endpoints.end(),
                                        [&](const house::Endpoint& e) { return e.device == device; });
        if (known != out.house.endpoints.end()) {
            *end = known->id;
            continue;
        }
        *end = out.house.freeId(device + "-end");
        out.house.endpoints.push_back({*end, out.house.device(device)->label, device, ""});
    }
    for (const house::Route& r : house.routes)
        if ((r.from == route.from && r.to == route.to) || (r.from == route.to && r.to == route.from))
            return KeptRoute{house, r.id, false};
    out.route = route.id = out.house.freeId("route");
    out.house.routes.push_back(std::move(route));
    return out;
}

} // namespace metrodos::capacity
