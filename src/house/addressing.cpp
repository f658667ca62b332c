#include "house/addressing.h"

#include "house/route.h"
#include "quantity/ascii.h"
#include "quantity/text.h"

#include <algorithm>
#include <limits>
#include <map>
#include <set>

namespace metrodos::house {
namespace {

using quantity::inQuotes;
using quantity::IpAddress;
using quantity::IpPrefix;

std::optional<IpAddress> addressOf(const std::string& text) {
    const auto read = IpAddress::parse(text);
    return read ? std::optional(*read) : std::nullopt;
}

template <typename Items>
Id freeIdIn(const Items& items, const std::string& stem) {
    for (int n = 1;; ++n) {
        Id id = stem + std::to_string(n);
        if (std::none_of(items.begin(), items.end(), [&](const auto& item) { return item.id == id; }))
            return id;
    }
}

// A network whose texts are read; what cannot be read is not there.
struct Known {
    const Network* network = nullptr;
    std::optional<IpPrefix> prefix;
    std::optional<IpAddress> gateway;
    std::optional<IpAddress> poolFrom;
    std::optional<IpAddress> poolTo;

    explicit Known(const Network& n)
        : network(&n)
        , gateway(addressOf(n.gateway))
        , poolFrom(addressOf(n.poolFrom))
        , poolTo(addressOf(n.poolTo)) {
        if (const auto read = IpPrefix::parse(n.prefix)) prefix = *read;
    }
    [[nodiscard]] bool hasPool() const { return poolFrom && poolTo && poolFrom->isV4() == poolTo->isV4(); }
    [[nodiscard]] bool inPool(const IpAddress& a) const {
        return hasPool() && a.isV4() == poolFrom->isV4() && *poolFrom <= a && a <= *poolTo;
    }
    [[nodiscard]] bool isForHosts(const IpAddress& a) const {
        return prefix->firstHost() <= a && a <= prefix->lastHost();
    }
};

const Network* networkOf(const Addressing& plan, const Id& id) {
    const auto it = std::find_if(plan.networks.begin(), plan.networks.end(),
                                 [&](const Network& n) { return n.id == id; });
    return it == plan.networks.end() ? nullptr : &*it;
}

// Addresses of the plan that lie in this network: of ports, whichever network they are noted under, and of
// the gateway. `fixedOnly`: without those that are reserved.
std::set<IpAddress> usedIn(const Addressing& plan, const Known& known, bool fixedOnly) {
    std::set<IpAddress> out;
    if (known.gateway && known.prefix->contains(*known.gateway)) out.insert(*known.gateway);
    for (const PortAddress& p : plan.ports) {
        const auto address = addressOf(p.address);
        if (address && known.prefix->contains(*address) && !(fixedOnly && p.kind == AddressKind::reserved))
            out.insert(*address);
    }
    return out;
}

class Finder {
  public:
    explicit Finder(const House& house)
        : m_house(house)
        , m_plan(house.addressing) {
        for (const Network& n : m_plan.networks)
            m_known.emplace_back(n);
    }

    std::vector<Clash> all() {
        for (std::size_t i = 0; i < m_known.size(); ++i) {
            network(m_known[i]);
            for (std::size_t k = 0; k < i; ++k)
                overlap(m_known[k], m_known[i]);
        }
        for (const PortAddress& p : m_plan.ports)
            port(p);
        twice();
        return std::move(m_out);
    }

  private:
    void add(ClashKind kind, const Id& network, const Id& address, std::string what, std::string mend,
             std::optional<Addressing> mended = {}) {
        m_out.push_back({kind, network, address, std::move(what), std::move(mend), std::move(mended)});
    }
    [[nodiscard]] std::string labelOf(const PortAddress& p) const {
        const Device* device = m_house.device(p.device);
        const std::string label = m_house.labelOf({p.device, p.port});
        return device == nullptr || m_house.port({p.device, p.port}) == nullptr
                   ? "a port that is gone (" + (p.address.empty() ? p.id : p.address) + ")"
                   : label;
    }
    // The plan with one network in another form.
    [[nodiscard]] Addressing with(const Network& next) const {
        Addressing out = m_plan;
        for (Network& n : out.networks)
            if (n.id == next.id) n = next;
        return out;
    }
    [[nodiscard]] Addressing with(const PortAddress& next) const {
        Addressing out = m_plan;
        for (PortAddress& p : out.ports)
            if (p.id == next.id) p = next;
        return out;
    }

