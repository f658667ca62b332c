#include "support/trace_cases.h"

#include "house/route.h"

#include <algorithm>
#include <cmath>

namespace metrodos::testing {
namespace {

using namespace metrodos::house;
using Random = std::mt19937_64;

double uniform(Random& random, double low = 0, double high = 1) {
    return std::uniform_real_distribution<double>(low, high)(random);
}
bool chance(Random& random, double p) {
    return uniform(random) < p;
}
template <typename T>
const T& pick(Random& random, const std::vector<T>& list) {
    return list[random() % list.size()];
}

// Builds a chain of boxes from one machine to the other.
class Chain {
  public:
    explicit Chain(Random& random)
        : m_random(random) {
        m_house.name = "Case";
    }

    House build() {
        const bool fromService = chance(m_random, 0.12);
        const bool copies = !fromService && chance(m_random, 0.1);
        if (fromService)
            service();
        else
            machine("a", true, copies);
        const int boxes = 1 + static_cast<int>(m_random() % 3);
        for (int i = 0; i < boxes; ++i) {
            if (chance(m_random, 0.55)) medium(i);
            networkSwitch(i);
        }
        if (chance(m_random, 0.35)) medium(boxes);
        machine("b", false, copies);
        Route r;
        r.id = "route";
        r.label = "the route";
        r.from = fromService ? "service" : "a-end";
        r.to = "b-end";
        if (copies) r.fileProtocol = "modern";
        m_house.routes = {r};
        return std::move(m_house);
    }

  private:
    void service() {
        Device router{"router", "Router", DeviceKind::router, "router-1g", "", {}};
        const std::string phy = pick<std::string>(m_random, {"1000base-t", "1000base-t", "2.5gbase-t"});
        for (const char* id : {"lan-1", "lan-2", "lan-3"})
            router.ports.push_back({id, id, PortKind::ethernet, phy});
        m_house.devices.push_back(router);
        Service s;
        s.id = "service";
        s.label = "internet service";
        s.device = "router";
        s.down = quantity::BitRate::megabits(pick<double>(m_random, {100, 250, 500, 1000, 2000}));
        s.up = *s.down * 0.2;
        m_house.service = s;
        m_last = {"router", "lan-1"};
    }

    void machine(const std::string& name, bool first, bool copies) {
        Device host{
            name,
            "Machine " + name,
            DeviceKind::host,
            pick<std::string>(m_random, {"workstation", "desktop", "desktop", "laptop", "small-board"}),
            "",
            {}};
        if (copies)
            host.storage = Storage{pick<std::string>(m_random, {"hard-disk", "sata-ssd", "nvme"}), 1,
                                   DiskLayout::single};
        PortRef outside{name, "lan"};
        const double kind = uniform(m_random);
        if (kind < 0.3) { // a network adapter in a USB socket
            const std::string cls =
                pick<std::string>(m_random, {"usb-nic-1g", "usb-nic-2.5g", "usb-nic-2.5g", "usb-nic-5g"});
            adapterIn(host, cls, PortKind::usb, pick<std::string>(m_random, {"usb3-5g", "usb3-10g"}));
            outside = {name + "-nic", "lan"};
        } else if (kind < 0.4) { // a card in a slot
            adapterIn(host, "pcie-nic-10g", PortKind::pcie, "pcie-gen3-x4");
            outside = {name + "-nic", "lan"};
        } else {
            host.ports.push_back(
                {"lan", "LAN", PortKind::ethernet,
                 pick<std::string>(m_random, {"1000base-t", "1000base-t", "2.5gbase-t", "10gbase-t"})});
        }
        m_house.devices.push_back(host);
        m_house.endpoints.push_back({name + "-end", "Machine " + name, name, ""});
        if (!first) cable(outside);
        m_last = outside;
    }

    void adapterIn(Device& host, const std::string& cls, PortKind kind, const std::string& bus) {
        const std::string phy = cls == "usb-nic-1g"     ? "1000base-t"
                                : cls == "usb-nic-2.5g" ? "2.5gbase-t"
                                : cls == "usb-nic-5g"   ? "5gbase-t"
                                                        : "10gbase-t";
        host.ports.push_back({"socket", "socket", kind, bus});
        m_house.devices.push_back({host.id + "-nic",
                                   "Adapter of " + host.id,
                                   DeviceKind::adapter,
                                   cls,
                                   "",
                                   {{"lan", "LAN", PortKind::ethernet, phy}, {"plug", "plug", kind, bus}}});
        Connection bus1;
        bus1.id = host.id + "-bus";
        bus1.label = "socket of " + host.id;
        bus1.medium = Medium::bus;
        bus1.ends = {{host.id, "socket"}, {host.id + "-nic", "plug"}};
        m_house.connections.push_back(bus1);
    }

