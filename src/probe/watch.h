// Watches a way between two endpoints for hours or days and finds the times at which it drops out.
#pragma once

#include "benchmark/watch_report.h"
#include "probe/conduct.h"

namespace metrodos::probe {

struct WatchConfig {
    /// Opens the links to the two ends, at the start and again whenever they were lost.
    OpenLink from;
    OpenLink to;
    /// What goes on all the time: datagrams at a low pace, or TCP as fast as it goes. Its length is that of
    /// one run of many, between which half a second passes unwatched.
    benchmark::RunConfig run;
    double seconds = 3600; ///< in all, 1 s to 30 days; of simulated time where the ends are simulated
};

struct WatchObserver {
    std::function<void(double t, const benchmark::Sample&)> sample;
    std::function<void(double t, const quantity::Problem&)>
        lost;                                                ///< the ends could not be reached; again soon
    std::function<void(const benchmark::WatchReport&)> kept; ///< what there is after every run
};

inline constexpr double maxWatch = 30.0 * 24 * 3600;

/// Goes on through lost links, agents that were started again and the sleep of this machine (seen by the
/// clock that goes on in sleep). Memory does not grow with time. A stop request ends it within a second. A
/// Problem only when the ends could not be reached at first.
[[nodiscard]] quantity::Result<benchmark::WatchReport>
watch(const WatchConfig& config, const WatchObserver& observer, const std::stop_token& stop);

} // namespace metrodos::probe
