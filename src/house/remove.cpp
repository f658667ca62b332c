#include "house/remove.h"

#include <algorithm>

namespace metrodos::house {
namespace {

template <typename Items>
bool drop(Items& items, const Id& id) {
    return std::erase_if(items, [&](const auto& item) { return item.id == id; }) > 0;
}

bool isUsed(const House& house, const Id& room) {
    const auto inside = [&](const auto& items) {
        return std::any_of(items.begin(), items.end(), [&](const auto& item) { return item.room == room; });
    };
    return inside(house.devices) || inside(house.jacks) || inside(house.coaxParts) || inside(house.panels) ||
           inside(house.spots);
}

// Networks and cables that cannot be without the end that is gone.
void mendConnections(House& house, const Id& gone) {
    std::erase_if(house.connections, [&](Connection& c) {
        const bool touched =
            std::erase_if(c.ends, [&](const PortRef& end) { return end.device == gone; }) > 0;
        const bool isRun =
            jackOf(c.medium) && std::none_of(c.ends.begin(), c.ends.end(), [&](const PortRef& end) {
                return isShared(c.medium) && house.device(end.device) != nullptr;
            });
        return touched && c.ends.size() < (isRun ? 1U : 2U);
    });
}

void mendRoutes(House& house) {
    std::erase_if(house.endpoints, [&](const Endpoint& e) { return house.device(e.device) == nullptr; });
    if (house.service && house.device(house.service->device) == nullptr) house.service.reset();
    std::erase_if(house.routes, [&](const Route& r) {
        return house.deviceAt(r.from).empty() || house.deviceAt(r.to).empty();
    });
    std::erase_if(house.schedules, [&](const Schedule& s) { return house.route(s.route) == nullptr; });
    for (Trial& trial : house.trials)
        std::erase_if(trial.steps, [&](const TrialStep& s) { return house.route(s.route) == nullptr; });
    std::erase_if(house.trials, [](const Trial& t) { return t.steps.empty(); });
}

} // namespace

quantity::Result<House> without(const House& house, const Id& thing) {
    House out = house;
    if (house.room(thing) != nullptr && isUsed(house, thing))
        return quantity::problem("there are still things in the room “" + house.room(thing)->label + "”", "",
                                 "move or remove them first");
    bool found = drop(out.rooms, thing) | drop(out.devices, thing) | drop(out.jacks, thing) |
                 drop(out.coaxParts, thing) | drop(out.panels, thing) | drop(out.circuits, thing) |
                 drop(out.appliances, thing) | drop(out.spots, thing) | drop(out.trials, thing) |
                 drop(out.schedules, thing) | drop(out.endpoints, thing) | drop(out.routes, thing) |
                 drop(out.connections, thing);
    if (out.service && out.service->id == thing) {
        out.service.reset();
        found = true;
    }
    if (!found) return quantity::problem("there is no “" + thing + "”", "", "choose a thing that is there");
    mendConnections(out, thing);
    for (Device& device : out.devices)
        for (Port& port : device.ports)
            if (port.jack == thing) port.jack.clear();
    for (Panel& panel : out.panels)
        if (panel.fedBy == thing) panel.fedBy.clear();
    for (Circuit& circuit : out.circuits) {
        if (circuit.panel == thing) circuit.panel.clear();
        std::erase_if(circuit.outlets, [&](const CircuitOutlet& o) { return o.jack == thing; });
    }
    for (Appliance& appliance : out.appliances)
        if (appliance.outlet == thing) appliance.outlet.clear();
    for (Spot& spot : out.spots) {
        if (spot.device == thing) spot.device.clear();
        if (spot.peer == thing) spot.peer.clear();
        for (Use& use : spot.uses)
            if (use.peer == thing) use.peer.clear();
    }
    std::erase_if(out.weighing.plan, [&](const Choice& choice) { return choice.spot == thing; });
    std::erase(out.fitting.planned, thing);
    std::erase_if(out.fitting.hints, [&](const FitHint& h) { return h.thing == thing; });
    std::erase_if(out.fitting.codes, [&](const LabelCode& c) { return c.thing == thing; });
    std::erase_if(out.addressing.ports, [&](const PortAddress& p) { return p.device == thing; });
    for (Connection& connection : out.connections)
        std::erase_if(connection.phyRates,
                      [&](const PhyReading& r) { return r.from == thing || r.to == thing; });
    mendRoutes(out);
    return out;
}

} // namespace metrodos::house
