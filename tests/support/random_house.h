// Random houses: every part of a survey in every state, known and unknown. The same seed, the same house.
#pragma once

#include "house/house.h"

#include <random>

namespace metrodos::testing {

using namespace metrodos::house;

struct HouseSize {
    int rooms = 4;
    int devices = 6;
    int jacksPerRoom = 3;
};

class RandomHouse {
  public:
    explicit RandomHouse(std::uint32_t seed)
        : m_random(seed) {}

    House make(const HouseSize& size) {
        House h;
        h.name = "Random House";
        for (int r = 0; r < size.rooms; ++r)
            h.rooms.push_back(
                {"room-" + std::to_string(r), "Room " + std::to_string(r), r % 4 - 1, r == 1 ? "Barn" : ""});
        plant(h, size);
        network(h, size);
        return h;
    }

    std::mt19937& random() { return m_random; }
    int upTo(int n) { return static_cast<int>(m_random() % static_cast<unsigned>(n)); }
    bool chance(double p) { return std::uniform_real_distribution<>(0, 1)(m_random) < p; }

  private:
    template <typename T>
    T pick(std::initializer_list<T> of) {
        return *(of.begin() + upTo(static_cast<int>(of.size())));
    }
    std::optional<quantity::Length> length(double most) {
        if (chance(0.2)) return std::nullopt;
        return quantity::Length::metres(0.5 + most * std::uniform_real_distribution<>(0, 1)(m_random));
    }
    std::optional<bool> maybe() { return chance(0.3) ? std::nullopt : std::optional(chance(0.5)); }

    // Jacks in every room; one coax tree of splitters; circuits over panels; data runs to the first room.
    void plant(House& h, const HouseSize& size) {
        h.panels = {{"main", "Main", "room-0", ""}, {"sub", "Sub", "room-0", "main"}};
        CoaxPart entry;
        entry.id = entry.label = "entry";
        entry.kind = CoaxPartKind::entry;
        h.coaxParts = {entry};
        PortRef feed{"entry", "out"};
        int way = 9; // no splitter yet
        int splitters = 0;
        for (int r = 0; r < size.rooms; ++r)
            for (int k = 0; k < size.jacksPerRoom; ++k) {
                const auto kind = pick({JackKind::data, JackKind::coax, JackKind::mains, JackKind::mains});
                Jack jack{"jack-" + std::to_string(r) + "-" + std::to_string(k), "jack",
                          "room-" + std::to_string(r), kind};
                h.jacks.push_back(jack);
                if (kind == JackKind::coax) {
                    if (way > 3) {
                        CoaxPart s;
                        s.id = s.label = "splitter-" + std::to_string(++splitters);
                        s.ways = 4;
                        s.rated = maybe();
                        s.terminated = maybe();
                        h.connections.push_back(run("feed-" + std::to_string(splitters), feed, {s.id, "in"}));
                        h.coaxParts.push_back(s);
                        feed = {s.id, "out-4"};
                        way = 1;
                    }
                    const Id part = "splitter-" + std::to_string(splitters);
                    PortRef from{part, "out-" + std::to_string(way++)};
                    if (chance(0.1)) from = {"room-0", ""};
                    h.connections.push_back(run("coax-" + jack.id, from, {jack.id, ""}));
                }
                if (kind == JackKind::mains) {
                    if (h.circuits.empty() || h.circuits.back().outlets.size() >= 6) {
                        Circuit c;
                        c.id = c.label = "circuit-" + std::to_string(h.circuits.size());
                        c.panel = chance(0.2) ? "sub" : "main";
                        c.leg = pick<const char*>({"1", "2", ""});
                        c.protection = pick({Protection::unknown, Protection::breaker,
                                             Protection::residual_current, Protection::arc_fault});
                        c.wiring = pick<const char*>({"", "copper", "old"});
                        h.circuits.push_back(c);
                    }
                    h.circuits.back().outlets.push_back({jack.id, length(9)});
                    if (chance(0.15))
                        h.appliances.push_back({"appliance-" + jack.id,
                                                "appliance",
                                                pick<const char*>({"motor", "dimmer", ""}),
                                                jack.id,
                                                {}});
                }
            }
        if (chance(0.1)) h.coaxUse.cableInternetTop = quantity::Frequency::megahertz(1218);
    }

    Connection run(const Id& id, const PortRef& a, const PortRef& b) {
        Connection c;
        c.id = c.label = id;
        c.medium = Medium::coax;
        c.ends = {a, b};
        c.cableClass = pick<const char*>({"", "rg6", "rg59", "rg11"});
        c.length = length(35);
        if (chance(0.5)) c.badConnectors = upTo(3);
        return c;
    }

