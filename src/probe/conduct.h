// Conducts one run between two endpoints and collects what both saw.
#pragma once

#include "benchmark/run.h"
#include "probe/endpoint_link.h"

#include <functional>
#include <stop_token>

namespace metrodos::probe {

/// Called from the conducting thread while the run goes on.
struct RunObserver {
    std::function<void(const benchmark::Run&)> started; ///< links are open, idle delay is known
    std::function<void(const benchmark::Sample&)> sample;
};

/// Runs `order` between the endpoints and returns when it has ended. A stop request ends it within 200 ms and
/// returns what was measured so far, marked incomplete. A Problem when it could not be done or one end fell
/// silent.
[[nodiscard]] quantity::Result<benchmark::Run> conduct(EndpointLink& from, EndpointLink& to,
                                                       const benchmark::RunConfig& config,
                                                       const RunObserver& observer,
                                                       const std::stop_token& stop);

/// A run of one stream whose bytes come from a file at the sender, which made it (transfer.h), or go into one
/// at the receiver.
struct FileEnds {
    bool fromDisk = false;
    bool toDisk = false;
};
struct FileRun {
    benchmark::Run run;
    std::uint64_t received = 0; ///< bytes
    double seconds = 0;         ///< from the first byte at the receiver to the last
    std::optional<double>
        syncSeconds; ///< then until it was on the disk; nothing: it did not get there, or was not to
};
/// `config.maxBytes` of it; `config.seconds` is the longest that it may take.
[[nodiscard]] quantity::Result<FileRun> conductFile(EndpointLink& from, EndpointLink& to,
                                                    const benchmark::RunConfig& config, const FileEnds& ends,
                                                    const RunObserver& observer, const std::stop_token& stop);

/// One of the runs that go on at the same time. Each needs links of its own: an endpoint does one run a link.
struct Leg {
    EndpointLink& from;
    EndpointLink& to;
    benchmark::RunConfig config;
    RunObserver observer; ///< called from a thread of this leg's own
};

/// Runs all legs at once: none starts before all are open. The runs come back in the order of the legs;
/// several are marked as one group. When one of them fails the others are stopped, and its Problem is
/// returned.
[[nodiscard]] quantity::Result<std::vector<benchmark::Run>> conductAll(std::vector<Leg>& legs,
                                                                       const std::stop_token& stop);

} // namespace metrodos::probe
