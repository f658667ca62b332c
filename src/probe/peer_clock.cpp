#include "probe/peer_clock.h"

#include "quantity/fields.h"

#include <chrono>
#include <limits>
#include <nlohmann/json.hpp>

namespace metrodos::probe {

double wallSeconds() {
    return std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count();
}

std::optional<double> clockAhead(EndpointLink& link) {
    using Clock = std::chrono::steady_clock;
    constexpr int exchanges = 5;
    constexpr double latest = 1e11;
    std::optional<double> ahead;
    double shortest = std::numeric_limits<double>::infinity();
    for (int i = 0; i < exchanges; ++i) {
        const auto began = Clock::now();
        const double before = wallSeconds();
        const auto answer = link.ask({{"type", "clock"}}, "clock", std::chrono::seconds(2));
        if (!answer) return ahead;
        const double took = std::chrono::duration<double>(Clock::now() - began).count();
        const auto there = quantity::fields::ifSound(
            [&] { return quantity::fields::neededNumber(*answer, "utc_s", 0, latest); });
        if (!there) return ahead;
        if (took >= shortest) continue;
        shortest = took;
        ahead = *there - (before + took / 2);
    }
    return ahead;
}

} // namespace metrodos::probe