    void network(const Known& k) {
        const Network& n = *k.network;
        const auto bad = [&](const std::string& what, const std::string& text, const std::string& example) {
            add(ClashKind::bad_network, n.id, "",
                "the " + what + " of “" + n.label + "”, " + inQuotes(text) + ", cannot be read",
                "write it like " + example);
        };
        if (!k.prefix) return bad("prefix", n.prefix, "192.0.2.0/24");
        if (!n.gateway.empty() && !k.gateway) bad("gateway", n.gateway, "192.0.2.1");
        if (!n.poolFrom.empty() && !k.poolFrom) bad("pool’s first address", n.poolFrom, "192.0.2.100");
        if (!n.poolTo.empty() && !k.poolTo) bad("pool’s last address", n.poolTo, "192.0.2.199");
        if (n.poolFrom.empty() != n.poolTo.empty())
            bad("pool", n.poolFrom + n.poolTo, "192.0.2.100 to 192.0.2.199, with both ends");
        if (k.gateway && (!k.prefix->contains(*k.gateway) || !k.isForHosts(*k.gateway))) {
            Network next = n;
            next.gateway = k.prefix->firstHost().text();
            const auto mended = usedIn(m_plan, k, false).contains(k.prefix->firstHost())
                                    ? std::nullopt
                                    : std::optional(with(next));
            add(ClashKind::gateway_outside, n.id, "",
                "the gateway " + n.gateway + " is no host of " + k.prefix->text() + ", the network “" +
                    n.label + "”",
                mended ? "read at the router which it is; usual is " + next.gateway
                       : "read at the router which it is",
                mended);
        }
        if (!k.poolFrom || !k.poolTo) return;
        const bool isInside = k.prefix->contains(*k.poolFrom) && k.prefix->contains(*k.poolTo) &&
                              k.isForHosts(*k.poolFrom) && k.isForHosts(*k.poolTo);
        if (!isInside || *k.poolTo < *k.poolFrom) {
            add(ClashKind::pool_outside, n.id, "",
                "the automatic pool of “" + n.label + "” is not a range of hosts of " + k.prefix->text(),
                "write its first and its last address as the router shows them");
            return;
        }
        if (k.gateway && k.inPool(*k.gateway)) {
            const auto next = shiftedPool(m_plan, n);
            add(ClashKind::gateway_in_pool, n.id, "",
                "the gateway " + n.gateway + " lies in the automatic pool of “" + n.label + "”",
                next ? "let the pool go from " + next->poolFrom + " to " + next->poolTo
                     : "make the pool smaller",
                next ? std::optional(with(*next)) : std::nullopt);
        }
    }

    void overlap(const Known& a, const Known& b) {
        if (!a.prefix || !b.prefix) return;
        if (!a.prefix->contains(b.prefix->first) && !b.prefix->contains(a.prefix->first)) return;
        add(ClashKind::overlap, b.network->id, "",
            "“" + a.network->label + "” and “" + b.network->label + "” have addresses in common",
            "give one of them another prefix, or take it out: routers do not know which is meant");
    }

    // The mend that gives the port another address, where one is free.
    void move(ClashKind kind, const PortAddress& p, const Known& k, const std::string& what) {
        if (const auto free = freeAddress(m_plan, *k.network)) {
            PortAddress next = p;
            next.address = free->text();
            return add(kind, p.network, p.id, what, "give it " + next.address, with(next));
        }
        const auto shifted = shiftedPool(m_plan, *k.network);
        add(kind, p.network, p.id, what, "make room: no address outside the pool is free",
            shifted ? std::optional(with(*shifted)) : std::nullopt);
        const bool isNew = std::none_of(m_out.begin(), m_out.end(), [&](const Clash& c) {
            return c.kind == ClashKind::none_left && c.network == k.network->id;
        });
        if (isNew)
            add(ClashKind::none_left, k.network->id, "",
                "no address of “" + k.network->label + "” is free outside the automatic pool",
                "make the pool smaller, or the network larger");
    }

