#include "probe/machine.h"

#include "capacity/copper.h"
#include "house/machine_ports.h"
#include "probe/tolerances.h"
#include "quantity/ascii.h"
#include "quantity/format.h"
#include "quantity/text.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

namespace metrodos::probe {
namespace {

using nlohmann::json;
using quantity::BitRate;
using quantity::plain;

constexpr std::size_t maxTextBytes = 64;
constexpr std::size_t maxEntries = 64;

const json& field(const json& object, const char* key) {
    static const json none = nullptr;
    const auto it = object.is_object() ? object.find(key) : object.end();
    return object.is_object() && it != object.end() ? *it : none;
}

std::string textOf(const json& object, const char* key) {
    const json& value = field(object, key);
    return value.is_string() ? quantity::oneLine(value.get<std::string>().substr(0, maxTextBytes))
                             : std::string();
}

std::optional<bool> flagOf(const json& object, const char* key) {
    const json& value = field(object, key);
    return value.is_boolean() ? std::optional(value.get<bool>()) : std::nullopt;
}

std::optional<double> figureOf(const json& object, const char* key, double most = 1e13) {
    const json& value = field(object, key);
    if (!value.is_number()) return std::nullopt;
    const auto figure = value.get<double>();
    return std::isfinite(figure) && figure >= 0 && figure <= most ? std::optional(figure) : std::nullopt;
}

std::optional<double> rateOf(const json& object, const char* key) {
    const auto bps = figureOf(object, key);
    return bps && *bps >= 1 ? bps : std::nullopt;
}

std::optional<int> countOf(const json& object, const char* key) {
    const auto figure = figureOf(object, key, 64);
    return figure ? std::optional(static_cast<int>(*figure)) : std::nullopt;
}

std::vector<std::string> textsOf(const json& list) {
    std::vector<std::string> out;
    if (list.is_array())
        for (const json& text : list)
            if (text.is_string() && out.size() < maxEntries)
                out.push_back(quantity::oneLine(text.get<std::string>().substr(0, maxTextBytes)));
    return out;
}

PortFacts readPort(const json& p) {
    PortFacts out;
    out.name = textOf(p, "name");
    out.up = flagOf(p, "up").value_or(false);
    out.radio = flagOf(p, "radio").value_or(false);
    out.bps = rateOf(p, "rate_bps");
    out.halfDuplex = textOf(p, "duplex") == "half";
    out.supportedBps = rateOf(p, "supported_bps");
    out.partnerBps = rateOf(p, "partner_bps");
    out.energySaving = flagOf(p, "energy_saving");
    out.segmentation = flagOf(p, "segmentation");
    const json& counters = field(p, "counters");
    for (const char* key : {"rx_errors", "tx_errors"})
        if (const auto count = figureOf(counters, key)) out.errors = out.errors.value_or(0) + *count;
    for (const char* key : {"rx_dropped", "tx_dropped"})
        if (const auto count = figureOf(counters, key)) out.dropped = out.dropped.value_or(0) + *count;
    out.carrierChanges = figureOf(counters, "carrier_changes");
    out.coalescing = flagOf(p, "coalescing");
    out.driver = textOf(p, "driver");
    out.addresses = textsOf(field(p, "addresses"));
    if (const json& behind = field(p, "behind"); behind.is_array()) out.behind = textsOf(behind);
    if (const json& n = field(p, "neighbour"); n.is_object())
        out.neighbour = LinkNeighbour{textOf(n, "system"), textOf(n, "port"), textOf(n, "description")};
    const json& bus = field(p, "bus");
    out.bus.kind = textOf(bus, "kind");
    out.bus.bps = rateOf(bus, "rate_bps");
    out.bus.possibleBps = rateOf(bus, "possible_rate_bps");
    out.bus.lanes = countOf(bus, "lanes");
    out.bus.possibleLanes = countOf(bus, "possible_lanes");
    return out;
}

std::string rateText(double bps) {
    return plain(BitRate::bitsPerSecond(bps));
}

bool isSame(double a, double b) {
    return std::abs(a - b) <= sameRate * std::max(a, b);
}

bool isSlower(const std::optional<double>& a, const std::optional<double>& b) {
    return a && b && *a < *b * (1 - sameRate);
}

house::PortKind portKindOf(const BusFacts& bus) {
    return bus.kind == "usb" ? house::PortKind::usb : house::PortKind::pcie;
}

const catalog::Bus* busOf(const catalog::Catalog& catalog, const BusFacts& bus) {
    if (!bus.bps || (bus.kind != "usb" && bus.kind != "pci")) return nullptr;
    for (const catalog::Bus& candidate : catalog.buses)
        if (candidate.kind == portKindOf(bus) && isSame(candidate.raw.bps(), *bus.bps)) return &candidate;
    return nullptr;
}

const catalog::Phy* phyOf(const catalog::Catalog& catalog, const std::optional<double>& bps) {
    for (const catalog::Phy& phy : catalog.phys)
        if (bps && isSame(phy.rate.bps(), *bps)) return &phy;
    return nullptr;
}

std::string busText(const BusFacts& bus) {
    return bus.kind == "usb"
               ? "USB at " + rateText(*bus.bps)
               : "PCIe at " + rateText(*bus.bps) +
                     (bus.lanes
                          ? " over " + std::to_string(*bus.lanes) + (*bus.lanes == 1 ? " lane" : " lanes")
                          : "");
}

// The port that the facts speak of when an endpoint is reached at `host`.
const PortFacts* portAt(const MachineFacts& facts, const std::string& host) {
    const PortFacts* only = nullptr;
    int wired = 0;
    for (const PortFacts& port : facts.ports) {
        if (!host.empty() &&
            std::find(port.addresses.begin(), port.addresses.end(), host) != port.addresses.end())
            return &port;
        if (port.radio || !port.up || !port.bps) continue;
        only = &port;
        ++wired;
    }
    return wired == 1 ? only : nullptr;
}

const house::MachinePort* wayOf(const house::House& house, const std::vector<house::MachinePort>& ways,
                                const PortFacts& port) {
    if (ways.size() == 1) return &ways.front();
    for (const house::MachinePort& way : ways)
        if (const house::Port* p = house.port(way.port); p->id == port.name || p->label == port.name)
            return &way;
    // One behind a USB socket, one that is not: the bus tells them apart.
    const house::MachinePort* match = nullptr;
    for (const house::MachinePort& way : ways)
        if (!way.socket.device.empty() == (port.bus.kind == "usb")) {
            if (match != nullptr) return nullptr;
            match = &way;
        }
    return match;
}

void notePhy(Noted& noted, const catalog::Catalog& catalog, const house::PortRef& ref,
             const std::optional<double>& bps, bool certain) {
    const catalog::Phy* phy = phyOf(catalog, bps);
    house::Port* port = noted.house.port(ref);
    if (phy == nullptr || port == nullptr || port->phy == phy->id || (!certain && !port->phy.empty())) return;
    port->phy = phy->id;
    noted.changes.push_back(noted.house.labelOf(ref) + " is a port of " + plain(phy->rate));
}

// Whether the survey already says that the cable between its two ports runs at this rate.
bool isCertain(const house::House& house, const catalog::Catalog& catalog, const house::Connection& cable,
               BitRate linked) {
    if (cable.linkedAt) return false;
    std::optional<BitRate> slower;
    for (const house::PortRef& ref : house::portsAt(house, cable)) {
        const catalog::Phy* phy = catalog.phy(house.port(ref)->phy);
        if (phy == nullptr) return false;
        slower = slower ? std::min(*slower, phy->rate) : phy->rate;
    }
    if (!slower || *slower != linked) return false;
    const auto chances = capacity::linkChances(catalog, catalog.cable(cable.cableClass), cable.length,
                                               cable.goodPairs, catalog.termination(cable.termination));
    double good = 0;
    for (const capacity::LinkChance& c : chances)
        if (c.phy != nullptr && c.phy->rate >= linked) good += c.probability;
    return good > 0.95;
}

// A machine that answers at several addresses is tested by the port of the one that was taken.
void addOtherWays(std::vector<std::string>& out, const MachineFacts& facts, const std::string& host) {
    const auto has = [](const PortFacts& p, const std::string& address) {
        return std::find(p.addresses.begin(), p.addresses.end(), address) != p.addresses.end();
    };
    const auto used = std::find_if(facts.ports.begin(), facts.ports.end(),
                                   [&](const PortFacts& p) { return has(p, host); });
    if (host.empty() || used == facts.ports.end()) return;
    for (const PortFacts& p : facts.ports)
        if (&p != &*used && p.up && p.bps && !p.addresses.empty())
            out.push_back("the runs go by " + used->name + (used->bps ? " at " + rateText(*used->bps) : "") +
                          ", since that has the address " + host + "; " + p.name + " at " + rateText(*p.bps) +
                          " answers at " + p.addresses.front());
}

} // namespace

MachineFacts readFacts(const json& document) {
    MachineFacts out;
    out.name = textOf(document, "name");
    out.onBattery = flagOf(document, "on_battery");
    out.kernel = textOf(document, "kernel");
    const json& cpu = field(document, "cpu");
    out.cpuModel = textOf(cpu, "model");
    out.cores = countOf(cpu, "cores");
    out.governor = textOf(cpu, "governor");
    out.memoryBytes = figureOf(document, "memory_bytes", 1e18);
    const json& routes = field(document, "routes");
    if (routes.is_array())
        for (const json& route : routes)
            if (out.routes.size() < maxEntries)
                out.routes.push_back({textOf(route, "to"), textOf(route, "via"), textOf(route, "port")});
    const json& ports = field(document, "ports");
    if (ports.is_array())
        for (const json& port : ports)
            if (out.ports.size() < maxEntries) out.ports.push_back(readPort(port));
    return out;
}

std::optional<bool> radioUp(std::initializer_list<const MachineFacts*> machines) {
    std::optional<bool> out;
    for (const MachineFacts* machine : machines)
        for (const PortFacts& p : machine->ports)
            out = out.value_or(false) || (p.radio && p.up);
    return out;
}

std::vector<std::string> remarks(const MachineFacts& facts, const std::string& host) {
    std::vector<std::string> out;
    addOtherWays(out, facts, host);
    for (const PortFacts& p : facts.ports) {
        if (!p.up || p.radio) continue;
        std::optional<double> both = p.supportedBps;
        if (both && p.partnerBps) both = std::min(*both, *p.partnerBps);
        if (p.bps && p.partnerBps && isSlower(p.bps, both))
            out.push_back(p.name + " runs at " + rateText(*p.bps) + " though both ends can " +
                          rateText(*both) +
                          ": look at the cable's pairs and plugs, and at rates fixed by hand");
        if (p.halfDuplex)
            out.push_back(p.name + " is half-duplex: let both ends negotiate, and change the cable");
        if (p.bus.kind == "usb" && isSlower(p.bus.bps, p.bus.possibleBps))
            out.push_back(p.name + " is made for USB 3 and runs as USB 2: use a faster socket or cable");
        if (p.bus.lanes && p.bus.possibleLanes && *p.bus.lanes < *p.bus.possibleLanes)
            out.push_back(p.name + " has " + std::to_string(*p.bus.lanes) + " of " +
                          std::to_string(*p.bus.possibleLanes) + " PCIe lanes: use a longer slot");
        else if (p.bus.kind == "pci" && isSlower(p.bus.bps, p.bus.possibleBps))
            out.push_back(p.name + " runs its slot below the rate that it could: use a newer slot");
        if (p.errors.value_or(0) > 0)
            out.push_back(p.name + " has counted " + std::to_string(std::llround(*p.errors)) +
                          " frames with errors since it came up: cable, crimp or interference");
        if (p.energySaving == true)
            out.push_back(
                p.name + " saves energy between frames (IEEE 802.3az): turn that off if there are drop-outs");
        if (p.segmentation == false && p.bps.value_or(0) > 1e9 * (1 + sameRate))
            out.push_back(p.name + " leaves cutting segments to the processor: one core may be the limit");
    }
    if (facts.onBattery == true)
        out.push_back("it runs on its battery and may be slowed to save it: plug it in");
    return out;
}

std::vector<PartCeiling> partCeilings(const MachineFacts& facts, const catalog::Catalog& catalog,
                                      const capacity::Framing& framing) {
    std::vector<PartCeiling> out;
    for (const PortFacts& p : facts.ports) {
        if (!p.up) continue;
        if (p.bps && !p.radio)
            out.push_back({p.name, "link", capacity::goodput(BitRate::bitsPerSecond(*p.bps), framing),
                           "linked at " + rateText(*p.bps) + (p.halfDuplex ? ", half-duplex" : "")});
        if (const catalog::Bus* bus = busOf(catalog, p.bus)) {
            out.push_back({p.name, p.bus.kind, bus->goodput.p50, busText(p.bus)});
        } else if (p.bus.kind == "pci" && p.bus.bps && p.bus.lanes.value_or(0) > 0) {
            const double coding = *p.bus.bps / *p.bus.lanes > 5.5e9 ? 128.0 / 130 : 0.8;
            out.push_back(
                {p.name, p.bus.kind, BitRate::bitsPerSecond(*p.bus.bps * coding * 0.85), busText(p.bus)});
        }
    }
    return out;
}

// Whether two are called the same, small and capital letters of ASCII alike.
bool isSameName(std::string_view a, std::string_view b) {
    return std::ranges::equal(a, b, {}, quantity::ascii::lower, quantity::ascii::lower);
}

// The port of the house that the neighbour says that it is; nothing: none, or several are called so.
std::optional<house::PortRef> portNamed(const house::House& house, const LinkNeighbour& neighbour) {
    std::optional<house::PortRef> found;
    for (const house::Device& d : house.devices) {
        if (neighbour.system.empty() || !isSameName(d.label, neighbour.system)) continue;
        for (const house::Port& p : d.ports) {
            const auto isCalled = [&](const std::string& text) {
                return !text.empty() && (isSameName(p.label, text) || p.id == text);
            };
            if (p.kind != house::PortKind::ethernet ||
                (!isCalled(neighbour.port) && !isCalled(neighbour.description)))
                continue;
            if (found) return std::nullopt;
            found = house::PortRef{d.id, p.id};
        }
    }
    return found;
}

// The cable ends where the box at its other end says, unless something else is plugged in there.
void noteFarEnd(Noted& noted, const PortFacts& port, const house::PortRef& own) {
    const auto far = port.neighbour ? portNamed(noted.house, *port.neighbour) : std::nullopt;
    const house::Connection* at = noted.house.cableAt(own);
    if (!far || *far == own || at == nullptr || noted.house.cableAt(*far) != nullptr) return;
    house::Connection& cable = *noted.house.connection(at->id);
    // A run in the wall keeps its jacks; its leads are not in the house.
    if (std::any_of(cable.ends.begin(), cable.ends.end(),
                    [](const house::PortRef& end) { return end.port.empty(); }))
        return;
    const auto end =
        std::find_if(cable.ends.begin(), cable.ends.end(), [&](const house::PortRef& e) { return e != own; });
    if (end == cable.ends.end())
        cable.ends.push_back(*far);
    else
        *end = *far;
    noted.changes.push_back(cable.label + " ends at " + noted.house.labelOf(*far) +
                            ", as the box there says");
}

quantity::Result<Noted> noteFacts(const house::House& house, const catalog::Catalog& catalog,
                                  const house::Id& endpoint, const MachineFacts& facts,
                                  const std::string& host) {
    const house::Device* machine = house.device(house.deviceAt(endpoint));
    const PortFacts* port = portAt(facts, host);
    if (machine == nullptr || port == nullptr)
        return quantity::problem("it is not clear which port of the machine the runs go by",
                                 house.endLabel(endpoint), "give it an address on the port under test");
    Noted out{house, {}};
    const auto ways = house::machinePorts(house, *machine);
    const house::MachinePort* way = wayOf(house, ways, *port);
    if (way == nullptr)
        return quantity::problem("it is not clear which of its ports in the house “" + port->name + "” is",
                                 house.endLabel(endpoint), "label the port like that in Walk");
    if (const catalog::Bus* bus = busOf(catalog, port->bus); bus != nullptr && !way->socket.device.empty()) {
        house::Port* socket = out.house.port(way->socket);
        const auto joins = std::find_if(
            out.house.connections.begin(), out.house.connections.end(), [&](const house::Connection& c) {
                return c.medium == house::Medium::bus &&
                       std::find(c.ends.begin(), c.ends.end(), way->socket) != c.ends.end();
            });
        const bool isRead = joins == out.house.connections.end() || joins->linkedAt == bus->raw;
        if (socket->kind == portKindOf(port->bus) && (socket->phy != bus->id || !isRead)) {
            socket->phy = bus->id;
            if (!isRead) joins->linkedAt = bus->raw; // nobody needs to read it again
            out.changes.push_back(house.labelOf(way->socket) + " runs as " + bus->label);
        }
    }
    if (port->radio || !port->bps) return out;
    noteFarEnd(out, *port, way->port);
    notePhy(out, catalog, way->port, port->supportedBps, true);
    house::Connection& cable = *out.house.connection(house.cableAt(way->port)->id);
    for (const house::PortRef& other : house::portsAt(out.house, cable))
        if (other != way->port) notePhy(out, catalog, other, port->partnerBps, false);
    const BitRate linked = BitRate::bitsPerSecond(*port->bps);
    if ((cable.linkedAt == linked && cable.halfDuplex == port->halfDuplex) ||
        (!port->halfDuplex && isCertain(out.house, catalog, cable, linked)))
        return out;
    cable.linkedAt = linked;
    cable.halfDuplex = port->halfDuplex;
    out.changes.push_back(cable.label + " is linked at " + plain(linked) +
                          (port->halfDuplex ? ", half-duplex" : ""));
    return out;
}

} // namespace metrodos::probe
