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
    const RouteShape shape = shapeOf(route);
    std::vector<bool> out;
    for (std::size_t i = 0; i < route.size(); ++i) {
        const Element& element = route[i];
        bool passes = std::find(bypassed.begin(), bypassed.end(), element.id) == bypassed.end();
        if (setup != Setup::place) {
            const std::size_t unit = shape.unit[i];
            const bool end = unit == 0 || unit == shape.lastUnit();
            passes = passes && element.kind != ElementKind::cable && !isMedium(element.kind) &&
                     (end || (setup == Setup::bench && shape.overMedium[unit]));
        }
        out.push_back(passes);
    }
    return out;
}

} // namespace metrodos::house