    void port(const PortAddress& p) {
        const Network* n = networkOf(m_plan, p.network);
        if (m_house.port({p.device, p.port}) == nullptr || n == nullptr) {
            Addressing without = m_plan;
            std::erase_if(without.ports, [&](const PortAddress& other) { return other.id == p.id; });
            return add(ClashKind::gone, n == nullptr ? Id() : n->id, p.id,
                       n == nullptr ? "the network of " + labelOf(p) + " is not there any more"
                                    : "the port that had " + p.address + " is not there any more",
                       "take the address out of the plan", std::move(without));
        }
        const Known k(*n);
        if (!k.prefix) return; // said of the network
        if (p.address.empty())
            return move(ClashKind::missing, p, k, labelOf(p) + " has no address in “" + n->label + "” yet");
        const auto address = addressOf(p.address);
        if (!address)
            return move(ClashKind::bad_address, p, k,
                        inQuotes(p.address) + " of " + labelOf(p) + " cannot be read");
        if (!k.prefix->contains(*address)) {
            // It may be another network's.
            for (const Known& other : m_known)
                if (other.prefix && other.prefix->contains(*address)) {
                    PortAddress next = p;
                    next.network = other.network->id;
                    return add(ClashKind::wrong_network, n->id, p.id,
                               p.address + " of " + labelOf(p) + " is not in “" + n->label + "”, " +
                                   k.prefix->text(),
                               "note it under “" + other.network->label + "”, or give it another address",
                               with(next));
                }
            return move(ClashKind::wrong_network, p, k,
                        p.address + " of " + labelOf(p) + " is not in “" + n->label + "”, " +
                            k.prefix->text());
        }
        if (!k.isForHosts(*address))
            return move(ClashKind::not_for_hosts, p, k,
                        p.address + " of " + labelOf(p) + " is no address for a host in " + k.prefix->text());
        if (p.kind == AddressKind::fixed && k.inPool(*address)) {
            const std::string what = p.address + " is fixed on " + labelOf(p) +
                                     " and lies in the automatic pool: the router may give it to another";
            if (const auto next = shiftedPool(m_plan, *n))
                add(ClashKind::inside_pool, n->id, p.id, what,
                    "let the pool go from " + next->poolFrom + " to " + next->poolTo, with(*next));
            else
                move(ClashKind::inside_pool, p, k, what);
        }
        if (p.kind == AddressKind::reserved && p.hardware.empty()) {
            PortAddress next = p;
            next.kind = AddressKind::fixed;
            const bool outside = !k.inPool(*address);
            add(ClashKind::no_hardware, n->id, p.id,
                "the reservation of " + p.address + " for " + labelOf(p) + " has no hardware address",
                "read it from the machine or its box" +
                    std::string(outside ? ", or fix the address on the host" : ""),
                outside ? std::optional(with(next)) : std::nullopt);
        }
    }

