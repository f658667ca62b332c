#include "capacity/predictor.h"

#include "capacity/plant_ceiling.h"

namespace metrodos::capacity {
namespace {

using house::Connection;
using house::Element;
using house::ElementKind;
using house::House;

constexpr std::size_t maxRemembered = 20'000; // then all is forgotten: simpler than choosing what

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

// All that decides which elements a route has and what they are called.
std::string graphKey(const House& house) {
    Key key;
    for (const house::Device& d : house.devices) {
        key << d.id << d.label << static_cast<double>(d.kind);
        for (const house::Port& p : d.ports)
            key << p.id << p.label << static_cast<double>(p.kind) << p.jack;
    }
    for (const Connection& c : house.connections) {
        key << c.id << c.label << static_cast<double>(c.medium);
        for (const house::PortRef& end : c.ends)
            key << end.device << end.port;
    }
    for (const house::Endpoint& e : house.endpoints)
        key << e.id << e.device;
    if (house.service) key << house.service->id << house.service->label << house.service->device;
    return key.take();
}

} // namespace

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
                << static_cast<double>(element.exitJack.empty()) << c->linkedAt
                << static_cast<double>(c->halfDuplex);
            if (c->linkedAt)
                for (const house::PortRef& end : {element.entry, element.exit})
                    if (const house::Port* port = house.port(end)) key << port->phy;
        } else {
            for (const house::PortRef& end : {element.entry, element.exit}) {
                classOf(end.device);
                if (const house::Port* port = house.port(end))
                    key << port->phy << port->jack << static_cast<double>(house.stripOf(*port))
                        << static_cast<double>(port->kind);
            }
            key << c->situation << c->length << c->walls << c->stations
                << static_cast<double>(c->ends.size());
            const house::Port* a = house.port(element.entry);
            const house::Port* b = house.port(element.exit);
            if (a != nullptr && b != nullptr && !a->jack.empty() && !b->jack.empty()) {
                if (element.kind == ElementKind::coax) key << plants.coax.key(a->jack, b->jack);
                if (element.kind == ElementKind::mains)
                    key << plants.mains.key(a->jack, b->jack)
                        << static_cast<double>(plants.mainsLanguages.size());
            }
        }
    } else if (element.kind == ElementKind::port) {
        framing();
        const house::Port* port = house.port({element.device, element.port});
        const Connection* cable =
            port == nullptr || !port->phy.empty() ? nullptr : house.cableAt({element.device, element.port});
        key << (port == nullptr ? "" : port->phy) << (cable == nullptr ? std::nullopt : cable->linkedAt);
    } else if (element.kind == ElementKind::service && house.service) {
        key << house.service->down << house.service->up << static_cast<double>(element.entry.device.empty());
    } else {
        classOf(element.device);
        const house::Device* device = house.device(element.device);
        if (element.kind == ElementKind::storage && device != nullptr && device->storage)
            key << device->storage->diskClass << static_cast<double>(device->storage->disks)
                << static_cast<double>(device->storage->layout);
        key << static_cast<double>(element.entry.device.empty());
        const catalog::FileProtocol* protocol = m_catalog.protocol(route.fileProtocol);
        if (element.kind == ElementKind::storage && protocol != nullptr && protocol->requestBytes) {
            const catalog::Spread<double> rtt = copyRtt(house, m_catalog, route);
            key << rtt.p10 << rtt.p50 << rtt.p90;
        }
    }
    const auto [hit, fresh] = m_ceilings.try_emplace(key.take());
    if (fresh) {
        hit->second.number = ++m_given;
        hit->second.ceiling =
            std::make_shared<const Ceiling>(ceilingOn(house, m_catalog, route, element, &plants));
    }
    return hit->second;
}

std::vector<RouteSummary> Predictor::summaries(const House& house, const std::vector<house::Route>& routes) {
    if (m_ceilings.size() > maxRemembered || m_least.size() > maxRemembered) {
        m_ceilings.clear();
        m_least.clear();
    }
    if (std::string graph = graphKey(house); graph != m_graph) {
        m_graph = std::move(graph);
        m_routes.clear();
        m_number.clear();
    }
    std::optional<house::RouteFinder> finder; // built when a route is not known yet
    const Plants plants(house, m_catalog);
    // The ceilings of this house by an element's number, for each framing and file protocol that the routes
    // ask for.
    std::unordered_map<std::string, std::vector<const Known*>> bySettings;
    std::vector<RouteSummary> out;
    out.reserve(routes.size());
    std::vector<const Known*> ceilings;
    std::vector<std::uint64_t> numbers;
    for (const house::Route& route : routes) {
        Way& way = m_routes[route.from + '\x1f' + route.to + '\x1f' + route.fileProtocol];
        if (way.elements == nullptr) {
            if (!finder) finder.emplace(house);
            auto found = finder->find(route);
            if (!found) continue;
            for (const Element& e : *found)
                way.index.push_back(m_number
                                        .try_emplace(e.id + '\x1f' + e.entry.device + '\x1f' + e.exit.device,
                                                     static_cast<std::uint32_t>(m_number.size()))
                                        .first->second);
            way.elements = std::make_shared<const std::vector<Element>>(std::move(*found));
        }
        const std::string own = std::to_string(route.mtu) + (route.vlanTag ? 'v' : '-') +
                                static_cast<char>('0' + route.ipVersion) + route.fileProtocol;
        std::vector<const Known*>& seen = bySettings[own];
        ceilings.clear();
        numbers.clear();
        for (std::size_t i = 0; i < way.index.size(); ++i) {
            const std::uint32_t number = way.index[i];
            if (number >= seen.size()) seen.resize(m_number.size(), nullptr);
            const Known*& one = seen[number];
            if (one == nullptr) one = &known(house, plants, route, (*way.elements)[i]);
            ceilings.push_back(one);
            numbers.push_back(one->number);
        }
        if (numbers != way.numbers) {
            const std::string key(reinterpret_cast<const char*>(numbers.data()),
                                  numbers.size() * sizeof numbers[0]);
            const auto least = [&](bool forward) -> const Least& {
                const auto [hit, fresh] = m_least.try_emplace(key + (forward ? 'f' : 'b'));
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
            way.last = {{}, ahead.spread, back.spread, way.elements, {}, ahead.limiter, back.limiter};
            for (const Known* one : ceilings)
                way.last.ceilings.push_back(one->ceiling);
            way.numbers = numbers;
        }
        out.push_back(way.last);
        out.back().route = route.id;
    }
    return out;
}

} // namespace metrodos::capacity
