// How a house comes about, and what is wrong in it.
#include "independent/world.h"

#include <algorithm>
#include <functional>

namespace independent {
namespace {

using namespace metrodos::house;
using metrodos::quantity::BitRate;
using metrodos::quantity::Length;

double between(Random& random, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
}
// Even on a logarithmic scale.
double about(Random& random, double low, double high) {
    return std::exp(between(random, std::log(low), std::log(high)));
}
bool happens(Random& random, double share) {
    return between(random, 0, 1) < share;
}
std::string oneOf(Random& random, const std::vector<std::string>& list) {
    return list[random() % list.size()];
}

// IEEE 802.3 framing at 1500 bytes with timestamps: 1448 of 1538 bytes.
double goodputOf(const std::string& phy) {
    constexpr double share = 1448.0 / 1538.0;
    if (phy == "100base-tx") return 100e6 * share;
    if (phy == "1000base-t") return 1e9 * share;
    if (phy == "2.5gbase-t") return 2.5e9 * share;
    if (phy == "5gbase-t") return 5e9 * share;
    return 10e9 * share;
}

class Builder {
  public:
    explicit Builder(World& world)
        : m_world(world)
        , m_random(world.random) {}

    void build() {
        House& h = m_world.real;
        h.name = "Weir House";
        machine("a", true);
        const int boxes = 1 + static_cast<int>(m_random() % 3);
        for (int i = 0; i < boxes; ++i) {
            if (happens(m_random, 0.5)) medium(i);
            box(i);
        }
        if (happens(m_random, 0.3)) medium(boxes);
        machine("b", false);
        Route r;
        r.id = "route";
        r.label = "the route";
        r.from = "a-end";
        r.to = "b-end";
        h.routes = {r};
        m_world.route = RouteFinder(h).find(h.routes.front()).value();
        rate();
    }

    // One fault of those that the house can have.
    void harm() {
        struct Fault {
            const char* name;
            std::function<bool()> make;
        };
        const std::vector<Fault> faults{
            {"a slower port than written down", [&] { return slowerPort(); }},
            {"two pairs", [&] { return twoPairs(); }},
            {"a cable that loses frames", [&] { return lossyCable(); }},
            {"a USB 2 socket", [&] { return slowSocket(PortKind::usb); }},
            {"a slot of one lane", [&] { return slowSocket(PortKind::pcie); }},
            {"a slow core", [&] { return slowMachine(true); }},
            {"a slow driver", [&] { return slowMachine(false); }},
            {"a small window", [&] { return smallWindow(); }},
            {"a splitter too many", [&] { return badMedium(ElementKind::coax, 0.2, 0.75); }},
            {"another node on the coax", [&] { return sharedMedium(ElementKind::coax); }},
            {"a strip", [&] { return strip(); }},
            {"an appliance", [&] { return appliance(); }},
            {"a crowded channel", [&] { return sharedMedium(ElementKind::air); }},
            {"a switch with a small buffer", [&] { return smallBuffer(); }},
            {"a rate limit that nobody wrote down", [&] { return hidden(100e6, 800e6, 0.002, 0.02); }},
            {"a radio hop that nobody wrote down", [&] { return hidden(40e6, 300e6, 0.05, 0.2); }}};
        for (;;) {
            const Fault& fault = faults[m_random() % faults.size()];
            if (!fault.make()) continue;
            m_world.fault = fault.name;
            return;
        }
    }

    // What the installer wrote down: three quarters of the ports, and most of the rest.
    void survey() {
        m_world.survey = m_written;
        House& h = m_world.survey;
        for (Device& d : h.devices) {
            if (happens(m_random, 0.12)) d.deviceClass.clear();
            for (Port& p : d.ports)
                if (p.kind == PortKind::ethernet && happens(m_random, 0.25)) p.phy.clear();
        }
        for (Connection& c : h.connections) {
            if (happens(m_random, 0.3)) c.cableClass.clear();
            if (happens(m_random, 0.4)) c.length.reset();
            if (c.medium != Medium::bus && happens(m_random, 0.25)) c.situation.clear();
        }
    }
    void keepWritten() { m_written = m_world.real; }

