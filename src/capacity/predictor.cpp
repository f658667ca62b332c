#include "capacity/predictor.h"

namespace metrodos::capacity {
namespace {

using house::Connection;
using house::Element;
using house::ElementKind;
using house::House;

constexpr std::size_t mostRemembered = 20'000; // then all is forgotten: simpler than choosing what

// Appends values with a separator that no id or label of a house may hold a meaning for.
class Key {
  public:
    Key& operator<<(const std::string& text) {
        m_text += text;
        m_text += '\x1f';
        return *this;
    }
    Key& operator<<(double value) {
        m_text.append(reinterpret_cast<const char*>(&value), sizeof value);
        return *this;
    }
    template <typename T>
    Key& operator<<(const std::optional<T>& value) {
        if constexpr (std::is_same_v<T, quantity::Length>)
            return *this << (value ? value->inMetres() : -1.0);
        else if constexpr (std::is_same_v<T, quantity::BitRate>)
            return *this << (value ? value->bps() : -1.0);
        else if constexpr (std::is_same_v<T, quantity::Frequency>)
            return *this << (value ? value->inHertz() : -1.0);
        else
            return *this << (value ? static_cast<double>(*value) : -1.0);
    }
    [[nodiscard]] std::string take() { return std::move(m_text); }

  private:
    std::string m_text;
};

std::string coaxKey(const House& house) {
    Key key;
    for (const Connection& c : house.connections) {
        if (c.medium != house::Medium::coax) continue;
        key << c.id << c.label << c.cableClass << c.length << c.badConnectors << c.endTerminated;
        for (const house::PortRef& end : c.ends)
            key << end.device << end.port;
    }
    for (const house::CoaxPart& p : house.coaxParts)
        key << p.id << p.label << static_cast<double>(p.kind) << static_cast<double>(p.ways) << p.rated
            << p.bypass << p.terminated;
    key << house.coaxUse.satellite << house.coaxUse.cableInternetTop;
    return key.take();
}

std::string mainsKey(const House& house) {
    Key key;
    for (const house::Panel& p : house.panels)
        key << p.id << p.fedBy;
    for (const house::Circuit& c : house.circuits) {
        key << c.id << c.label << c.panel << c.leg << c.wiring << static_cast<double>(c.protection);
        for (const house::CircuitOutlet& o : c.outlets)
            key << o.jack << o.fromPrevious;
    }
    for (const house::Appliance& a : house.appliances) {
        key << a.id << a.applianceClass << a.outlet;
        for (const house::HourSpan& span : a.hours)
            key << static_cast<double>(span.from) << static_cast<double>(span.to);
    }
    return key.take();
}

} // namespace

// The whole plant is a value of its own: a number stands for it in the keys of elements.
struct Predictor::Plants {
    std::string coax;
    std::string mains;
};

Predictor::Predictor(const catalog::Catalog& catalog)
    : m_catalog(catalog) {}

const Predictor::Known& Predictor::known(const House& house, const Plants& plants, const house::Route& route,
                                         const Element& element) {
    Key key;
    key << static_cast<double>(element.kind) << route.fileProtocol;
    const auto framing = [&] {
        key << static_cast<double>(route.mtu) << static_cast<double>(route.vlanTag)
            << static_cast<double>(route.ipVersion);
    };
    const auto classOf = [&](const house::Id& id) {
        const house::Device* device = house.device(id);
        key << (device == nullptr ? "" : device->deviceClass)
            << (device == nullptr ? -1.0 : static_cast<double>(device->kind));
    };
    if (const Connection* c = element.connection.empty() ? nullptr : house.connection(element.connection)) {
        if (element.kind == ElementKind::cable) {
            framing();
            key << c->cableClass << c->termination << c->length << c->goodPairs
                << static_cast<double>(element.entryJack.empty())
                << static_cast<double>(element.exitJack.empty());
        } else {
            for (const house::PortRef& end : {element.entry, element.exit}) {
                classOf(end.device);
                if (const house::Port* port = house.port(end))
                    key << port->phy << port->jack << static_cast<double>(port->strip)
                        << static_cast<double>(port->kind);
            }
            key << c->situation << c->length << c->walls << c->stations
                << static_cast<double>(c->ends.size());
            if (element.kind == ElementKind::coax) key << plants.coax;
            if (element.kind == ElementKind::mains) key << plants.mains;
        }
    } else if (element.kind == ElementKind::port) {
        framing();
        const house::Port* port = house.port({element.device, element.port});
        key << (port == nullptr ? "" : port->phy);
    } else if (element.kind == ElementKind::service && house.service) {
        key << house.service->down << house.service->up << static_cast<double>(element.entry.device.empty());
    } else {
        classOf(element.device);
        const house::Device* device = house.device(element.device);
        if (element.kind == ElementKind::storage && device != nullptr && device->storage)
            key << device->storage->diskClass << static_cast<double>(device->storage->disks)
                << static_cast<double>(device->storage->layout);
        key << static_cast<double>(element.entry.device.empty());
    }
    const auto [hit, fresh] = m_ceilings.try_emplace(key.take());
    if (fresh) {
        hit->second.number = m_ceilings.size();
        hit->second.ceiling = std::make_shared<const Ceiling>(ceilingOn(house, m_catalog, route, element));
    }
    return hit->second;
}

std::shared_ptr<const Ceiling> Predictor::ceiling(const House& house, const house::Route& route,
                                                  const Element& element) {
    return known(house, {coaxKey(house), mainsKey(house)}, route, element).ceiling;
}

std::vector<RouteSummary> Predictor::summaries(const House& house, const std::vector<house::Route>& routes) {
    if (m_ceilings.size() > mostRemembered || m_least.size() > mostRemembered) {
        m_ceilings.clear();
        m_least.clear();
    }
    const house::RouteFinder finder(house);
    const Plants plants{coaxKey(house), mainsKey(house)};
    std::vector<RouteSummary> out;
    for (const house::Route& route : routes) {
        auto elements = finder.find(route);
        if (!elements) continue;
        std::vector<const Known*> ceilings;
        std::string numbers;
        for (const Element& element : *elements) {
            const Known& one = known(house, plants, route, element);
            ceilings.push_back(&one);
            numbers.append(reinterpret_cast<const char*>(&one.number), sizeof one.number);
        }
        const auto least = [&](bool forward) -> const Least& {
            const auto [hit, fresh] = m_least.try_emplace(numbers + (forward ? 'f' : 'b'));
            if (fresh) {
                std::vector<const Distribution*> all;
                for (const Known* one : ceilings)
                    all.push_back(forward ? &one->ceiling->forward : &one->ceiling->backward);
                hit->second = leastOf(all);
            }
            return hit->second;
        };
        const Least& ahead = least(true);
        const Least& back = least(false);
        std::vector<std::shared_ptr<const Ceiling>> shared;
        for (const Known* one : ceilings)
            shared.push_back(one->ceiling);
        out.push_back({route.id, ahead.spread, back.spread, std::move(*elements), std::move(shared),
                       ahead.limiter, back.limiter});
    }
    return out;
}

} // namespace metrodos::capacity