    void twice() {
        std::map<IpAddress, std::string> had;
        std::map<std::pair<Id, std::string>, std::string> reserved; // by network and hardware address
        for (const PortAddress& p : m_plan.ports) {
            const Network* n = networkOf(m_plan, p.network);
            if (n == nullptr || m_house.port({p.device, p.port}) == nullptr) continue;
            const Known k(*n);
            if (!k.prefix) continue;
            const auto hardware = quantity::parseHardwareAddress(p.hardware);
            if (hardware && p.kind == AddressKind::reserved) {
                const auto [first, isFirst] = reserved.try_emplace({n->id, *hardware}, labelOf(p));
                if (!isFirst)
                    add(ClashKind::twice_reserved, n->id, p.id,
                        first->second + " and " + labelOf(p) + " are reserved by the same hardware address",
                        "read both again: each port has its own");
            }
            const auto address = addressOf(p.address);
            if (!address) continue;
            // The gateway's own box may be in the plan with its own address: two of them may not.
            if (k.gateway == address && !isRouter(p)) had.try_emplace(*address, "the gateway");
            const auto [first, isFirst] = had.try_emplace(*address, labelOf(p));
            if (!isFirst)
                move(ClashKind::twice, p, k,
                     p.address + " is given to " + first->second + " and to " + labelOf(p));
        }
    }
    [[nodiscard]] bool isRouter(const PortAddress& p) const {
        const Device* device = m_house.device(p.device);
        return device != nullptr && device->kind == DeviceKind::router;
    }