    void cable(const PortRef& to) {
        Connection c;
        c.id = "cable-" + std::to_string(++m_cables);
        c.label = "cable " + std::to_string(m_cables);
        c.ends = {m_last, to};
        c.cableClass = pick<std::string>(m_random, {"cat5e", "cat6", "cat6a"});
        c.length = quantity::Length::metres(uniform(m_random, 1, 40));
        if (chance(m_random, 0.5)) c.goodPairs = 4;
        m_house.connections.push_back(c);
    }

    void networkSwitch(int i) {
        const std::string id = "switch-" + std::to_string(i);
        const std::string cls =
            pick<std::string>(m_random, {"switch-1g", "switch-2.5g", "switch-2.5g", "switch-10g"});
        const std::string phy = cls == "switch-1g"     ? "1000base-t"
                                : cls == "switch-2.5g" ? "2.5gbase-t"
                                                       : "10gbase-t";
        Device d{id, "Switch " + std::to_string(i), DeviceKind::network_switch, cls, "", {}};
        for (const char* port : {"p1", "p2", "p3", "p4"})
            d.ports.push_back({port, port, PortKind::ethernet, phy});
        m_house.devices.push_back(d);
        cable({id, "p1"});
        m_last = {id, "p2"};
    }

    void medium(int i) {
        struct Kind {
            Medium medium;
            PortKind port;
            std::vector<std::string> classes;
            std::vector<std::string> situations;
        };
        static const std::vector<Kind> kinds{{Medium::coax,
                                              PortKind::coax,
                                              {"coax-500", "coax-1000", "coax-2500", "coax-2500"},
                                              {"good", "typical", "poor"}},
                                             {Medium::mains,
                                              PortKind::mains,
                                              {"mains-600", "mains-1200", "mains-2000"},
                                              {"neighbouring", "same_circuit", "same_panel", "other_leg"}},
                                             {Medium::air,
                                              PortKind::radio,
                                              {"radio-866", "radio-2400"},
                                              {"same_room", "one_wall", "two_walls"}}};
        const Kind& kind = pick(m_random, kinds);
        const std::string cls = pick(m_random, kind.classes);
        const std::string phy = cls == "mains-600"                          ? "100base-tx"
                                : cls == "coax-2500" || cls == "radio-2400" ? "2.5gbase-t"
                                                                            : "1000base-t";
        const std::string name = "medium-" + std::to_string(i);
        for (const char* side : {"-near", "-far"})
            m_house.devices.push_back(
                {name + side,
                 "Adapter " + name + side,
                 DeviceKind::adapter,
                 cls,
                 "",
                 {{"lan", "LAN", PortKind::ethernet, phy}, {"line", "line", kind.port, ""}}});
        cable({name + "-near", "lan"});
        Connection c;
        c.id = name;
        c.label = std::string(house::name(kind.medium)) + " " + std::to_string(i);
        c.medium = kind.medium;
        c.ends = {{name + "-near", "line"}, {name + "-far", "line"}};
        c.situation = pick(m_random, kind.situations);
        m_house.connections.push_back(c);
        m_last = {name + "-far", "lan"};
    }

