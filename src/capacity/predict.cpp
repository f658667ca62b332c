#include "capacity/predict.h"

#include "capacity/plant_ceiling.h"
#include "quantity/format.h"

namespace metrodos::capacity {

catalog::Spread<double> idleRtt(const house::House& house, const catalog::Catalog& catalog,
                                const std::vector<house::Element>& elements) {
    catalog::Spread<double> sum{};
    for (const house::Element& element : elements) {
        const house::Connection* connection = house.connection(element.connection);
        const catalog::MediumClass* medium =
            connection == nullptr ? nullptr : catalog.medium(connection->medium);
        if (medium != nullptr) {
            sum.p10 += medium->rttMicroseconds.p10;
            sum.p50 += medium->rttMicroseconds.p50;
            sum.p90 += medium->rttMicroseconds.p90;
        } else if (connection == nullptr && element.port.empty()) {
            // Boxes delay; cables and ports of a house do not, to any measurable extent.
            sum.p10 += catalog.wiredRttMicroseconds * 0.5;
            sum.p50 += catalog.wiredRttMicroseconds;
            sum.p90 += catalog.wiredRttMicroseconds * 2;
        }
    }
    return sum;
}

std::string drawName(const house::House& house, const house::Element& element, bool isForward) {
    const house::Device* device = house.device(element.device);
    // Boxes of a class are alike: where one carries less than its class may, so do the others.
    if (device != nullptr && element.port.empty() && element.kind != house::ElementKind::storage &&
        !device->deviceClass.empty())
        return "class " + device->deviceClass;
    // The weather of a shared medium is one for both directions; a wire's ends are its own.
    return element.id + (isMedium(element.kind) || isForward ? "" : " back");
}

namespace {

// What a file protocol gives at most, whatever the network carries, counts where the file is read: as many
// bytes as a request holds in each round trip, and what one core encrypts.
void capCopy(Ceiling& out, const house::House& house, const catalog::Catalog& catalog,
             const house::Route& route, const house::Element& element,
             const catalog::FileProtocol& protocol) {
    const bool isFrom = !element.exit.device.empty();
    Distribution& reads = isFrom ? out.forward : out.backward;
    const auto cap = [&](const Distribution& by, const std::string& line) {
        reads = Distribution::least({{"disk", &reads}, {protocol.id, &by}});
        out.arithmetic.push_back(protocol.label + ": " + line);
        out.because += "; " + protocol.label + ": " + line;
    };
    if (protocol.cap)
        cap(Distribution::of(*protocol.cap), "one core encrypts " + quantity::plain(protocol.cap->p10) +
                                                 " to " + quantity::plain(protocol.cap->p90));
    if (!protocol.requestBytes) return;
    const catalog::Spread<double> rtt = copyRtt(house, catalog, route);
    const auto rate = [](double bytes, double us) { return BitRate::bitsPerSecond(bytes * 8e6 / us); };
    const RateSpread waits{rate(protocol.requestBytes->p10, rtt.p90),
                           rate(protocol.requestBytes->p50, rtt.p50),
                           rate(protocol.requestBytes->p90, rtt.p10)};
    cap(Distribution::of(waits), "each request of about " +
                                     quantity::significant(protocol.requestBytes->p50 / 1024, 2) +
                                     " KiB waits for its answer, " + quantity::plainMicroseconds(rtt.p50) +
                                     ": " + quantity::plain(waits.p10) + " to " + quantity::plain(waits.p90));
}

} // namespace

catalog::Spread<double> copyRtt(const house::House& house, const catalog::Catalog& catalog,
                                const house::Route& route) {
    const auto elements = house::RouteFinder(house).find(route);
    constexpr double least = 20; // µs, of two machines on one cable
    if (!elements) return {least, least, least};
    catalog::Spread<double> out = idleRtt(house, catalog, *elements);
    for (double* value : {&out.p10, &out.p50, &out.p90})
        *value = std::max(*value, least);
    return out;
}

Ceiling ceilingOn(const house::House& house, const catalog::Catalog& catalog, const house::Route& route,
                  const house::Element& element, const Plants* plants) {
    Ceiling out = ceilingOf(house, catalog, element, framingOf(route), plants);
    const catalog::FileProtocol* protocol = catalog.protocol(route.fileProtocol);
    if (protocol == nullptr) return out;
    if (element.kind == house::ElementKind::storage) {
        capCopy(out, house, catalog, route, element, *protocol);
        return out;
    }
    out.forward = out.forward.scaledBy(protocol->share.p50);
    out.backward = out.backward.scaledBy(protocol->share.p50);
    out.arithmetic.push_back("× " + quantity::significant(protocol->share.p50, 2) + " (" +
                             quantity::significant(protocol->share.p10, 2) + " to " +
                             quantity::significant(protocol->share.p90, 2) + "): " + protocol->label);
    return out;
}

quantity::Result<RoutePrediction> predict(const house::House& house, const catalog::Catalog& catalog,
                                          const house::Route& route) {
    auto elements = house::RouteFinder(house).find(route);
    if (!elements) return tl::unexpected(elements.error());
    RoutePrediction out;
    out.route = route;
    if (const catalog::FileProtocol* protocol = catalog.protocol(route.fileProtocol))
        out.copyShare = protocol->share.p50;
    const Plants plants(house, catalog);
    std::vector<Distribution> forward;
    std::vector<Distribution> backward;
    for (const house::Element& element : *elements) {
        Ceiling ceiling = ceilingOn(house, catalog, route, element, &plants);
        forward.push_back(ceiling.forward);
        backward.push_back(ceiling.backward);
        const RateSpread ahead = ceiling.forward.spread();
        const RateSpread back = ceiling.backward.spread();
        out.elements.push_back({element, std::move(ceiling), ahead, back, 0, 0});
    }
    const Least ahead = leastOf(forward);
    const Least back = leastOf(backward);
    for (std::size_t i = 0; i < out.elements.size(); ++i) {
        out.elements[i].limiterForward = ahead.limiter[i];
        out.elements[i].limiterBackward = back.limiter[i];
    }
    out.forward = ahead.spread;
    out.backward = back.spread;
    std::vector<Distribution::Named> named;
    for (const bool isForward : {true, false}) {
        named.clear();
        for (std::size_t i = 0; i < forward.size(); ++i)
            named.push_back({drawName(house, out.elements[i].element, isForward),
                             isForward ? &forward[i] : &backward[i]});
        (isForward ? out.forwardRate : out.backwardRate) = Distribution::least(named);
    }
    out.rttMicroseconds = idleRtt(house, catalog, *elements);
    return out;
}

} // namespace metrodos::capacity
