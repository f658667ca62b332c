// The prediction of a route: every element's ceiling, the route's own, and which element is the least.
#pragma once

#include "capacity/ceiling.h"
#include "quantity/problem.h"

namespace metrodos::capacity {

struct ElementPrediction {
    house::Element element;
    Ceiling ceiling;
    RateSpread forward;        ///< spread of ceiling.forward
    RateSpread backward;       ///< spread of ceiling.backward
    double limiterForward = 0; ///< probability that it is the least, from → to
    double limiterBackward = 0;
};

struct RoutePrediction {
    house::Route route;
    std::vector<ElementPrediction> elements; ///< in the order of the route
    RateSpread forward;
    RateSpread backward;
    Distribution forwardRate = Distribution::certain(BitRate::bitsPerSecond(1)); ///< whole, with its draws
    Distribution backwardRate = forwardRate;
    double copyShare =
        1; ///< that the file protocol leaves of everything but the disks, in the ceilings already
    catalog::Spread<double> rttMicroseconds; ///< idle round-trip time: the sum of the elements' delays
};

/// Fails only where no route is found. Where files are copied, what the network carries is multiplied by the
/// median share that the file protocol leaves, and what that gives at most caps the disks that are read.
[[nodiscard]] quantity::Result<RoutePrediction>
predict(const house::House& house, const catalog::Catalog& catalog, const house::Route& route);

/// The ceiling of one element of a route: ceilingOf with the route's framing and file protocol.
[[nodiscard]] Ceiling ceilingOn(const house::House& house, const catalog::Catalog& catalog,
                                const house::Route& route, const house::Element& element,
                                const Plants* plants = nullptr);

/// The name that the draws of an element's ceiling go by (Distribution::drawn).
[[nodiscard]] std::string drawName(const house::House& house, const house::Element& element, bool isForward);

/// The idle round-trip time of a route of copies, in microseconds, at least that of a cable.
[[nodiscard]] catalog::Spread<double> copyRtt(const house::House& house, const catalog::Catalog& catalog,
                                              const house::Route& route);

/// The idle round-trip time of a list of elements, in microseconds.
[[nodiscard]] catalog::Spread<double> idleRtt(const house::House& house, const catalog::Catalog& catalog,
                                              const std::vector<house::Element>& elements);

} // namespace metrodos::capacity