  private:
    void machine(const std::string& name, bool first) {
        Device host{name, "Machine " + name, DeviceKind::host, "", "", {}};
        host.deviceClass = oneOf(m_random, {"workstation", "desktop", "laptop", "laptop", "small-board"});
        Machine& m = m_world.machines[first ? 0 : 1];
        // One core with offloads moves 10 to 40 Gbit/s, small machines less.
        const bool small = host.deviceClass == "small-board";
        m.sends = small ? about(m_random, 1.5e9, 5e9) : about(m_random, 9e9, 35e9);
        m.receives = m.sends * between(m_random, 0.7, 1);
        // Linux lets half of tcp_rmem's 6 MB be under way; others a little less or more.
        m.window = about(m_random, 1.5e6, 4e6);
        PortRef outside{name, "lan"};
        const double kind = between(m_random, 0, 1);
        if (kind < 0.35) {
            const std::string phy = oneOf(m_random, {"1000base-t", "2.5gbase-t", "2.5gbase-t", "5gbase-t"});
            nic(host, PortKind::usb, oneOf(m_random, {"usb3-5g", "usb3-10g"}), phy,
                phy == "1000base-t"   ? "usb-nic-1g"
                : phy == "2.5gbase-t" ? "usb-nic-2.5g"
                                      : "usb-nic-5g");
            outside = {name + "-nic", "lan"};
        } else if (kind < 0.45) {
            nic(host, PortKind::pcie, "pcie-gen3-x4", "10gbase-t", "pcie-nic-10g");
            outside = {name + "-nic", "lan"};
        } else {
            host.ports.push_back({"lan", "LAN", PortKind::ethernet,
                                  oneOf(m_random, {"1000base-t", "1000base-t", "2.5gbase-t", "10gbase-t"})});
        }
        m_world.real.devices.push_back(host);
        m_world.real.endpoints.push_back({name + "-end", "Machine " + name, name, ""});
        if (!first) cable(outside);
        m_last = outside;
    }
    void nic(Device& host, PortKind kind, const std::string& bus, const std::string& phy,
             const std::string& cls) {
        host.ports.push_back({"socket", "socket", kind, bus});
        m_world.real.devices.push_back(
            {host.id + "-nic",
             "Adapter of " + host.id,
             DeviceKind::adapter,
             cls,
             "",
             {{"lan", "LAN", PortKind::ethernet, phy}, {"plug", "plug", kind, bus}}});
        Connection c;
        c.id = host.id + "-bus";
        c.label = "socket of " + host.id;
        c.medium = Medium::bus;
        c.ends = {{host.id, "socket"}, {host.id + "-nic", "plug"}};
        m_world.real.connections.push_back(c);
    }
    void cable(const PortRef& to) {
        Connection c;
        c.id = "cable-" + std::to_string(++m_cables);
        c.label = "cable " + std::to_string(m_cables);
        c.ends = {m_last, to};
        c.cableClass = oneOf(m_random, {"cat5e", "cat6", "cat6a"});
        c.length = Length::metres(between(m_random, 1, 30));
        m_world.real.connections.push_back(c);
    }
    void box(int i) {
        const std::string id = "switch-" + std::to_string(i);
        const bool old = happens(m_random, 0.06); // many older hubs have ports of 100 Mbit/s
        const std::string phy =
            old ? "100base-tx" : oneOf(m_random, {"1000base-t", "1000base-t", "2.5gbase-t", "10gbase-t"});
        Device d{id,
                 "Switch " + std::to_string(i),
                 DeviceKind::network_switch,
                 phy == "100base-tx"   ? ""
                 : phy == "1000base-t" ? "switch-1g"
                 : phy == "2.5gbase-t" ? "switch-2.5g"
                                       : "switch-10g",
                 "",
                 {}};
        for (const char* port : {"p1", "p2", "p3", "p4"})
            d.ports.push_back({port, port, PortKind::ethernet, phy});
        m_world.real.devices.push_back(d);
        cable({id, "p1"});
        m_last = {id, "p2"};
    }
    void medium(int i) {
        const std::string cls =
            oneOf(m_random, {"coax-1000", "coax-2500", "coax-2500", "mains-1200", "mains-2000", "radio-866"});
        Connection c;
        c.medium = cls.starts_with("coax")    ? Medium::coax
                   : cls.starts_with("mains") ? Medium::mains
                                              : Medium::air;
        c.situation = c.medium == Medium::coax ? oneOf(m_random, {"good", "typical"})
                      : c.medium == Medium::mains
                          ? oneOf(m_random, {"neighbouring", "same_circuit", "same_panel"})
                          : oneOf(m_random, {"same_room", "one_wall"});
        const PortKind kind = c.medium == Medium::coax    ? PortKind::coax
                              : c.medium == Medium::mains ? PortKind::mains
                                                          : PortKind::radio;
        const std::string name = "medium-" + std::to_string(i);
        const std::string phy = cls == "coax-2500" ? "2.5gbase-t" : "1000base-t";
        for (const char* side : {"-near", "-far"})
            m_world.real.devices.push_back(
                {name + side,
                 "Adapter " + name + side,
                 DeviceKind::adapter,
                 cls,
                 "",
                 {{"lan", "LAN", PortKind::ethernet, phy}, {"line", "line", kind, ""}}});
        cable({name + "-near", "lan"});
        c.id = name;
        c.label = std::string(metrodos::house::name(c.medium)) + " " + std::to_string(i);
        c.ends = {{name + "-near", "line"}, {name + "-far", "line"}};
        m_world.real.connections.push_back(c);
        m_last = {name + "-far", "lan"};
    }

