#include "house/route.h"

#include <algorithm>
#include <deque>

namespace metrodos::house {
namespace {

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

ElementKind kindOf(Medium medium) {
    switch (medium) {
    case Medium::coax:
        return ElementKind::coax;
    case Medium::mains:
        return ElementKind::mains;
    case Medium::air:
        return ElementKind::air;
    case Medium::bus:
        return ElementKind::bus;
    case Medium::data_cable:
    case Medium::phone:
        break;
    }
    return ElementKind::cable;
}

Element plainElement(ElementKind kind, Id id, std::string label, Id device) {
    Element out;
    out.id = std::move(id);
    out.kind = kind;
    out.label = std::move(label);
    out.device = std::move(device);
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
    case ElementKind::service:
        return "service";
    case ElementKind::storage:
        return "storage";
    }
    return "";
}

RouteFinder::RouteFinder(const House& house)
    : m_house(house)
    , m_edges(house.devices.size()) {
    std::multimap<std::string_view, PortRef> plugged; // by jack
    for (std::size_t i = 0; i < house.devices.size(); ++i) {
        m_devices.emplace(house.devices[i].id, i);
        for (const Port& port : house.devices[i].ports)
            if (!port.jack.empty()) plugged.emplace(port.jack, PortRef{house.devices[i].id, port.id});
    }
    struct Spot {
        PortRef port;
        Id jack;
        std::size_t device = 0;
    };
    for (const Connection& connection : house.connections) {
        if (connection.medium == Medium::phone) continue;
        // The ports at each end: itself, or what is plugged into its jack.
        std::vector<std::vector<Spot>> ends;
        for (const PortRef& end : connection.ends) {
            std::vector<Spot>& spots = ends.emplace_back();
            if (const auto hit = m_devices.find(end.device); hit != m_devices.end()) {
                if (port(end) != nullptr) spots.push_back({end, {}, hit->second});
            } else if (connection.medium == Medium::data_cable) {
                const auto [first, last] = plugged.equal_range(end.device);
                for (auto it = first; it != last; ++it)
                    if (const Port* p = port(it->second); p != nullptr && p->kind == PortKind::ethernet)
                        spots.push_back({it->second, end.device, m_devices.at(it->second.device)});
            }
        }
        for (std::size_t i = 0; i < ends.size(); ++i)
            for (const Spot& here : ends[i])
                for (std::size_t j = 0; j < ends.size(); ++j)
                    if (j != i)
                        for (const Spot& there : ends[j])
                            m_edges[here.device].push_back(
                                {&connection, here.port, there.port, here.jack, there.jack, there.device});
    }
}

const Port* RouteFinder::port(const PortRef& ref) const {
    const auto hit = m_devices.find(ref.device);
    if (hit == m_devices.end()) return nullptr;
    const auto& ports = m_house.devices[hit->second].ports;
    const auto found =
        std::find_if(ports.begin(), ports.end(), [&](const Port& p) { return p.id == ref.port; });
    return found == ports.end() ? nullptr : &*found;
}

// Steps by device, from the nearest on; a device that was not reached has no edge. Stops at `last`.
std::vector<RouteFinder::Step> RouteFinder::search(std::size_t first, std::size_t last) const {
    std::vector<Step> reached(m_edges.size());
    std::vector<bool> seen(m_edges.size(), false);
    seen[first] = true;
    std::deque<std::size_t> open{first};
    while (!open.empty() && !(last < seen.size() && seen[last])) {
        const std::size_t here = open.front();
        open.pop_front();
        if (here != first && m_house.devices[here].kind == DeviceKind::host) continue;
        for (const Edge& edge : m_edges[here]) {
            if (seen[edge.target]) continue;
            seen[edge.target] = true;
            reached[edge.target] = {here, &edge};
            open.push_back(edge.target);
        }
    }
    return reached;
}

std::vector<Element> RouteFinder::elementsOf(std::size_t first, const std::vector<Step>& steps) const {
    std::vector<Element> route{elementOf(m_house.devices[first])};
    const auto addPort = [&](const PortRef& ref) {
        const Port* p = port(ref);
        if (p != nullptr && p->kind == PortKind::ethernet)
            route.push_back(elementOf(*m_house.device(ref.device), *p));
    };
    for (const Step& step : steps) {
        const Edge& edge = *step.edge;
        addPort(edge.entry);
        Element element;
        element.id = element.connection = edge.connection->id;
        element.kind = kindOf(edge.connection->medium);
        element.label = edge.connection->label;
        element.entry = edge.entry;
        element.exit = edge.exit;
        element.entryJack = edge.entryJack;
        element.exitJack = edge.exitJack;
        route.push_back(std::move(element));
        addPort(edge.exit);
        route.push_back(elementOf(m_house.devices[edge.target]));
    }
    return route;
}

quantity::Result<std::vector<Element>> RouteFinder::find(const Id& from, const Id& to) const {
    for (const Id& end : {from, to})
        if (m_house.deviceAt(end).empty())
            return quantity::problem("endpoint “" + end + "” does not exist", "",
                                     "name an endpoint of the job");
    const auto first = m_devices.find(m_house.deviceAt(from));
    const auto last = m_devices.find(m_house.deviceAt(to));
    if (first == m_devices.end() || last == m_devices.end() || first == last)
        return quantity::problem("the two ends are not two machines of the house", "", "choose two machines");
    const std::vector<Step> reached = search(first->second, last->second);
    if (reached[last->second].edge == nullptr) {
        return quantity::problem("nothing joins " + m_house.endLabel(from) + " to " + m_house.endLabel(to),
                                 "", "add the missing cable or adapter");
    }
    std::vector<Step> steps;
    for (std::size_t at = last->second; at != first->second; at = reached[at].from)
        steps.push_back(reached[at]);
    std::reverse(steps.begin(), steps.end());
    std::vector<Element> route = elementsOf(first->second, steps);
    const auto outside = [&](const Id& end, bool first) {
        if (!m_house.service || m_house.service->id != end) return;
        Element element = plainElement(ElementKind::service, end, m_house.service->label, "");
        (first ? element.exit : element.entry) = {m_house.service->device, ""};
        route.insert(first ? route.begin() : route.end(), std::move(element));
    };
    outside(from, true);
    outside(to, false);
    return route;
}

quantity::Result<std::vector<Element>> RouteFinder::find(const Route& route) const {
    auto elements = find(route.from, route.to);
    if (!elements || route.fileProtocol.empty()) return elements;
    const auto disks = [&](const Id& end, bool first) {
        if (m_house.endpoint(end) == nullptr) return; // the service has none
        const Device* device = m_house.device(m_house.deviceAt(end));
        Element element =
            plainElement(ElementKind::storage, device->id + ".disks", device->label + ", disks", device->id);
        (first ? element.exit : element.entry) = {device->id, ""};
        elements->insert(first ? elements->begin() : elements->end(), std::move(element));
    };
    disks(route.from, true);
    disks(route.to, false);
    return elements;
}

std::vector<Id> RouteFinder::reachable(const Id& device) const {
    const auto first = m_devices.find(device);
    if (first == m_devices.end()) return {};
    const std::vector<Step> reached = search(first->second, m_edges.size());
    std::vector<Id> out{device};
    for (std::size_t i = 0; i < reached.size(); ++i)
        if (reached[i].edge != nullptr) out.push_back(m_house.devices[i].id);
    return out;
}

quantity::Result<std::vector<Element>> findRoute(const House& house, const Id& from, const Id& to) {
    return RouteFinder(house).find(from, to);
}

RouteShape shapeOf(const std::vector<Element>& route) {
    RouteShape out;
    out.firstCable = out.lastCable = route.size();
    out.overMedium.push_back(false);
    for (std::size_t i = 0; i < route.size(); ++i) {
        if (route[i].kind == ElementKind::cable) {
            out.firstCable = std::min(out.firstCable, i);
            out.lastCable = i;
            out.overMedium.push_back(false);
        }
        out.unit.push_back(out.lastUnit());
        if (isMedium(route[i].kind)) out.overMedium.back() = true;
    }
    return out;
}

} // namespace metrodos::house
