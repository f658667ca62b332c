#include "house/edit.h"

#include <algorithm>

namespace metrodos::house {
namespace {

using quantity::problem;
using quantity::Result;

Result<Chain> chainFor(const House& house, const Route& route) {
    return findRoute(house, route.from, route.to).map(chainOf);
}

// Points the two ends of link k at the units on both sides of it, or plugs the units into the jacks of a run.
void rewire(House& house, const Chain& chain) {
    for (const Unit& unit : chain.units)
        for (const PortRef& ref : {unit.in, unit.out})
            if (Port* port = house.port(ref)) port->jack.clear();
    for (std::size_t k = 0; k < chain.links.size(); ++k) {
        const Link& link = chain.links[k];
        const auto join = [&](const PortRef& unit, const Id& jack) {
            if (Port* port = jack.empty() ? nullptr : house.port(unit)) port->jack = jack;
            return jack.empty() ? unit : PortRef{jack, ""};
        };
        std::vector<PortRef> ends{join(chain.units[k].out, link.nearJack),
                                  join(chain.units[k + 1].in, link.farJack)};
        Connection* cable = house.connection(link.connection);
        if (cable == nullptr || cable->ends == ends) continue;
        cable->ends = std::move(ends);
        cable->linkedAt.reset(); // that was between other ports
        cable->halfDuplex = false;
    }
}

bool isInner(const Chain& chain, std::size_t unit) {
    return unit > 0 && unit + 1 < chain.units.size();
}

Device newBox(House& house, const NewUnit& unit, const std::string& label) {
    Device device;
    device.id = house.freeId(unit.deviceClass.empty() ? "box" : [&] {
        std::string stem;
        for (const char c : unit.deviceClass)
            stem.push_back(isId(std::string_view(&c, 1)) ? c : '-');
        return stem.substr(0, 48);
    }());
    device.label = label;
    device.kind = unit.kind;
    device.deviceClass = unit.deviceClass;
    return device;
}

Unit addCrossing(House& house, const NewUnit& unit) {
    Unit added;
    Connection medium;
    medium.medium = *unit.crossing;
    medium.label = unit.label;
    for (const char* side : {"near", "far"}) {
        Device box = newBox(house, unit, unit.label + ", " + side);
        box.kind = DeviceKind::adapter;
        box.ports = {{"lan", "LAN", PortKind::ethernet, unit.ethernetPhy},
                     {"line", "line", portFor(*unit.crossing), ""}};
        medium.ends.push_back({box.id, "line"});
        added.devices.push_back(box.id);
        house.devices.push_back(std::move(box));
    }
    medium.id = house.freeId(std::string(name(*unit.crossing)));
    added.connections = {medium.id};
    added.in = {added.devices.front(), "lan"};
    added.out = {added.devices.back(), "lan"};
    house.connections.push_back(std::move(medium));
    return added;
}

Unit addBox(House& house, const NewUnit& unit) {
    Device box = newBox(house, unit, unit.label);
    box.ports = {{"p1", "port 1", PortKind::ethernet, unit.ethernetPhy},
                 {"p2", "port 2", PortKind::ethernet, unit.ethernetPhy}};
    Unit added;
    added.devices = {box.id};
    added.in = {box.id, "p1"};
    added.out = {box.id, "p2"};
    house.devices.push_back(std::move(box));
    return added;
}

bool usedElsewhere(const Chain& chain, const Unit& unit, const Connection& connection) {
    if (chain.linkOf(connection.id) != chain.links.size()) return false;
    if (std::find(unit.connections.begin(), unit.connections.end(), connection.id) != unit.connections.end())
        return false;
    return std::any_of(connection.ends.begin(), connection.ends.end(), [&](const PortRef& end) {
        return std::find(unit.devices.begin(), unit.devices.end(), end.device) != unit.devices.end();
    });
}

} // namespace

Result<House> insertUnit(const House& house, const Route& route, const Id& link, const NewUnit& unit) {
    auto chain = chainFor(house, route);
    if (!chain) return tl::unexpected(chain.error());
    const std::size_t at = chain->linkOf(link);
    if (at == chain->links.size())
        return problem("a box can only be put into a data cable", "", "select the cable where it should go");
    House out = house;
    const Unit added = unit.crossing ? addCrossing(out, unit) : addBox(out, unit);
    Connection patch;
    patch.id = out.freeId("patch");
    patch.label = "patch lead";
    patch.cableClass = unit.patchCategory;
    patch.length = quantity::Length::metres(1);
    const auto behind = static_cast<std::ptrdiff_t>(at) + 1;
    chain->units.insert(chain->units.begin() + behind, added);
    // The cable stays on the near side, into the jack it ended in if there is one.
    chain->links.insert(chain->links.begin() + behind, Link{patch.id, "", ""});
    out.connections.push_back(std::move(patch));
    rewire(out, *chain);
    return out;
}

Result<House> removeUnit(const House& house, const Route& route, const Id& id) {
    auto chain = chainFor(house, route);
    if (!chain) return tl::unexpected(chain.error());
    const std::size_t at = chain->unitOf(id);
    if (at == chain->units.size())
        return problem("a cable or port goes with the box that it belongs to", "",
                       "select the box and remove that");
    if (!isInner(*chain, at))
        return problem("the machines at the ends of a route cannot be removed from it", "",
                       "choose another route");
    const Unit unit = chain->units[at];
    for (const Connection& connection : house.connections)
        if (usedElsewhere(*chain, unit, connection))
            return problem("another cable, “" + connection.label + "”, is plugged into it", "",
                           "unplug that first");

    House out = house;
    // One of its two cables goes with it: a lead rather than a run in the wall.
    const auto isRun = [&](std::size_t k) {
        return !chain->links[k].nearJack.empty() || !chain->links[k].farJack.empty();
    };
    const std::size_t goes = isRun(at) && !isRun(at - 1) ? at - 1 : at;
    if (isRun(goes))
        return problem("runs in the wall end on both sides of it", "",
                       "exchange the box for one of another class instead");
    const Id dropped = chain->links[goes].connection;
    for (const Id& medium : unit.connections) {
        Connection* shared = out.connection(medium);
        std::erase_if(shared->ends, [&](const PortRef& end) {
            return std::find(unit.devices.begin(), unit.devices.end(), end.device) != unit.devices.end();
        });
    }
    std::erase_if(out.connections, [&](const Connection& connection) {
        const bool inside = std::find(unit.connections.begin(), unit.connections.end(), connection.id) !=
                            unit.connections.end();
        return connection.id == dropped || (inside && connection.ends.size() < 2);
    });
    std::erase_if(out.devices, [&](const Device& device) {
        return std::find(unit.devices.begin(), unit.devices.end(), device.id) != unit.devices.end();
    });
    const auto position = static_cast<std::ptrdiff_t>(at);
    chain->units.erase(chain->units.begin() + position);
    chain->links.erase(chain->links.begin() + static_cast<std::ptrdiff_t>(goes));
    rewire(out, *chain);
    return out;
}

PortRef portOfPlace(const std::string& place) {
    const std::size_t dot = place.find('.');
    return dot == std::string::npos ? PortRef{place, ""}
                                    : PortRef{place.substr(0, dot), place.substr(dot + 1)};
}

std::string labelOfPlace(const House& house, const std::string& place) {
    return house.labelOf(portOfPlace(place));
}

Result<House> pluggedAt(const House& house, const Id& element, const std::string& place) {
    House out = house;
    const auto unfit = [&] {
        return problem("nothing of “" + element + "” can be plugged in at “" + place + "”", "",
                       "look at what the survey says now");
    };
    if (const Jack* jack = house.jack(place)) {
        const Connection* medium = house.connection(element);
        if (medium == nullptr) return unfit();
        for (const PortRef& end : medium->ends) {
            Port* port = out.port(end);
            const Jack* now = port == nullptr ? nullptr : house.jack(port->jack);
            if (now == nullptr || now->room != jack->room || now->kind != jack->kind) continue;
            if (port->jack != place) port->strip = Strip::unknown; // as noted of the outlet
            port->jack = place;
            return out;
        }
        return unfit();
    }
    const PortRef wanted = portOfPlace(place);
    if (house.port(wanted) == nullptr) return unfit();
    for (Connection& c : out.connections)
        for (PortRef& end : c.ends) {
            const bool isIt = end.device == wanted.device && (c.id == element || end == portOfPlace(element));
            if (!isIt) continue;
            if (end == wanted) return out;
            const bool isTaken =
                std::any_of(house.connections.begin(), house.connections.end(), [&](const Connection& other) {
                    return std::find(other.ends.begin(), other.ends.end(), wanted) != other.ends.end();
                });
            if (isTaken || house.port(end) == nullptr || house.port(end)->kind != house.port(wanted)->kind)
                return unfit();
            end = wanted;
            c.linkedAt.reset(); // it was read at the other one
            c.halfDuplex = false;
            return out;
        }
    return unfit();
}

Result<House> moveUnit(const House& house, const Route& route, const Id& id, int step) {
    auto chain = chainFor(house, route);
    if (!chain) return tl::unexpected(chain.error());
    const std::size_t at = chain->unitOf(id);
    if (at == chain->units.size())
        return problem("a cable or port moves with the box that it belongs to", "",
                       "select the box and move that");
    const std::size_t target = step > 0 ? at + 1 : at - 1; // wraps for 0, which isInner refuses
    if (!isInner(*chain, at) || !isInner(*chain, target))
        return problem("it cannot move past the machine at the end of the route", "",
                       "move it the other way");
    std::swap(chain->units[at], chain->units[target]);
    House out = house;
    rewire(out, *chain);
    return out;
}

} // namespace metrodos::house