    // The ceilings of what is sound.
    void rate() {
        m_world.parts.resize(m_world.route.size());
        for (std::size_t i = 0; i < m_world.route.size(); ++i)
            rate(m_world.route[i], m_world.parts[i]);
    }
    void both(Part& part, double forward, double backward) {
        part.ceiling = {forward, backward};
        part.clean = part.ceiling;
    }
    void rate(const Element& e, Part& part) {
        switch (e.kind) {
        case ElementKind::port: {
            const double net = goodputOf(m_world.real.port({e.device, e.port})->phy);
            both(part, net, net);
            part.delay = 8e-6;
            break;
        }
        case ElementKind::bus: {
            const double net = busRate(m_world.real.port(e.entry)->phy);
            both(part, net, net);
            part.delay = 90e-6; // transfers are polled
            part.wobble = 0.006;
            break;
        }
        case ElementKind::network_switch:
        case ElementKind::adapter:
            part.delay = 12e-6;
            break;
        case ElementKind::coax:
        case ElementKind::mains:
        case ElementKind::air:
            rateMedium(e, part);
            break;
        default:
            break;
        }
    }
    double busRate(const std::string& bus) {
        if (bus == "usb2") return between(m_random, 280e6, 350e6);
        if (bus == "usb3-5g") return between(m_random, 3.2e9, 3.6e9);
        if (bus == "usb3-10g") return between(m_random, 6.5e9, 8e9);
        if (bus == "pcie-gen1-x1") return 2e9 * between(m_random, 0.8, 0.88);
        if (bus == "pcie-gen2-x1") return 4e9 * between(m_random, 0.8, 0.88);
        return 31.5e9 * 0.85;
    }
    // TCP over them as people measure it: classes and situations of the trade's envelopes.
    void rateMedium(const Element& e, Part& part) {
        const Connection& c = *m_world.real.connection(e.connection);
        const std::string cls = m_world.real.device(e.entry.device)->deviceClass;
        if (e.kind == ElementKind::coax) {
            const double top =
                cls == "coax-1000" ? between(m_random, 650e6, 850e6) : between(m_random, 1.7e9, 2.25e9);
            const double left = c.situation == "good" ? 1 : about(m_random, 0.72, 1);
            both(part, top * left * between(m_random, 0.95, 1), top * left * between(m_random, 0.95, 1));
            part.delay = between(m_random, 2.8e-3, 4e-3);
            part.wobble = between(m_random, 0.005, 0.03);
        } else if (e.kind == ElementKind::mains) {
            const bool big = cls == "mains-2000";
            const double mid = c.situation == "neighbouring"   ? about(m_random, 150e6, 280e6)
                               : c.situation == "same_circuit" ? about(m_random, 90e6, 200e6)
                                                               : about(m_random, 30e6, 110e6);
            const double size = big ? between(m_random, 1.15, 1.55) : 1;
            both(part, mid * size * about(m_random, 0.75, 1.3), mid * size * about(m_random, 0.75, 1.3));
            part.delay = between(m_random, 2e-3, 5e-3);
            part.wobble = between(m_random, 0.04, 0.15);
        } else {
            // 40 to 60 % of the negotiated rate near by, less through walls.
            const double near = 866e6 * between(m_random, 0.4, 0.6);
            const double left = c.situation == "same_room" ? 1 : about(m_random, 0.35, 0.85);
            both(part, near * left * between(m_random, 0.85, 1.1),
                 near * left * between(m_random, 0.85, 1.1));
            part.delay = about(m_random, 1.5e-3, 5e-3);
            part.wobble = between(m_random, 0.06, 0.2);
        }
    }

