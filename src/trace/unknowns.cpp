#include "trace/unknowns.h"

#include "trace/tolerances.h"

#include <algorithm>
#include <cmath>

namespace metrodos::trace {
namespace {

using capacity::Distribution;
using catalog::FaultClass;
using catalog::RateSpread;
using house::ElementKind;
using quantity::BitRate;

constexpr double nothingInTheWay = 40; // ln bit/s, above all that there is
constexpr double knownPlugged = 0.2;  // of the faults of an outlet where the survey says how it is plugged in
constexpr double measuredPairs = 0.3; // of the faults of a link where all pairs were measured as sound

std::array<std::string, 2> signatureNames(ElementKind kind) {
    switch (kind) {
    case ElementKind::host:
        return {"host-sends", "host-receives"};
    case ElementKind::storage:
        return {"disk-reads", "disk-writes"};
    case ElementKind::port:
    case ElementKind::cable:
        return {"port", "port"};
    case ElementKind::network_switch:
    case ElementKind::router:
    case ElementKind::adapter:
        return {"box", "box"};
    default:
        return {std::string(house::name(kind)), std::string(house::name(kind))};
    }
}

// What a share leaves of a spread: in ln the centres add, and the widths in quadrature.
RateSpread times(const RateSpread& base, const catalog::Spread<double>& share) {
    const double middle = std::log(base.p50.bps()) + std::log(share.p50);
    const double below =
        std::hypot(std::log(base.p50.bps() / base.p10.bps()), std::log(share.p50 / share.p10));
    const double above =
        std::hypot(std::log(base.p90.bps() / base.p50.bps()), std::log(share.p90 / share.p50));
    const double top = std::log(base.p90.bps());
    const auto rate = [&](double ln) { return BitRate::bitsPerSecond(std::exp(std::min(ln, top))); };
    return {rate(middle - below), rate(middle), rate(middle + above)};
}

// Makes the states of one element.
class Maker {
  public:
    Maker(const capacity::ElementPrediction& element, const house::House& house,
          const catalog::Catalog& catalog, const capacity::Framing& framing, double scale,
          std::optional<BitRate> linkedAt)
        : m_element(element)
        , m_house(house)
        , m_catalog(catalog)
        , m_framing(framing)
        , m_scale(scale)
        , m_linkedAt(linkedAt)
        , m_signatures(signatureNames(element.element.kind))
        // Which end of a route an element lies at decides what its directions are called.
        , m_connection(house.connection(element.element.connection)) {}

    std::vector<State> make(bool forwardIsSense0) {
        const Distribution& zero = forwardIsSense0 ? m_element.ceiling.forward : m_element.ceiling.backward;
        const Distribution& one = forwardIsSense0 ? m_element.ceiling.backward : m_element.ceiling.forward;
        m_base = {zero.spread(), one.spread()};
        // A link carries no more than its ports, whatever its cable could: faults take their share of that.
        if (m_element.element.kind == ElementKind::cable) {
            const double top = portRate();
            for (RateSpread& base : m_base)
                base = {std::min(base.p10, BitRate::bitsPerSecond(top)),
                        std::min(base.p50, BitRate::bitsPerSecond(top)),
                        std::min(base.p90, BitRate::bitsPerSecond(top))};
        }
        const ElementKind kind = m_element.element.kind;
        const bool tied =
            !house::isMedium(kind) && kind != ElementKind::service && kind != ElementKind::storage;
        if (tied)
            for (const auto& part : zero.parts())
                add(nullptr, part.weight, Curve::of(part), Curve::of(part), true);
        else
            add(nullptr, 1, Curve::of(zero), Curve::of(one), false);
        double faulty = 0;
        for (const FaultClass& fault : m_catalog.faults.faults)
            if (std::find(fault.on.begin(), fault.on.end(), key()) != fault.on.end())
                faulty += addFault(fault, tied);
        for (State& state : m_states)
            if (state.fault == nullptr) state.weight *= 1 - faulty;
        return std::move(m_states);
    }

  private:
    [[nodiscard]] std::string key() const {
        if (m_element.element.kind != ElementKind::bus)
            return std::string(house::name(m_element.element.kind));
        const house::Port* port = m_house.port(m_element.element.entry);
        return port == nullptr ? "usb" : std::string(house::name(port->kind));
    }

