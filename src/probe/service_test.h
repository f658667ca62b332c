// The internet service as a test of its own: loads from and to a web address over HTTP.
#pragma once

#include "benchmark/run.h"
#include "probe/conduct.h"

#include <stop_token>
#include <string>

namespace metrodos::probe {

struct ServiceTestConfig {
    std::string url;               ///< http:// or https://, host, port and path
    bool down = true;              ///< GET the address again and again; otherwise POST to it
    benchmark::RunConfig run = {}; ///< direction as the route has it, streams, seconds, warmup
};

/// Loads for the time of the order over as many connections as it has streams, each with requests in a row,
/// and times small requests on a connection of their own before and meanwhile. Downloaded bytes are counted
/// as they arrive; uploaded ones once the kernel has taken them, whose buffers are kept at 128 KiB a
/// connection, so that the figure of a short test is not that of the buffers. Delays hold the server's own
/// thinking time. A stop request ends it within 200 ms and returns what was measured so far, marked
/// incomplete. A Problem when the server cannot be reached or refuses.
[[nodiscard]] quantity::Result<benchmark::Run>
testService(const ServiceTestConfig& config, const RunObserver& observer, const std::stop_token& stop);

/// The header by which a stand-in says that what it sends is simulated.
inline constexpr const char* simulatedHeader = "X-Simulated";

} // namespace metrodos::probe
