// What several flows get at once: max–min fair rates over ports, uplinks and shared media.
#pragma once

#include "capacity/predict.h"

#include <optional>
#include <string>
#include <vector>

namespace metrodos::capacity {

/// Something that flows share. A flow of rate x takes x × its weight; the sum may not exceed 1.
struct SharedLoad {
    std::size_t flow = 0;
    double weight = 0; ///< 1 / (what the resource would carry for this flow alone), s/bit
};
struct Resource {
    std::string id;
    std::string label;
    std::vector<SharedLoad> loads;
};

/// Max–min fair rates by progressive filling (Bertsekas and Gallager, Data Networks, 6.5): all flows rise
/// together until a resource is full; those on it stop there. A demand above 0 stops a flow as well. The
/// result's limit is the index of the resource that stopped it, or the number of resources for its own
/// demand. A flow on no resource gets its demand, or 0.
struct FairShare {
    double bps = 0;
    std::size_t limit = 0;
};
[[nodiscard]] std::vector<FairShare> maxMinShares(const std::vector<Resource>& resources, std::size_t flows,
                                                  const std::vector<double>& demands = {});

/// One flow over a route of the house.
struct Flow {
    house::Route route;
    bool forward = true;
    std::optional<BitRate> demand; ///< nothing: all that it can get
};

struct FlowForecast {
    BitRate alone;   ///< median ceiling of its route
    BitRate shared;  ///< with all the others going on
    house::Id limit; ///< element that decides; empty: its own demand
    std::string because;
};

/// Medians of the ceilings. Ports, cables and sockets carry each direction by itself; a half-duplex medium is
/// one total in which each pair takes air time at its own rate; a machine sends and receives apart; a box,
/// its total.
[[nodiscard]] quantity::Result<std::vector<FlowForecast>>
shareFlows(const house::House& house, const catalog::Catalog& catalog, const std::vector<Flow>& flows);

} // namespace metrodos::capacity
