#include "standin/truth.h"

#include "quantity/draw.h"

#include <algorithm>

namespace metrodos::standin {
namespace {

constexpr double defaultWindow = 3145728; // a machine of unknown class: Linux with its defaults

// Sockets and machines waver a little; ports and cables do not.
double variationOf(house::ElementKind kind) {
    return kind == house::ElementKind::bus || kind == house::ElementKind::host ? 0.006 : 0.0;
}

const catalog::HostClass* hostClass(const house::House& house, const catalog::Catalog& catalog,
                                    const house::Id& device) {
    const house::Device* found = house.device(device);
    return found == nullptr ? nullptr : catalog.host(found->deviceClass);
}

} // namespace

quantity::Result<RouteTruth> truthOf(const house::House& house, const catalog::Catalog& catalog,
                                     const house::Route& route, benchmark::Direction direction,
                                     std::uint64_t seed) {
    const auto elements = house::RouteFinder(house).find(route);
    if (!elements) return tl::unexpected(elements.error());
    const bool forward = direction == benchmark::Direction::forward;
    RouteTruth out;
    for (std::size_t i = 0; i < elements->size(); ++i) {
        const house::Element& element = (*elements)[i];
        const capacity::Ceiling ceiling = capacity::ceilingOn(house, catalog, route, element);
        const house::Connection* connection = house.connection(element.connection);
        const catalog::MediumClass* medium =
            connection == nullptr ? nullptr : catalog.medium(connection->medium);
        // A medium carries the directions differently, since the noise is local to the receiver; all else is
        // alike.
        const double u = quantity::uniformOf(
            seed, element.id + (medium != nullptr ? "/" + element.exit.device + (forward ? ">" : "<") : ""));
        const capacity::Distribution& belief = forward ? ceiling.forward : ceiling.backward;
        // What lies ahead of a flow tells its direction through an element from the other one.
        const std::size_t ahead = forward ? i + 1 : i - 1; // wraps below 0: the end of the route
        const std::string towards = ahead < elements->size() ? (*elements)[ahead].id : std::string("end");
        const bool shared = medium != nullptr && connection->medium != house::Medium::data_cable;
        out.elements.push_back({belief.quantile(std::clamp(u, 0.02, 0.98)),
                                medium == nullptr ? variationOf(element.kind) : medium->variation,
                                shared ? element.connection : element.id + ">" + towards});
    }
    const catalog::Spread<double> rtt = capacity::idleRtt(house, catalog, *elements);
    const double u = quantity::uniformOf(seed, route.id + "/rtt");
    out.rttUs = rtt.p10 + (rtt.p90 - rtt.p10) * u * 0.5 + 60; // 60 µs for the two stacks
    const house::Id first = elements->front().device;
    const house::Id last = elements->back().device;
    const catalog::HostClass* receiver = hostClass(house, catalog, forward ? last : first);
    out.windowBytes = receiver == nullptr ? defaultWindow : receiver->windowBytes;
    double least = out.elements.front().capacityBps;
    for (const ElementTruth& element : out.elements)
        least = std::min(least, element.capacityBps);
    // Small boxes hold some milliseconds of traffic; 256 KiB is common, and no less than a few frames.
    out.queueBytes = std::clamp(least / 8 * 0.008, 32e3, 256.0 * 1024);
    out.senderCpuBps = (forward ? out.elements.front() : out.elements.back()).capacityBps;
    out.receiverCpuBps = (forward ? out.elements.back() : out.elements.front()).capacityBps;
    return out;
}

} // namespace metrodos::standin
