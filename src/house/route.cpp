#include "house/route.h"

#include <algorithm>
#include <deque>
#include <map>

namespace metrodos::house {
namespace {

struct Step {
    Id from; // device that was left
    const Connection* connection = nullptr;
    PortRef entry;
    PortRef exit;
};

Element elementOf(const Device& device) {
    Element out;
    out.id = out.device = device.id;
    out.label = device.label;
    switch (device.kind) {
    case DeviceKind::host:
        out.kind = ElementKind::host;
        break;
    case DeviceKind::network_switch:
        out.kind = ElementKind::network_switch;
        break;
    case DeviceKind::router:
        out.kind = ElementKind::router;
        break;
    case DeviceKind::adapter:
        out.kind = ElementKind::adapter;
        break;
    }
    return out;
}

Element elementOf(const Device& device, const Port& port) {
    Element out;
    out.id = device.id + "." + port.id;
    out.kind = ElementKind::port;
    out.label = device.label + ", " + (port.label.empty() ? port.id : port.label);
    out.device = device.id;
    out.port = port.id;
    return out;
}

Element elementOf(const Step& step) {
    Element out;
    out.id = out.connection = step.connection->id;
    out.label = step.connection->label;
    out.entry = step.entry;
    out.exit = step.exit;
    switch (step.connection->medium) {
    case Medium::data_cable:
        out.kind = ElementKind::cable;
        break;
    case Medium::coax:
        out.kind = ElementKind::coax;
        break;
    case Medium::mains:
        out.kind = ElementKind::mains;
        break;
    case Medium::air:
        out.kind = ElementKind::air;
        break;
    case Medium::bus:
        out.kind = ElementKind::bus;
        break;
    }
    return out;
}

} // namespace

std::string_view name(ElementKind kind) {
    switch (kind) {
    case ElementKind::host:
        return "host";
    case ElementKind::port:
        return "port";
    case ElementKind::cable:
        return "cable";
    case ElementKind::network_switch:
        return "switch";
    case ElementKind::router:
        return "router";
    case ElementKind::adapter:
        return "adapter";
    case ElementKind::coax:
        return "coax";
    case ElementKind::mains:
        return "mains";
    case ElementKind::air:
        return "air";
    case ElementKind::bus:
        return "bus";
    }
    return "";
}

quantity::Result<std::vector<Element>> findRoute(const House& house, const Id& from, const Id& to) {
    const Endpoint* start = house.endpoint(from);
    const Endpoint* goal = house.endpoint(to);
    if (start == nullptr || goal == nullptr)
        return quantity::problem("endpoint “" + (start == nullptr ? from : to) + "” does not exist", "",
                                 "name an endpoint of the job");
    const Device* first = house.device(start->device);
    const Device* last = house.device(goal->device);
    if (first == nullptr || last == nullptr || first == last)
        return quantity::problem("the two ends are not two machines of the house", "", "choose two machines");

    std::multimap<Id, std::pair<const Connection*, std::size_t>> byDevice; // keeps the order of the data
    for (const Connection& connection : house.connections)
        for (std::size_t i = 0; i < connection.ends.size(); ++i)
            byDevice.emplace(connection.ends[i].device, std::pair(&connection, i));

    std::map<Id, Step> reached{{first->id, {}}};
    std::deque<Id> open{first->id};
    while (!open.empty() && !reached.contains(last->id)) {
        const Id here = open.front();
        open.pop_front();
        const Device* device = house.device(here);
        if (device == nullptr || (device->kind == DeviceKind::host && device != first)) continue;
        const auto [begin, end] = byDevice.equal_range(here);
        for (auto it = begin; it != end; ++it) {
            const auto& [connection, index] = it->second;
            for (std::size_t j = 0; j < connection->ends.size(); ++j) {
                const PortRef& far = connection->ends[j];
                if (j == index || house.port(far) == nullptr || reached.contains(far.device)) continue;
                reached[far.device] = {here, connection, connection->ends[index], far};
                open.push_back(far.device);
            }
        }
    }
    if (!reached.contains(last->id))
        return quantity::problem("nothing joins " + start->label + " to " + goal->label, "",
                                 "add the missing cable or adapter");

    std::vector<Step> steps;
    for (Id at = last->id; at != first->id; at = reached[at].from)
        steps.push_back(reached[at]);
    std::reverse(steps.begin(), steps.end());

    std::vector<Element> route{elementOf(*first)};
    const auto addPort = [&](const PortRef& ref) {
        const Port* port = house.port(ref);
        if (port != nullptr && port->kind == PortKind::ethernet)
            route.push_back(elementOf(*house.device(ref.device), *port));
    };
    for (const Step& step : steps) {
        addPort(step.entry);
        route.push_back(elementOf(step));
        addPort(step.exit);
        route.push_back(elementOf(*house.device(step.exit.device)));
    }
    return route;
}

} // namespace metrodos::house
