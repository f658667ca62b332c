// What is not known about the things that a route passes: for each, the ways that it may be, with what it
// would carry then. The prior of the inference.
#pragma once

#include "capacity/predict.h"
#include "trace/curve.h"

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace metrodos::trace {

/// The id of the suspect that stands for everything that is not on the list of elements.
inline constexpr const char* unlisted = "unlisted";

/// One way that a thing may be. Both senses of a tied one carry the same.
struct State {
    const catalog::FaultClass* fault = nullptr; ///< nullptr: as its class says
    double weight = 0;
    std::array<Curve, 2> carries; ///< ln bit/s by sense; of a window ln bytes
    bool tied = true;
    std::array<catalog::Signature, 2> shows;
    double variation = 0; ///< relative standard deviation from second to second
};

enum class Part {
    element,
    window,   ///< what a receiver lets one stream have under way
    unlisted, ///< whatever is not in the survey
    loss,     ///< what the segments that a cable or a box loses leave of one stream: ln(1 / √p)
};

/// Something whose ceiling is not known for sure. A sense is one of its two ways through: for a machine 0
/// sends and 1 receives, for disks 0 reads and 1 writes, for a service 0 comes into the house, for everything
/// else 0 goes from the end that comes first by name.
struct Unknown {
    Part part = Part::element;
    house::Id element; ///< a window belongs to its machine
    std::string label;
    house::ElementKind kind = house::ElementKind::host;
    double variation = 0; ///< of its sound states
    house::Id stretch;    ///< unlisted: the cable in whose stretch it would be; empty: the route has none
    std::vector<State> states;

    /// The states that something lifts, a bit each (catalog::FaultClass::curedBy).
    [[nodiscard]] std::uint32_t curedBy(house::AlterationKind what) const;
};

/// The same thing once more with nothing wrong: what it would be like at another outlet, or without a fault
/// that is lifted for the time of a run. Its value is another draw.
[[nodiscard]] Unknown twinOf(const Unknown& unknown);

/// The unknowns of a route: its elements in order, the windows of the machine at `from` and at `to`, and what
/// is unlisted in the stretch of one cable; the same holds for every other.
struct LossUnknown {
    std::size_t at = 0; ///< the element's place on the route
    Unknown unknown;
};
struct Unknowns {
    std::vector<LossUnknown> losses; ///< of the cables and boxes that can lose segments
    std::vector<Unknown> all;
    std::size_t elements = 0;
    [[nodiscard]] std::size_t windowAtFrom() const { return elements; }
    [[nodiscard]] std::size_t windowAtTo() const { return elements + 1; }
    [[nodiscard]] std::size_t unlistedOne() const { return elements + 2; }
};

/// What a stream carries at this round trip times the root of the share of its segments that is lost, bit/s:
/// 1.22 · segment / RTT (Mathis, Semke, Mahdavi and Ott 1997).
[[nodiscard]] double lossBound(double rttUs);

/// What links were read to run at does not count here: that is an observation of cable and ports together.
[[nodiscard]] Unknowns unknownsOf(const capacity::RoutePrediction& prediction, const house::House& house,
                                  const catalog::Catalog& catalog);

/// The sense in which a run of this direction passes an element of the route; `index` is its place there.
[[nodiscard]] int senseOf(const std::vector<capacity::ElementPrediction>& elements, std::size_t index,
                          bool forward);

} // namespace metrodos::trace
