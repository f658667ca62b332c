#include "capacity/ceiling.h"
#include "capacity/copper.h"
#include "capacity/plant_ceiling.h"
#include "capacity/storage.h"
#include "quantity/format.h"
#include "quantity/text.h"

#include <algorithm>

namespace metrodos::capacity {
namespace {

using catalog::Catalog;
using house::ElementKind;
using quantity::plain;

// A link that does not come up carries nothing; a logarithmic scale needs a floor.
constexpr BitRate noLink = BitRate::bitsPerSecond(1);

std::string rangeText(const RateSpread& s) {
    if (s.p10 == s.p90) return plain(s.p50);
    return plain(s.p10) + " to " + plain(s.p90);
}

std::string framingText(const Framing& f) {
    return "goodput = line rate × " + std::to_string(payloadBytes(f)) + " / " + std::to_string(wireBytes(f)) +
           " (MTU " + std::to_string(f.mtu) + (f.vlanTag ? ", VLAN tag" : "") + ", IPv" +
           std::to_string(f.ipVersion) + ", TCP with timestamps)";
}

Ceiling both(const Distribution& d, std::string because, std::vector<std::string> arithmetic,
             std::string source) {
    return {d, d, false, std::move(because), std::move(arithmetic), std::move(source)};
}

Distribution anyOf(const std::vector<RateSpread>& spreads) {
    std::vector<Distribution::Part> parts;
    for (const RateSpread& spread : spreads)
        parts.push_back({1, spread});
    return Distribution::mixture(std::move(parts));
}

/// `linked`: what the link at this port was read to run at.
Ceiling ofPort(const Catalog& catalog, const house::Port& port, std::optional<BitRate> linked,
               const Framing& framing) {
    if (const catalog::Phy* phy = catalog.phy(port.phy)) {
        const BitRate net = goodput(phy->rate, framing);
        return both(Distribution::certain(net), phy->label + " port: " + plain(net) + " of payload",
                    {"line rate " + plain(phy->rate), framingText(framing),
                     plain(phy->rate) + " × " + std::to_string(payloadBytes(framing)) + " / " +
                         std::to_string(wireBytes(framing)) + " = " + plain(net)},
                    phy->source);
    }
    std::vector<Distribution::Part> parts;
    std::vector<std::string> arithmetic{"the port's rate is not known: shares of what is met"};
    if (linked)
        arithmetic.push_back("its link runs at " + plain(*linked) +
                             ": what is slower is out of the question");
    for (const auto& [id, weight] : catalog.unknownPort) {
        const catalog::Phy* phy = catalog.phy(id);
        if (linked && phy->rate < *linked) continue;
        const BitRate net = goodput(phy->rate, framing);
        parts.push_back({weight, {net, net, net}});
        arithmetic.push_back(phy->label + ": " + quantity::significant(weight * 100, 2) + " %");
    }
    if (parts.empty())
        parts.push_back(
            {1, {goodput(*linked, framing), goodput(*linked, framing), goodput(*linked, framing)}});
    return both(Distribution::mixture(std::move(parts)), "port of unknown rate", std::move(arithmetic),
                "working value");
}

// The rate of the slower of the two ports of a cable; nothing when one is not known.
std::optional<BitRate> slowerPort(const house::House& house, const Catalog& catalog,
                                  const house::Element& element) {
    std::optional<BitRate> out;
    for (const house::PortRef& end : {element.entry, element.exit}) {
        const house::Port* port = house.port(end);
        const catalog::Phy* phy = port == nullptr ? nullptr : catalog.phy(port->phy);
        if (phy == nullptr) return std::nullopt;
        out = out ? std::min(*out, phy->rate) : phy->rate;
    }
    return out;
}

Ceiling ofCable(const house::House& house, const Catalog& catalog, const house::Connection& cable,
                const house::Element& element, const Framing& framing) {
    const catalog::CableCategory* category = catalog.cable(cable.cableClass);
    const catalog::Termination* ends = catalog.termination(cable.termination);
    const std::string what = category == nullptr ? "cable of unknown category" : category->label + " cable";
    const std::string length = cable.length ? plain(*cable.length) : "unknown length";
    std::vector<Distribution::Part> parts;
    std::vector<std::string> arithmetic{what + ", " + length +
                                        (cable.goodPairs
                                             ? ", " + std::to_string(*cable.goodPairs) + " sound pairs"
                                             : ", pairs not measured") +
                                        (ends == nullptr ? "" : ", " + ends->label)};
    // Between jacks the leads at both ends belong to the channel (ISO/IEC 11801-1).
    std::optional<quantity::Length> channel = cable.length;
    for (const house::Id& jack : {element.entryJack, element.exitJack})
        if (!jack.empty() && channel) channel = *channel + catalog.patchLead;
    if (channel != cable.length) arithmetic.push_back("with its leads " + plain(*channel));
    // A link runs at what both ports and the cable carry. One slower than both ports is the cable's doing;
    // else the cable carries at least as much.
    const auto ports = cable.linkedAt ? slowerPort(house, catalog, element) : std::nullopt;
    if (ports && *cable.linkedAt < *ports) {
        const BitRate net = goodput(*cable.linkedAt, framing);
        arithmetic.push_back("read from the machine: the link runs at " + plain(*cable.linkedAt) +
                             ", both ports could " + plain(*ports));
        arithmetic.push_back("a pair or a plug is bad, or a rate was fixed by hand");
        arithmetic.push_back(framingText(framing));
        Ceiling out =
            both(Distribution::certain(net),
                 what + ": linked at " + plain(*cable.linkedAt) + " only, between ports of " + plain(*ports),
                 std::move(arithmetic), "the machine's own report (IEEE 802.3, clause 28)");
        out.shared = cable.halfDuplex; // one end at a time sends
        return out;
    }
    auto chances = linkChances(catalog, category, channel, cable.goodPairs, ends);
    if (cable.linkedAt) {
        arithmetic.push_back("read from the machine: the link runs at " + plain(*cable.linkedAt));
        std::erase_if(chances,
                      [&](const LinkChance& c) { return c.phy == nullptr || c.phy->rate < *cable.linkedAt; });
        double left = 0;
        for (const LinkChance& chance : chances)
            left += chance.probability;
        for (LinkChance& chance : chances)
            chance.probability /= left;
        // The survey says that it cannot be; the machine is right.
        if (chances.empty())
            for (const catalog::Phy& phy : catalog.phys)
                if (phy.rate == *cable.linkedAt) chances.push_back({&phy, 1});
        if (chances.empty()) {
            const BitRate net = goodput(*cable.linkedAt, framing);
            parts.push_back({1, {net, net, net}});
        }
    }
    for (const LinkChance& chance : chances) {
        const BitRate net = chance.phy == nullptr ? noLink : goodput(chance.phy->rate, framing);
        parts.push_back({chance.probability, {net, net, net}});
        arithmetic.push_back((chance.phy == nullptr ? "no link" : "links at up to " + chance.phy->label) +
                             ": " + quantity::significant(chance.probability * 100, 3) + " %, carries " +
                             (chance.phy == nullptr ? "nothing" : plain(net)));
    }
    arithmetic.push_back(framingText(framing));
    const std::string best = chances.empty() ? "linked at " + plain(*cable.linkedAt)
                             : chances.front().phy == nullptr
                                 ? "no link"
                                 : "links at up to " + chances.front().phy->label;
    Ceiling out = both(Distribution::mixture(std::move(parts)), what + ", " + length + ": " + best,
                       std::move(arithmetic), category == nullptr ? "working value" : category->source);
    out.shared = cable.linkedAt && cable.halfDuplex;
    return out;
}

Ceiling ofBus(const house::House& house, const Catalog& catalog, const house::Element& element) {
    std::vector<const catalog::Bus*> known;
    house::PortKind kind = house::PortKind::usb;
    for (const house::PortRef& end : {element.entry, element.exit})
        if (const house::Port* port = house.port(end)) {
            kind = port->kind;
            if (const catalog::Bus* bus = catalog.bus(port->phy)) known.push_back(bus);
        }
    const auto slower = [](const catalog::Bus* a, const catalog::Bus* b) {
        return a->goodput.p50 < b->goodput.p50;
    };
    const catalog::Bus* limit =
        known.empty() ? nullptr : *std::min_element(known.begin(), known.end(), slower);
    if (limit != nullptr && known.size() == 2) {
        const Distribution d = Distribution::of(limit->goodput);
        Ceiling out = both(d,
                           limit->label + " socket: " + rangeText(limit->goodput) + " usable" +
                               (limit->halfDuplex ? ", both directions together" : ""),
                           {"plug and socket agree on " + limit->label, "raw rate " + plain(limit->raw),
                            "usable by a network adapter: " + rangeText(limit->goodput)},
                           limit->source);
        if (limit->halfDuplex) out.arithmetic.emplace_back("half duplex: one total for both directions");
        out.shared = limit->halfDuplex;
        return out;
    }
    std::vector<RateSpread> all;
    for (const catalog::Bus& bus : catalog.buses)
        if (bus.kind == kind && (limit == nullptr || !slower(limit, &bus))) all.push_back(bus.goodput);
    return both(
        anyOf(all), "socket of unknown generation",
        {"the generation is not known: any of " + std::to_string(all.size()) + " is taken as equally likely"},
        "working value");
}

} // namespace

const catalog::DeviceClass* slowerClass(const house::House& house, const Catalog& catalog,
                                        const house::Element& element, catalog::Family family) {
    const catalog::DeviceClass* slower = nullptr;
    for (const house::PortRef& end : {element.entry, element.exit}) {
        const house::Device* device = house.device(end.device);
        const catalog::DeviceClass* cls =
            device == nullptr ? nullptr : catalog.adapterOf(device->deviceClass, family);
        if (cls == nullptr) continue;
        if (slower == nullptr || cls->goodput.p50 < slower->goodput.p50) slower = cls;
    }
    return slower;
}

bool speakDifferently(const house::House& house, const Catalog& catalog, const house::Element& element,
                      catalog::Family family) {
    std::vector<const catalog::DeviceClass*> ends;
    for (const house::PortRef& end : {element.entry, element.exit})
        if (const house::Device* device = house.device(end.device))
            if (const catalog::DeviceClass* cls = catalog.adapterOf(device->deviceClass, family))
                ends.push_back(cls);
    return ends.size() == 2 && ends[0]->speaks != ends[1]->speaks;
}

namespace {

Ceiling bySituation(const house::House& house, const Catalog& catalog, const house::Element& element,
                    const house::Connection& connection) {
    const catalog::MediumClass* medium = catalog.medium(connection.medium);
    const catalog::Family family = catalog::familyOf(connection.medium);
    const catalog::DeviceClass* cls = slowerClass(house, catalog, element, family);
    std::vector<RateSpread> all;
    for (const catalog::DeviceClass& candidate : catalog.devices)
        if (cls == nullptr ? candidate.family == family : &candidate == cls)
            for (const auto& [situation, spread] : candidate.medium)
                if (connection.situation.empty() || situation == connection.situation) all.push_back(spread);
    const Distribution d = all.empty() ? Distribution::certain(noLink) : anyOf(all);
    std::string situation = "unknown surroundings";
    if (medium != nullptr)
        for (const catalog::Situation& s : medium->situations)
            if (s.id == connection.situation) situation = s.label;
    const std::string what = (medium == nullptr ? "medium" : medium->label) + ", " + situation;
    const int houses = cls == nullptr || !cls->refinedBy.contains(connection.situation)
                           ? 0
                           : cls->refinedBy.at(connection.situation);
    const std::string refined =
        houses == 0 ? "" : ", refined by " + quantity::counted(houses, "house") + " of one's own";
    Ceiling out = both(d, what + ": " + rangeText(d.spread()) + ", both directions together" + refined,
                       {what, cls == nullptr ? "adapters of unknown class" : "slower adapter: " + cls->label,
                        "one half-duplex total for both directions and all users: " + rangeText(d.spread())},
                       (cls == nullptr ? "working value" : cls->source) + refined);
    out.shared = true;
    return out;
}

Ceiling ofService(const house::House& house, const Catalog& catalog, const house::Element& element) {
    // Operators set more than they sell, as a rule; and what is sold above the box's own port towards them
    // does not arrive.
    const catalog::Phy* uplink = catalog.phy(house.service->uplink);
    const catalog::Spread<double>& share = catalog.serviceShare;
    const auto rate = [&](const std::optional<BitRate>& known) {
        const Distribution sold =
            known ? Distribution::of({*known * share.p10, *known * share.p50, *known * share.p90})
                  : Distribution::of(catalog.unknownService);
        return uplink == nullptr ? sold : sold.cappedAt(goodput(uplink->rate, {}));
    };
    const auto words = [](const std::optional<BitRate>& known) { return known ? plain(*known) : "unknown"; };
    const house::Service& service = *house.service;
    const bool atEnd = !element.entry.device.empty(); // forward goes out of the house
    Ceiling out = both(rate(atEnd ? service.up : service.down),
                       "service: " + words(service.down) + " down, " + words(service.up) + " up",
                       {"sold: down " + words(service.down) + ", up " + words(service.up) + "; of that " +
                            quantity::significant(share.p10 * 100, 3) + " to " +
                            quantity::significant(share.p90 * 100, 3) + " % arrive",
                        uplink == nullptr ? "the box's own port towards the operator is not known"
                                          : "the box's own port towards the operator: " + uplink->label +
                                                ", " + plain(goodput(uplink->rate, {})),
                        "what the operator sold; test it on its own, next to its box"},
                       "the service's contract");
    out.backward = rate(atEnd ? service.down : service.up);
    return out;
}

Ceiling ofStorage(const house::House& house, const Catalog& catalog, const house::Element& element) {
    const house::Device* device = house.device(element.device);
    const house::Storage storage = device != nullptr && device->storage ? *device->storage : house::Storage{};
    const catalog::DiskClass* disk = catalog.disk(storage.diskClass);
    const StorageRates rates = storageRates(catalog, storage);
    const std::string what = (storage.disks > 1 ? std::to_string(storage.disks) + " × " : std::string()) +
                             (disk == nullptr ? "disk of unknown class" : disk->label) +
                             (storage.disks > 1 ? ", " + std::string(house::name(storage.layout)) : "");
    const bool reads = !element.exit.device.empty(); // at `from`: forward reads
    Ceiling out = both(reads ? rates.read : rates.write,
                       what + ": reads " + rangeText(rates.read.spread()) + ", writes " +
                           rangeText(rates.write.spread()),
                       {what,
                        "sequential read " + rangeText(rates.read.spread()) + ", " +
                            quantity::plainBytes(rates.read.spread().p50),
                        "sequential write " + rangeText(rates.write.spread()) + ", " +
                            quantity::plainBytes(rates.write.spread().p50)},
                       disk == nullptr ? "working value" : disk->source);
    out.backward = reads ? rates.write : rates.read;
    return out;
}

Ceiling ofHost(const Catalog& catalog, const house::Device& device) {
    if (const catalog::HostClass* cls = catalog.host(device.deviceClass))
        return both(Distribution::of(cls->goodput),
                    cls->label + ": one core moves " + rangeText(cls->goodput),
                    {cls->label, "one core with its network stack: " + rangeText(cls->goodput)}, cls->source);
    std::vector<RateSpread> all;
    for (const catalog::HostClass& cls : catalog.hosts)
        all.push_back(cls.goodput);
    return both(anyOf(all), "machine of unknown class",
                {"the class is not known: any is taken as equally likely"}, "working value");
}

// Its ports tell what kind of box it is: adapters of a medium are as fast as their port, and of network
// adapters and switches only those are likely that have such ports.
Ceiling ofUnknownBox(const Catalog& catalog, const house::Device& device) {
    const catalog::Phy* fastest = nullptr;
    std::optional<house::PortKind> plug;
    bool speaks = false;
    for (const house::Port& port : device.ports) {
        const catalog::Phy* phy = port.kind == house::PortKind::ethernet ? catalog.phy(port.phy) : nullptr;
        if (phy != nullptr && (fastest == nullptr || phy->rate > fastest->rate)) fastest = phy;
        if (port.kind == house::PortKind::usb || port.kind == house::PortKind::pcie) plug = port.kind;
        speaks = speaks || port.kind == house::PortKind::coax || port.kind == house::PortKind::mains ||
                 port.kind == house::PortKind::radio;
    }
    if (device.kind == house::DeviceKind::adapter && speaks)
        return both(Distribution::certain(BitRate::megabits(10e3)),
                    "adapter of unknown class: its ports decide",
                    {"the class is not known; its own bridge keeps up with its port"}, "working value");
    std::vector<RateSpread> all;
    const auto collect = [&](bool alike) {
        for (const catalog::DeviceClass& cls : catalog.devices) {
            const bool isSwitch =
                cls.family == catalog::Family::network_switch || cls.family == catalog::Family::router;
            if (isSwitch != (device.kind != house::DeviceKind::adapter) || catalog::isOfMedium(cls.family))
                continue;
            const catalog::Bus* bus = catalog.bus(cls.busPhy);
            if (alike && ((fastest != nullptr && cls.ethernetPhy != fastest->id) ||
                          (plug && (bus == nullptr || bus->kind != *plug))))
                continue;
            all.push_back(cls.goodput);
        }
    };
    collect(true);
    if (all.empty()) collect(false);
    return both(anyOf(all), "box of unknown class",
                {"the class is not known: any with such ports is taken as equally likely"}, "working value");
}

Ceiling ofBox(const Catalog& catalog, const house::Device& device) {
    // What an adapter of a shared medium carries is the medium's business, where its class is reckoned with;
    // the box has no cap of its own below its Ethernet port.
    if (const catalog::DeviceClass* cls = catalog.device(device.deviceClass);
        cls != nullptr && catalog::isOfMedium(cls->family))
        if (const catalog::Phy* phy = catalog.phy(cls->ethernetPhy))
            return both(Distribution::certain(goodput(phy->rate, {})),
                        cls->label + ": no less than its " + phy->label + " port lets through",
                        {cls->label, "rated " + plain(cls->rated) + ", which the medium decides about",
                         "its own bridge keeps up with its " + phy->label + " port"},
                        cls->source);
    if (const catalog::DeviceClass* cls = catalog.device(device.deviceClass)) {
        std::vector<std::string> arithmetic{cls->label, "the box itself carries " + rangeText(cls->goodput)};
        if (cls->rated > BitRate()) arithmetic.insert(arithmetic.begin() + 1, "rated " + plain(cls->rated));
        return both(Distribution::of(cls->goodput), cls->label + ": " + rangeText(cls->goodput),
                    std::move(arithmetic), cls->source);
    }
    return ofUnknownBox(catalog, device);
}

} // namespace

Ceiling ceilingOf(const house::House& house, const Catalog& catalog, const house::Element& element,
                  const Framing& framing, const Plants* plants) {
    if (const house::Connection* connection = house.connection(element.connection)) {
        if (element.kind == ElementKind::cable) return ofCable(house, catalog, *connection, element, framing);
        if (element.kind == ElementKind::bus) return ofBus(house, catalog, element);
        if (speakDifferently(house, catalog, element, catalog::familyOf(connection->medium)))
            return both(Distribution::certain(noLink),
                        "no link: its adapters are of two families that do not hear each other", {},
                        "IEEE 1901, ITU-T G.9960: other frames, other modulation");
        auto surveyed = plants != nullptr
                            ? ofPlant(house, catalog, element, *connection, *plants)
                            : ofPlant(house, catalog, element, *connection, Plants(house, catalog));
        if (surveyed) return *surveyed;
        return bySituation(house, catalog, element, *connection);
    }
    if (element.kind == ElementKind::service && house.service) return ofService(house, catalog, element);
    if (element.kind == ElementKind::storage) return ofStorage(house, catalog, element);
    if (const house::Port* port = house.port({element.device, element.port})) {
        const house::Connection* cable = house.cableAt({element.device, element.port});
        return ofPort(catalog, *port, cable == nullptr ? std::nullopt : cable->linkedAt, framing);
    }
    if (const house::Device* device = house.device(element.device))
        return device->kind == house::DeviceKind::host ? ofHost(catalog, *device) : ofBox(catalog, *device);
    return both(Distribution::certain(noLink), "not in the house", {}, "");
}

Framing framingOf(const house::Route& route) {
    Framing framing;
    framing.mtu = route.mtu;
    framing.vlanTag = route.vlanTag;
    framing.ipVersion = route.ipVersion;
    return framing;
}

} // namespace metrodos::capacity