    [[nodiscard]] std::vector<std::size_t> all(ElementKind kind) const {
        std::vector<std::size_t> out;
        for (std::size_t i = 0; i < m_world.route.size(); ++i)
            if (m_world.route[i].kind == kind) out.push_back(i);
        return out;
    }
    std::optional<std::size_t> any(ElementKind kind) {
        const auto found = all(kind);
        if (found.empty()) return std::nullopt;
        return found[m_random() % found.size()];
    }
    bool slowerPort() {
        const Element& e = m_world.route[*any(ElementKind::port)];
        Port& port = *m_world.real.port({e.device, e.port});
        port.phy = port.phy == "1000base-t" || happens(m_random, 0.4) ? "100base-tx" : "1000base-t";
        rate(e, m_world.parts[indexOf(e.id)]);
        return true;
    }
    // Two pairs carry 100BASE-TX only (IEEE 802.3, 25 and 40).
    bool twoPairs() {
        const std::size_t i = *any(ElementKind::cable);
        m_world.real.connection(m_world.route[i].connection)->linkedAt = BitRate::megabits(100);
        both(m_world.parts[i], goodputOf("100base-tx"), goodputOf("100base-tx"));
        return true;
    }
    bool lossyCable() {
        Part& part = m_world.parts[*any(ElementKind::cable)];
        const double p = about(m_random, 3e-4, 2e-2);
        const std::size_t way = m_random() % 3;
        if (way != 1) part.loss[0] = p;
        if (way != 0) part.loss[1] = p * between(m_random, 0.5, 1.5);
        return true;
    }
    bool slowSocket(PortKind kind) {
        for (const std::size_t i : all(ElementKind::bus)) {
            const Element& e = m_world.route[i];
            if (m_world.real.port(e.entry)->kind != kind) continue;
            for (const PortRef& end : {e.entry, e.exit})
                m_world.real.port(end)->phy =
                    kind == PortKind::usb ? "usb2" : oneOf(m_random, {"pcie-gen1-x1", "pcie-gen2-x1"});
            m_world.real.port(e.exit)->phy = m_world.real.port(e.entry)->phy;
            rate(e, m_world.parts[i]);
            return true;
        }
        return false;
    }
    bool slowMachine(bool shows) {
        Machine& m = m_world.machines[m_random() % 2];
        double& side = happens(m_random, 0.5) ? m.sends : m.receives;
        side = about(m_random, 0.15e9, 1.5e9);
        m.coreShows = shows;
        return true;
    }
    bool smallWindow() {
        m_world.machines[m_random() % 2].window = about(m_random, 64e3, 400e3);
        return true;
    }
    bool badMedium(ElementKind kind, double low, double high) {
        const auto i = any(kind);
        if (!i) return false;
        const double left = about(m_random, low, high);
        for (double& c : m_world.parts[*i].ceiling)
            c *= left;
        return true;
    }
    bool sharedMedium(ElementKind kind) {
        const auto i = any(kind);
        if (!i) return false;
        Part& part = m_world.parts[*i];
        part.shared = about(m_random, 0.2, 0.65);
        for (double& c : part.ceiling)
            c *= part.shared;
        return true;
    }
    bool strip() {
        const auto i = any(ElementKind::mains);
        if (!i) return false;
        const double left = about(m_random, 0.04, 0.35);
        for (double& c : m_world.parts[*i].ceiling)
            c *= left;
        m_world.parts[*i].cleanMoved = true;
        return true;
    }
    bool appliance() {
        const auto i = any(ElementKind::mains);
        if (!i) return false;
        m_world.parts[*i].ceiling[m_random() % 2] *= about(m_random, 0.2, 0.7);
        m_world.parts[*i].cleanOff = m_world.parts[*i].cleanMoved = true;
        return true;
    }
    bool smallBuffer() {
        const std::size_t i = *any(ElementKind::network_switch);
        const double p = about(m_random, 3e-4, 5e-3);
        m_world.parts[i].loss = {p, p};
        return true;
    }
    bool hidden(double low, double high, double steadiest, double wildest) {
        m_world.hiddenWobble = about(m_random, steadiest, wildest);
        m_world.hiddenRate = about(m_random, low, high);
        m_world.hiddenAt = *any(ElementKind::cable);
        return true;
    }
    [[nodiscard]] std::size_t indexOf(const Id& id) const {
        return static_cast<std::size_t>(std::find_if(m_world.route.begin(), m_world.route.end(),
                                                     [&](const Element& e) { return e.id == id; }) -
                                        m_world.route.begin());
    }

    World& m_world;
    Random& m_random;
    House m_written;
    PortRef m_last;
    int m_cables = 0;
};

} // namespace

World draw(std::uint64_t seed) {
    World world;
    world.random.seed(seed);
    world.fault = "none";
    world.kindness = between(world.random, 1, 1.6); // cubic is kinder to loss (RFC 9438)
    world.queue = about(world.random, 80e3, 1.2e6);
    Builder builder(world);
    builder.build();
    builder.keepWritten();
    if (happens(world.random, 0.75)) builder.harm();
    builder.survey();
    return world;
}

} // namespace independent