    const House& m_house;
    const Addressing& m_plan;
    std::vector<Known> m_known;
    std::vector<Clash> m_out;
};

// A label as RFC 1123 has it: letters, digits and hyphens between them, at most 63.
std::string asName(const std::string& label) {
    std::string out;
    for (const char c : label) {
        if (quantity::ascii::isLetterOrDigit(c))
            out += quantity::ascii::lower(c);
        else if (!out.empty() && out.back() != '-')
            out += '-';
        if (out.size() == 40) break;
    }
    while (!out.empty() && out.back() == '-')
        out.pop_back();
    return out.empty() ? "host" : out;
}

// One address a line: text that comes after a # in files that others read.
std::string comment(const std::string& text) {
    return "# " + quantity::oneLine(text) + "\n";
}

} // namespace

std::vector<Clash> clashesOf(const House& house) {
    return Finder(house).all();
}

std::optional<IpAddress> freeAddress(const Addressing& addressing, const Network& network) {
    const Known known(network);
    if (!known.prefix) return std::nullopt;
    const std::set<IpAddress> used = usedIn(addressing, known, false);
    std::optional<IpAddress> at = known.prefix->firstHost();
    while (at && *at <= known.prefix->lastHost()) {
        if (known.inPool(*at))
            at = known.poolTo->plus(1);
        else if (used.contains(*at))
            at = at->plus(1);
        else
            return at;
    }
    return std::nullopt;
}

Id freeNetworkId(const Addressing& addressing) {
    return freeIdIn(addressing.networks, "net-");
}

Id freeAddressId(const Addressing& addressing) {
    return freeIdIn(addressing.ports, "address-");
}

std::optional<Network> shiftedPool(const Addressing& addressing, const Network& network) {
    const Known known(network);
    if (!known.prefix || !known.hasPool() || *known.poolTo < *known.poolFrom ||
        !known.prefix->contains(*known.poolFrom) || !known.prefix->contains(*known.poolTo))
        return std::nullopt;
    const std::set<IpAddress> fixed = usedIn(addressing, known, true);
    const bool canStay =
        std::none_of(fixed.begin(), fixed.end(), [&](const IpAddress& a) { return known.inPool(a); });
    if (canStay) return std::nullopt;
    struct Gap {
        IpAddress from;
        IpAddress to;
    };
    std::vector<Gap> gaps;
    std::optional<IpAddress> from = known.prefix->firstHost();
    const IpAddress end = known.prefix->lastHost();
    for (const IpAddress& taken : fixed) {
        if (!from || taken < *from) continue;
        if (*from < taken) gaps.push_back({*from, *taken.minus(1)});
        from = taken.plus(1);
    }
    if (from && *from <= end) gaps.push_back({*from, end});
    if (gaps.empty()) return std::nullopt;
    // Addresses less one: a pool of the whole of IPv6 has more than can be counted.
    const std::uint64_t size = known.poolFrom->distanceTo(*known.poolTo);
    std::optional<Gap> best;
    std::uint64_t bestSize = 0;
    std::uint64_t bestWay = 0;
    for (const Gap& gap : gaps) {
        const std::uint64_t room = std::min(gap.from.distanceTo(gap.to), size);
        // As near to where it was as the gap allows.
        IpAddress start = std::max(gap.from, *known.poolFrom);
        const IpAddress latest = gap.to.minus(room).value_or(gap.from);
        if (latest < start) start = std::max(latest, gap.from);
        const std::uint64_t way = start.distanceTo(*known.poolFrom) + known.poolFrom->distanceTo(start);
        if (best && (room < bestSize || (room == bestSize && way >= bestWay))) continue;
        best = Gap{start, start.plus(room).value_or(gap.to)};
        bestSize = room;
        bestWay = way;
    }
    Network out = network;
    out.poolFrom = best->from.text();
    out.poolTo = best->to.text();
    return out;
}

std::optional<PortRef> portAt(const House& house, std::string_view address) {
    const auto wanted = IpAddress::parse(quantity::hostOf(address));
    if (!wanted) return std::nullopt;
    for (const PortAddress& p : house.addressing.ports)
        if (addressOf(p.address) == *wanted && house.port({p.device, p.port}) != nullptr)
            return PortRef{p.device, p.port};
    return std::nullopt;
}

std::vector<std::string> wrongPorts(const House& house, const Route& route) {
    std::vector<std::string> out;
    const auto elements = RouteFinder(house).find(route);
    if (!elements) return out;
    std::set<PortRef> passed;
    for (const Element& e : *elements)
        for (const PortRef& ref : {e.entry, e.exit, PortRef{e.device, e.port}})
            passed.insert(ref);
    for (const Id& end : {route.from, route.to}) {
        const Endpoint* endpoint = house.endpoint(end);
        if (endpoint == nullptr) continue;
        const auto port = portAt(house, endpoint->address);
        if (!port || passed.contains(*port)) continue;
        out.push_back(endpoint->label + " is asked for at " + quantity::hostOf(endpoint->address) +
                      ", which is " + house.labelOf(*port) + ": that port is under test, and “" +
                      route.label + "” does not pass it");
    }
    return out;
}

std::map<Id, std::string> hostNames(const House& house) {
    // The first of its name has it alone; the others say their port, and a number where that is taken too.
    std::set<std::string> taken;
    std::map<Id, std::string> out;
    for (const PortAddress& p : house.addressing.ports) {
        const Device* device = house.device(p.device);
        std::string name = asName(device == nullptr ? p.device : device->label);
        if (taken.contains(name)) name += "-" + asName(p.port).substr(0, 12);
        const std::string stem = name;
        for (int n = 2; taken.contains(name); ++n)
            name = stem + "-" + std::to_string(n);
        taken.insert(name);
        out.emplace(p.id, name);
    }
    return out;
}

std::string hostsFile(const House& house) {
    const auto names = hostNames(house);
    std::string out = comment("Hosts of " + house.name);
    for (const PortAddress& p : house.addressing.ports)
        if (const auto address = addressOf(p.address)) out += address->text() + "\t" + names.at(p.id) + "\n";
    return out;
}

std::string reservations(const House& house, ReservationSyntax syntax) {
    const auto names = hostNames(house);
    std::string out = comment("Reservations of " + house.name);
    for (const PortAddress& p : house.addressing.ports) {
        const auto address = addressOf(p.address);
        if (p.kind != AddressKind::reserved || !address) continue;
        const std::string& name = names.at(p.id);
        const auto hardware = quantity::parseHardwareAddress(p.hardware);
        if (!hardware) {
            out += comment(name + ", " + address->text() + ": its hardware address is not known");
            continue;
        }
        const std::string where = address->text();
        if (syntax == ReservationSyntax::lines)
            out += "dhcp-host=" + *hardware + "," + (address->isV4() ? where : "[" + where + "]") + "," +
                   name + "\n";
        else
            out += "host " + name + " { hardware ethernet " + *hardware + "; fixed-address" +
                   (address->isV4() ? " " : "6 ") + where + "; }\n";
    }
    return out;
}

} // namespace metrodos::house
