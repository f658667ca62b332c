// What the runs of the job say of the ways that they went over. Internal to the layer.
#pragma once

#include "benchmark/watch_report.h"
#include "weigh/options.h"

namespace metrodos::weigh {

/// What runs say of something between two rooms.
struct Measured {
    house::Id roomA; ///< forward goes from here
    house::Id roomB;
    house::Medium medium = house::Medium::coax;
    house::Id connection;
    std::optional<BitRate> forward;
    std::optional<BitRate> backward;
    bool wasLimit = false;               ///< false: it carries at least so much
    double variation = 0;                ///< relative standard deviation from second to second
    std::optional<double> loadedUs = {}; ///< round trip that 95 in 100 stay below while the route is full
    std::optional<Watched> watchedForward = {};
    std::optional<Watched> watchedBackward = {};
};

/// What the runs and watches of all routes say of the media and runs of cable they passed.
[[nodiscard]] std::vector<Measured> measuredIn(const house::House& house, const catalog::Catalog& catalog,
                                               const benchmark::RouteRuns& runs,
                                               const std::vector<benchmark::WatchReport>& watches = {});

/// A belief after a measurement: around it where the thing was the limit, else the part of it that lies
/// above.
[[nodiscard]] capacity::Distribution updatedBy(const capacity::Distribution& before, BitRate measured,
                                               bool wasLimit, double variation);

} // namespace metrodos::weigh