    // A router in the first room; every host comes to it over a cable, coax, mains or radio.
    void network(House& h, const HouseSize& size) {
        Device router{"router", "Router", DeviceKind::router, "router-1g", "room-0", {}};
        h.devices.push_back(router);
        const auto jacksOf = [&](JackKind kind, std::vector<Id>& out) {
            for (const Jack& j : h.jacks)
                if (j.kind == kind) out.push_back(j.id);
        };
        std::vector<Id> coax;
        std::vector<Id> mains;
        jacksOf(JackKind::coax, coax);
        jacksOf(JackKind::mains, mains);
        Connection mainsNet = network("mains-net", Medium::mains);
        Connection coaxNet = network("coax-net", Medium::coax);
        Connection airNet = network("air-net", Medium::air);
        airNet.walls = upTo(4);
        for (int d = 0; d < size.devices; ++d) {
            const std::string n = std::to_string(d);
            Device host{"host-" + n,
                        "Host " + n,
                        DeviceKind::host,
                        pick<const char*>({"", "laptop", "workstation", "controller"}),
                        "room-" + std::to_string(d % size.rooms),
                        {{"lan", "LAN", PortKind::ethernet,
                          pick<const char*>({"", "100base-tx", "1000base-t", "2.5gbase-t", "10gbase-t"})}}};
            h.endpoints.push_back({"end-" + n, "End " + n, host.id, ""});
            const int way = upTo(4);
            PortRef wire{host.id, "lan"};
            if (way > 0) {
                Connection& net = way == 1 ? coaxNet : way == 2 ? mainsNet : airNet;
                if (net.ends.empty()) wire = adapter(h, net, way, coax, mains, "hub", true);
                const PortRef box = adapter(h, net, way, coax, mains, n, false);
                h.connections.push_back(cable("lead-" + n, wire = {host.id, "lan"}, box, 2));
            } else {
                h.connections.push_back(cable("cable-" + n, wire, routerPort(h), 60));
            }
            h.devices.push_back(host);
        }
        for (Connection* net : {&coaxNet, &mainsNet, &airNet})
            if (net->ends.size() >= 2) h.connections.push_back(*net);
        h.service = Service{"service", "service", "router", quantity::BitRate::megabits(500), std::nullopt};
    }

    Connection network(const Id& id, Medium medium) {
        Connection c;
        c.id = c.label = id;
        c.medium = medium;
        return c;
    }

    Connection cable(const Id& id, const PortRef& a, const PortRef& b, double most) {
        Connection c;
        c.id = c.label = id;
        c.ends = {a, b};
        c.cableClass = pick<const char*>({"", "cat5e", "cat6", "cat6a"});
        c.length = length(most);
        if (chance(0.5)) c.goodPairs = chance(0.9) ? 4 : 2;
        return c;
    }

    PortRef routerPort(House& h) {
        Device* router = h.device("router");
        const Id id = "p" + std::to_string(router->ports.size() + 1);
        router->ports.push_back(
            {id, id, PortKind::ethernet, pick<const char*>({"", "1000base-t", "2.5gbase-t"})});
        return {"router", id};
    }

    PortRef adapter(House& h, Connection& net, int way, std::vector<Id>& coax, std::vector<Id>& mains,
                    const std::string& name, bool isHub) {
        const char* medium = way == 1 ? "coax" : way == 2 ? "mains" : "air";
        Device box{std::string(medium) + "-" + name,
                   "Adapter",
                   DeviceKind::adapter,
                   way == 1   ? pick<const char*>({"", "coax-2500", "coax-1000"})
                   : way == 2 ? pick<const char*>({"", "mains-1200", "mains-600"})
                              : "radio-866",
                   "",
                   {{"lan", "LAN", PortKind::ethernet, "1000base-t"}}};
        Port line{"line", "line",
                  way == 1   ? PortKind::coax
                  : way == 2 ? PortKind::mains
                             : PortKind::radio,
                  ""};
        std::vector<Id>& jacks = way == 1 ? coax : mains;
        if (way < 3 && !jacks.empty() && chance(0.9)) {
            line.jack = jacks[static_cast<std::size_t>(upTo(static_cast<int>(jacks.size())))];
            line.strip = pick({Strip::unknown, Strip::wall, Strip::plain});
        }
        box.ports.push_back(line);
        net.ends.push_back({box.id, "line"});
        const PortRef lan{box.id, "lan"};
        if (isHub) h.connections.push_back(cable("hub-" + box.id, lan, routerPort(h), 2));
        h.devices.push_back(std::move(box));
        return lan;
    }

    std::mt19937 m_random;
};

/// A route between every two machines, and from every machine to the service.
inline std::vector<Route> allRoutes(const House& h) {
    std::vector<Route> out;
    const auto add = [&](const Id& from, const Id& to) {
        Route r;
        r.id = from + "-" + to;
        r.label = r.id;
        r.from = from;
        r.to = to;
        out.push_back(r);
    };
    for (std::size_t i = 0; i < h.endpoints.size(); ++i) {
        for (std::size_t j = i + 1; j < h.endpoints.size(); ++j)
            add(h.endpoints[i].id, h.endpoints[j].id);
        if (h.service) add(h.endpoints[i].id, h.service->id);
    }
    return out;
}

} // namespace metrodos::testing
