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
                                                       const benchmark::RunOrder& order,
                                                       const RunObserver& observer,
                                                       const std::stop_token& stop);

} // namespace metrodos::probe