    void add(const FaultClass* fault, double weight, Curve zero, Curve one, bool tied) {
        if (weight <= 0) return;
        m_states.push_back({fault,
                            weight,
                            {std::move(zero), std::move(one)},
                            tied,
                            {m_catalog.faults.signature(m_signatures[0], fault),
                             m_catalog.faults.signature(m_signatures[1], fault)},
                            0});
    }

    // Adds the states of a fault; returns their weight.
    double addFault(const FaultClass& fault, bool tied) {
        const double prior = fault.prior * knowledge(fault);
        if (prior <= 0 || std::max(m_base[0].p90, m_base[1].p90).bps() < fault.fromBps) return 0;
        if (fault.loss) return 0; // a bound of each stream (lossOf)
        if (fault.linksSlower) return addSlowerLinks(fault, prior);
        if (!fault.buses.empty()) return addBuses(fault, prior);
        if (fault.rate) {
            add(&fault, prior, Curve::of(*fault.rate), Curve::of(*fault.rate), true);
            return prior;
        }
        const std::array<Curve, 2> sound{Curve::of(m_base[0]), Curve::of(m_base[1])};
        const std::array<Curve, 2> ill{Curve::of(times(m_base[0], *fault.share)),
                                       Curve::of(times(m_base[1], *fault.share))};
        if (fault.oneWay) {
            add(&fault, prior / 2, ill[0], sound[1], false);
            add(&fault, prior / 2, sound[0], ill[1], false);
        } else {
            // What comes and goes is not the same in both directions at any time.
            constexpr double steady = 0.5;
            const auto unsteady = fault.shows.find("unsteady");
            add(&fault, prior, ill[0], ill[1],
                tied && (unsteady == fault.shows.end() || unsteady->second < steady));
        }
        return prior;
    }

    // What the survey says against a fault.
    [[nodiscard]] double knowledge(const FaultClass& fault) const {
        if (m_connection == nullptr) return 1;
        // What a socket was read to run at it does run at.
        if (!fault.buses.empty() && m_linkedAt) return 0;
        // From 1 Gbit/s on duplex is always negotiated (IEEE 802.3, 40.5): the ends cannot disagree.
        if (fault.id == "duplex" && m_linkedAt && m_linkedAt->inMegabits() >= 1000) return 0;
        if (m_element.element.kind == ElementKind::cable && m_connection->goodPairs.value_or(0) == 4)
            return measuredPairs;
        if (fault.id != "strip") return 1;
        const auto known = [&](const house::PortRef& end) {
            const house::Port* port = m_house.port(end);
            return port != nullptr && m_house.stripOf(*port) != house::Strip::unknown;
        };
        return known(m_element.element.entry) && known(m_element.element.exit) ? knownPlugged : 1;
    }

    // What the slower of the known ports at the ends allows.
    [[nodiscard]] double portRate() const {
        double out = 1e15;
        for (const house::PortRef& end : {m_element.element.entry, m_element.element.exit})
            if (const house::Port* port = m_house.port(end))
                if (const catalog::Phy* phy = m_catalog.phy(port->phy))
                    out = std::min(out, capacity::goodput(phy->rate, m_framing).bps() * m_scale);
        return out;
    }

    double addSlowerLinks(const FaultClass& fault, double prior) {
        // A port of unknown rate has its slower rates in its own belief already.
        if (m_element.element.kind == ElementKind::port && m_base[0].p10 != m_base[0].p90) return 0;
        const double top = std::min(m_base[0].p90.bps(), portRate());
        double all = 0;
        std::vector<std::pair<double, double>> rates;
        for (const auto& [id, weight] : m_catalog.unknownPort) {
            const double net = capacity::goodput(m_catalog.phy(id)->rate, m_framing).bps() * m_scale;
            if (net > top * 0.99) continue;
            rates.emplace_back(net, weight);
            all += weight;
        }
        // What is usual among ports says only a part of how far a link falls: two sound pairs carry 100
        // Mbit/s whatever the ports are.
        for (const auto& [net, weight] : rates) {
            const double share = 0.5 * weight / all + 0.5 / static_cast<double>(rates.size());
            add(&fault, prior * share, Curve::at(std::log(net)), Curve::at(std::log(net)), true);
        }
        return rates.empty() ? 0 : prior;
    }

