#include "house/chain.h"

#include <algorithm>

namespace metrodos::house {

std::size_t Chain::unitOf(const Id& deviceOrConnection) const {
    const auto holds = [&](const Unit& unit) {
        return std::find(unit.devices.begin(), unit.devices.end(), deviceOrConnection) !=
                   unit.devices.end() ||
               std::find(unit.connections.begin(), unit.connections.end(), deviceOrConnection) !=
                   unit.connections.end();
    };
    return static_cast<std::size_t>(std::find_if(units.begin(), units.end(), holds) - units.begin());
}

std::size_t Chain::linkOf(const Id& connection) const {
    const auto hit = std::find_if(links.begin(), links.end(),
                                  [&](const Link& link) { return link.connection == connection; });
    return static_cast<std::size_t>(hit - links.begin());
}

Chain chainOf(const std::vector<Element>& route) {
    Chain chain;
    chain.units.emplace_back();
    for (const Element& element : route) {
        if (element.kind == ElementKind::cable) {
            chain.units.back().out = element.entry;
            chain.links.push_back({element.connection, element.entryJack, element.exitJack});
            chain.units.emplace_back();
            chain.units.back().in = element.exit;
        } else if (!element.connection.empty()) {
            chain.units.back().connections.push_back(element.connection);
        } else if (element.kind != ElementKind::port && !element.device.empty()) {
            chain.units.back().devices.push_back(element.device);
        }
    }
    return chain;
}

std::vector<bool> passed(const std::vector<Element>& route, Setup setup, const std::vector<Id>& bypassed) {
    std::vector<std::size_t> unitOf;
    std::size_t unit = 0;
    for (const Element& element : route) {
        if (element.kind == ElementKind::cable) ++unit;
        unitOf.push_back(unit);
    }
    const auto isMedium = [](const Element& e) {
        return e.kind == ElementKind::coax || e.kind == ElementKind::mains || e.kind == ElementKind::air;
    };
    std::vector<bool> adapters(unit + 1, false); // units that are a pair of adapters with their medium
    for (std::size_t i = 0; i < route.size(); ++i)
        if (isMedium(route[i])) adapters[unitOf[i]] = true;
    std::vector<bool> out;
    for (std::size_t i = 0; i < route.size(); ++i) {
        const Element& element = route[i];
        bool passes = std::find(bypassed.begin(), bypassed.end(), element.id) == bypassed.end();
        if (setup != Setup::place) {
            const bool end = unitOf[i] == 0 || unitOf[i] == unit;
            passes = passes && element.kind != ElementKind::cable && !isMedium(element) &&
                     (end || (setup == Setup::bench && adapters[unitOf[i]]));
        }
        out.push_back(passes);
    }
    return out;
}

} // namespace metrodos::house