    Random& m_random;
    House m_house;
    PortRef m_last;
    int m_cables = 0;
};

// Does something to one thing of the real house.
void harm(TraceCase& c, Random& random) {
    const std::vector<Element> elements = c.elements();
    const Element& e = pick(random, elements);
    standin::HiddenFault fault;
    fault.element = e.id;
    const auto oneWay = [&](double share) { (chance(random, 0.5) ? fault.forward : fault.backward) = share; };
    const auto bothWays = [&](double share) { fault.forward = fault.backward = share; };
    switch (e.kind) {
    case ElementKind::port: {
        Port* port = c.real.port({e.device, e.port});
        port->phy = port->phy == "1000base-t" || chance(random, 0.5) ? "100base-tx" : "1000base-t";
        c.fault += e.id + " is " + port->phy + "; ";
        return;
    }
    case ElementKind::cable:
        if (chance(random, 0.6)) {
            c.real.connection(e.connection)->linkedAt =
                quantity::BitRate::megabits(chance(random, 0.75) ? 100 : 1000);
            c.fault += e.id + " linked down; ";
            return;
        }
        fault.errors = true;
        fault.lossForward = fault.lossBackward = std::exp(uniform(random, std::log(3e-4), std::log(2e-2)));
        if (chance(random, 0.5)) (chance(random, 0.5) ? fault.lossForward : fault.lossBackward) = 0;
        break;
    case ElementKind::bus: {
        Port* socket = c.real.port(e.entry);
        for (const PortRef& end : {e.entry, e.exit})
            if (c.real.port(end)->id == "socket") socket = c.real.port(end);
        socket->phy = socket->kind == PortKind::usb
                          ? "usb2"
                          : pick<std::string>(random, {"pcie-gen1-x1", "pcie-gen2-x1"});
        c.fault += e.id + " is " + socket->phy + "; ";
        return;
    }
    case ElementKind::host:
        if (const double what = uniform(random); what < 0.35) {
            fault.window = uniform(random, 0.01, 0.15);
        } else if (what < 0.7) {
            chance(random, 0.5) ? oneWay(uniform(random, 0.01, 0.12)) : bothWays(uniform(random, 0.01, 0.1));
        } else {
            oneWay(uniform(random, 0.005, 0.06));
            fault.fillsCore = false;
        }
        break;
    case ElementKind::coax:
        bothWays(uniform(random, 0.1, 0.8));
        if (chance(random, 0.2))
            fault.curedBy = {house::AlterationKind::phy_rate}; // another node takes its share
        break;
    case ElementKind::mains:
        if (chance(random, 0.5)) { // a strip, which the outlet next to it has not
            bothWays(uniform(random, 0.04, 0.3));
            fault.curedBy = {house::AlterationKind::other_outlet};
        } else { // an appliance at one end
            oneWay(uniform(random, 0.3, 0.7));
            fault.curedBy = {house::AlterationKind::appliances_off, house::AlterationKind::other_outlet};
        }
        break;
    case ElementKind::air:
        bothWays(uniform(random, 0.2, 0.7));
        fault.curedBy = {house::AlterationKind::phy_rate};
        break;
    case ElementKind::service:
    case ElementKind::storage:
        bothWays(uniform(random, 0.15, 0.7));
        break;
    default:
        if (!chance(random, 0.15)) return harm(c, random);
        bothWays(uniform(random, 0.03, 0.4));
        break;
    }
    c.fault += e.id + " hidden; ";
    c.hidden.push_back(fault);
}

// What the installer did not write down.
void forget(House& h, Random& random) {
    for (Device& device : h.devices) {
        if (chance(random, 0.05)) device.deviceClass.clear();
        for (Port& port : device.ports)
            if (port.kind == PortKind::ethernet && chance(random, 0.06)) port.phy.clear();
    }
    for (Connection& c : h.connections) {
        if (chance(random, 0.1)) c.cableClass.clear();
        if (chance(random, 0.2)) c.length.reset();
        if (chance(random, 0.15) && c.medium != Medium::bus) c.situation.clear();
    }
}

} // namespace

std::vector<Element> TraceCase::elements() const {
    return RouteFinder(real).find(real.routes.front()).value();
}

TraceCase randomCase(Random& random, const catalog::Catalog& catalog) {
    TraceCase c;
    c.real = Chain(random).build();
    c.surveyed = c.real;
    c.seed = random() % 1'000'000 + 1;
    (void)catalog;
    const double faults = uniform(random);
    if (faults > 0.2) harm(c, random);
    if (faults > 0.85) harm(c, random);
    if (chance(random, 0.03)) {
        standin::HiddenFault hop;
        hop.element = trace::unlisted;
        hop.bps = std::exp(uniform(random, std::log(30e6), std::log(500e6)));
        hop.variation = 0.2;
        c.hidden.push_back(hop);
        c.fault += "a hop that is not in the survey; ";
    }
    forget(c.surveyed, random);
    return c;
}

} // namespace metrodos::testing