    double addBuses(const FaultClass& fault, double prior) {
        std::vector<RateSpread> slower;
        for (const std::string& id : fault.buses)
            if (const catalog::Bus* bus = m_catalog.bus(id); bus->goodput.p50 < m_base[0].p10)
                slower.push_back(bus->goodput);
        for (const RateSpread& rate : slower) {
            const Curve curve = Curve::of(Distribution::of(rate).scaledBy(m_scale));
            add(&fault, prior / static_cast<double>(slower.size()), curve, curve, true);
        }
        return slower.empty() ? 0 : prior;
    }

    const capacity::ElementPrediction& m_element;
    const house::House& m_house;
    const catalog::Catalog& m_catalog;
    const capacity::Framing& m_framing;
    double m_scale;                    // what a file protocol leaves of the network
    std::optional<BitRate> m_linkedAt; // the rate that the link was read to run at; the house here has none
    std::array<std::string, 2> m_signatures;
    const house::Connection* m_connection;
    std::array<RateSpread, 2> m_base;
    std::vector<State> m_states;
};

// What a receiver lets one stream have under way, in bytes.
Unknown windowOf(const house::House& house, const catalog::Catalog& catalog,
                 const capacity::ElementPrediction& machine) {
    Unknown out;
    out.part = Part::window;
    out.element = machine.element.id;
    out.label = machine.element.label;
    out.kind = ElementKind::host;
    const house::Device* device = house.device(machine.element.device);
    const catalog::HostClass* known = device == nullptr ? nullptr : catalog.host(device->deviceClass);
    // What a class says of windows is a habit of such machines and no bound of theirs: a kernel may give
    // more. That it gives less is a fault.
    constexpr double asItsClass = 0.6;
    std::vector<std::pair<double, double>> windows; // bytes, and how likely
    for (const catalog::HostClass& cls : catalog.hosts)
        if (known == nullptr || cls.windowBytes > known->windowBytes)
            windows.emplace_back(cls.windowBytes, 1);
    for (auto& [bytes, share] : windows)
        share = (known == nullptr ? 1 : 1 - asItsClass) / static_cast<double>(windows.size());
    if (known != nullptr) windows.emplace_back(known->windowBytes, windows.empty() ? 1 : asItsClass);
    const double usual = known == nullptr ? windows.front().first : known->windowBytes;
    const auto spreadAround = [](double bytes) {
        return RateSpread{BitRate::bitsPerSecond(bytes * 0.7), BitRate::bitsPerSecond(bytes),
                          BitRate::bitsPerSecond(bytes * 1.4)};
    };
    double faulty = 0;
    for (const FaultClass& fault : catalog.faults.faults)
        if (std::find(fault.on.begin(), fault.on.end(), "window") != fault.on.end() && fault.share) {
            faulty += fault.prior;
            const auto signature = catalog.faults.signature("window", &fault);
            const Curve curve = Curve::of(times(spreadAround(usual), *fault.share));
            out.states.push_back({&fault, fault.prior, {curve, curve}, true, {signature, signature}, 0});
        }
    const auto signature = catalog.faults.signature("window");
    for (const auto& [bytes, share] : windows) {
        const Curve curve = Curve::of(spreadAround(bytes));
        out.states.push_back(
            {nullptr, (1 - faulty) * share, {curve, curve}, true, {signature, signature}, 0});
    }
    return out;
}

// What an element leaves of a stream by losing segments. A machine sees only the errors of its own last hop:
// `endsAt` tells by sense whether that is this one.
std::optional<Unknown> lossOf(const capacity::ElementPrediction& element, const catalog::Catalog& catalog,
                              std::array<bool, 2> endsAt, double knowledge) {
    const std::string key(house::name(element.element.kind));
    constexpr double seen = 0.9;
    Unknown out;
    out.part = Part::loss;
    out.element = element.element.id;
    out.label = element.element.label;
    out.kind = element.element.kind;
    const Curve none = Curve::at(nothingInTheWay);
    double lossy = 0;
    for (const FaultClass& fault : catalog.faults.faults) {
        if (!fault.loss || std::find(fault.on.begin(), fault.on.end(), key) == fault.on.end()) continue;
        // Cubic is kinder to loss than the bound, up to half as fast again (RFC 9438, 5).
        constexpr double kinder = 1.25;
        // When the next segment is lost is chance: one run differs from the next.
        constexpr double ofRandomLoss = 0.15;
        const auto leaves = [&](double p) { return BitRate::bitsPerSecond(kinder / std::sqrt(p)); };
        const Curve curve =
            Curve::of(RateSpread{leaves(fault.loss->p90), leaves(fault.loss->p50), leaves(fault.loss->p10)});
        std::array<catalog::Signature, 2> shows;
        for (const std::size_t sense : {std::size_t{0}, std::size_t{1}}) {
            shows[sense] = catalog.faults.signature("loss", &fault);
            if (endsAt[sense] && element.element.kind == ElementKind::cable) shows[sense].errors = seen;
        }
        const double prior = fault.prior * knowledge;
        lossy += prior;
        out.states.push_back({&fault, prior / 2, {curve, curve}, true, shows, ofRandomLoss});
        out.states.push_back({&fault, prior / 4, {curve, none}, false, shows, ofRandomLoss});
        out.states.push_back({&fault, prior / 4, {none, curve}, false, shows, ofRandomLoss});
    }
    if (out.states.empty()) return std::nullopt;
    out.states.push_back({nullptr, 1 - lossy, {none, none}, true, {}, 0});
    return out;
}

// How much something that is in no survey varies, where so many of its runs look unsteady.
double wanderOf(const catalog::Signature& signature) {
    constexpr double asRadio = 0.2;
    constexpr double asTraffic = 0.1;
    constexpr double asLimit = 0.015;
    return signature.unsteady > 0.5 ? asRadio : signature.unsteady > 0.2 ? asTraffic : asLimit;
}

// `share`: of the chance that there is any on the route.
Unknown unlistedOf(const catalog::Catalog& catalog, double scale, double share) {
    Unknown out;
    out.part = Part::unlisted;
    out.element = unlisted;
    out.label = "something that is not in the survey";
    double present = 0;
    for (const FaultClass& fault : catalog.faults.unlisted) {
        present += fault.prior * share;
        const Curve curve = Curve::of(Distribution::of(*fault.rate).scaledBy(scale));
        const auto signature = catalog.faults.signature(unlisted, &fault);
        out.states.push_back(
            {&fault, fault.prior * share, {curve, curve}, true, {signature, signature}, wanderOf(signature)});
    }
    const Curve nothing = Curve::at(nothingInTheWay);
    out.states.push_back({nullptr, 1 - present, {nothing, nothing}, true, {}, 0});
    return out;
}

} // namespace

double lossBound(double rttUs) {
    return 1.22 * segmentBytes * 8e6 / rttUs;
}

std::uint32_t Unknown::curedBy(house::AlterationKind what) const {
    std::uint32_t out = 0;
    for (std::size_t k = 0; k < states.size(); ++k) {
        const FaultClass* fault = states[k].fault;
        if (fault != nullptr &&
            std::find(fault->curedBy.begin(), fault->curedBy.end(), what) != fault->curedBy.end())
            out |= std::uint32_t{1} << k;
    }
    return out;
}

Unknown twinOf(const Unknown& unknown) {
    Unknown out = unknown;
    std::erase_if(out.states, [](const State& s) { return s.fault != nullptr; });
    double sum = 0;
    for (const State& state : out.states)
        sum += state.weight;
    for (State& state : out.states)
        state.weight /= sum;
    return out;
}

int senseOf(const std::vector<capacity::ElementPrediction>& elements, std::size_t index, bool forward) {
    const house::Element& element = elements[index].element;
    const bool first = index < elements.size() / 2;
    switch (element.kind) {
    case ElementKind::host: // the end at `from` sends forward
    case ElementKind::storage:
    case ElementKind::service: // at `from` it comes into the house forward
        return first == forward ? 0 : 1;
    default:
        if (element.entry.device.empty() && element.exit.device.empty()) return forward ? 0 : 1;
        return (element.entry < element.exit) == forward ? 0 : 1;
    }
}

Unknowns unknownsOf(const capacity::RoutePrediction& prediction, const house::House& house,
                    const catalog::Catalog& catalog) {
    Unknowns out;
    const capacity::Framing framing = capacity::framingOf(prediction.route);
    const double scale = prediction.copyShare;
    house::House unread;
    const bool anyRead = std::any_of(house.connections.begin(), house.connections.end(),
                                     [](const house::Connection& c) { return c.linkedAt.has_value(); });
    if (anyRead) {
        unread = house;
        for (house::Connection& connection : unread.connections)
            connection.linkedAt.reset();
    }
    for (std::size_t i = 0; i < prediction.elements.size(); ++i) {
        capacity::ElementPrediction e = prediction.elements[i];
        if (anyRead && (e.element.kind == ElementKind::cable || e.element.kind == ElementKind::port)) {
            e.ceiling = capacity::ceilingOn(unread, catalog, prediction.route, e.element);
            e.forward = e.ceiling.forward.spread();
            e.backward = e.ceiling.backward.spread();
        }
        Unknown one;
        one.element = e.element.id;
        one.label = e.element.label;
        one.kind = e.element.kind;
        const house::Connection* connection = house.connection(e.element.connection);
        const catalog::MediumClass* medium = connection == nullptr || !house::isMedium(e.element.kind)
                                                 ? nullptr
                                                 : catalog.medium(connection->medium);
        one.variation = medium == nullptr ? 0 : medium->variation;
        one.states = Maker(e, anyRead ? unread : house, catalog, framing, scale,
                           connection == nullptr ? std::nullopt : connection->linkedAt)
                         .make(senseOf(prediction.elements, i, true) == 0);
        // What a processor moves depends on what else it does: one run differs from the next.
        constexpr double ofProcessors = 0.1;
        for (State& state : one.states) {
            const bool isProcessor = state.fault != nullptr &&
                                     std::max(state.shows[0].core, state.shows[1].core) > 0.5 &&
                                     one.kind == ElementKind::host;
            state.variation = isProcessor ? ofProcessors : one.variation;
        }
        out.all.push_back(std::move(one));
    }
    out.elements = out.all.size();
    std::vector<house::Element> plain;
    for (const auto& e : prediction.elements)
        plain.push_back(e.element);
    const house::RouteShape shape = house::shapeOf(plain);
    for (std::size_t i = 0; i < prediction.elements.size(); ++i) {
        std::array<bool, 2> endsAt{};
        endsAt[static_cast<std::size_t>(senseOf(prediction.elements, i, true))] = i == shape.lastCable;
        endsAt[static_cast<std::size_t>(senseOf(prediction.elements, i, false))] = i == shape.firstCable;
        const house::Connection* cable = house.connection(plain[i].connection);
        const bool tested = cable != nullptr && cable->goodPairs.value_or(0) == 4;
        if (auto loss = lossOf(prediction.elements[i], catalog, endsAt, tested ? measuredPairs : 1))
            out.losses.push_back({i, std::move(*loss)});
    }
    const auto isHost = [](const capacity::ElementPrediction& e) {
        return e.element.kind == ElementKind::host;
    };
    const auto first = std::find_if(prediction.elements.begin(), prediction.elements.end(), isHost);
    const auto last = std::find_if(prediction.elements.rbegin(), prediction.elements.rend(), isHost);
    out.all.push_back(
        windowOf(house, catalog, first == prediction.elements.end() ? prediction.elements.front() : *first));
    out.all.push_back(
        windowOf(house, catalog, last == prediction.elements.rend() ? prediction.elements.back() : *last));
    const auto cables = static_cast<double>(std::count_if(
        plain.begin(), plain.end(), [](const house::Element& e) { return e.kind == ElementKind::cable; }));
    out.all.push_back(unlistedOf(catalog, scale, 1 / std::max(1.0, cables)));
    return out;
}

} // namespace metrodos::trace
