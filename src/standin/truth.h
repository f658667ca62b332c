// What a simulated house really carries: one draw from each element's distribution, fixed by the seed.
#pragma once

#include "benchmark/run.h"
#include "capacity/predict.h"

#include <cstdint>
#include <string>
#include <vector>

namespace metrodos::standin {

/// One element as the simulation has it, in the direction of the run.
struct ElementTruth {
    double capacityBps = 0; ///< goodput
    double variation = 0;   ///< relative standard deviation from second to second
    /// The same for flows that share what is there: a half-duplex medium, or anything else passed in the same
    /// direction.
    std::string passage = {};
};

/// What is wrong in a simulated house that its survey does not tell.
struct HiddenFault {
    house::Id element;      ///< of the route; "unlisted": something in its way that the survey lacks
    double forward = 1;     ///< share of the element's capacity that is left, from → to
    double backward = 1;    ///< and to → from
    double window = 1;      ///< a machine: share of its receive window that is left
    double bps = 0;         ///< "unlisted": its capacity
    double variation = 0;   ///< relative standard deviation from second to second that it adds
    double lossForward = 0; ///< share of the segments that it loses, from → to
    double lossBackward = 0;
    bool errors = false;                             ///< a machine at its end counts frames with errors
    bool fillsCore = true;                           ///< a machine: it is its processor that is slow
    std::vector<house::AlterationKind> curedBy = {}; ///< what lifts it
};

/// How a run is set up in a simulated house.
struct Situation {
    std::vector<HiddenFault> hidden = {};
    benchmark::Arrangement arrangement = {};
};

/// What keeps a flow from going faster, where it is not its window.
enum class HeldAt { network, sender, receiver };

/// All that the flow model needs to know of a route in one direction.
struct RouteTruth {
    std::vector<ElementTruth> elements; ///< in route order from → to
    double rttUs = 0;                   ///< idle round-trip time
    double windowBytes = 0;             ///< receive window of one stream
    double queueBytes = 0;              ///< buffer in front of the narrowest element
    double senderCpuBps = 0;            ///< what keeps one core of the sender busy
    double receiverCpuBps = 0;
    HeldAt heldAt = HeldAt::network;
    bool errors = false; ///< the receiver counts frames with errors
    double loss = 0;     ///< share of the segments that are lost whatever the queue
};

/// Draws the truth of a route. The same seed gives every element the same capacity on every route and at
/// every call.
[[nodiscard]] quantity::Result<RouteTruth> truthOf(const house::House& house, const catalog::Catalog& catalog,
                                                   const house::Route& route, benchmark::Direction direction,
                                                   std::uint64_t seed, const Situation& situation = {});

} // namespace metrodos::standin
