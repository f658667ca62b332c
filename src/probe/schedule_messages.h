// Schedules over the control connection: what an agent answers, and what a controller asks.
#pragma once

#include "benchmark/run.h"
#include "probe/schedule_keeper.h"

namespace metrodos::probe {

/// The answer to "schedule-give", "schedule-list", "schedule-records" and "schedule-end"; a problem message
/// where the order cannot be followed.
[[nodiscard]] nlohmann::json answerSchedule(ScheduleKeeper& keeper, const std::string& type,
                                            const nlohmann::json& message);

[[nodiscard]] quantity::Result<void> giveSchedule(EndpointLink& agent, const Assignment& assignment);
/// Returns the identity of the key that the agent had for the other end, which can be taken back there.
[[nodiscard]] quantity::Result<std::string> endSchedule(EndpointLink& agent, const std::string& id);

/// What an agent has made since.
struct Collected {
    /// By the time of this machine, whatever the clock of the agent says.
    std::vector<benchmark::Run> runs;
    struct Missed {
        std::string at; ///< ISO 8601, UTC
        std::string why;
    };
    std::vector<Missed> missed;
    std::int64_t newest = 0;    ///< number of the newest record that was read; what was asked where none was
    std::size_t unreadable = 0; ///< records that do not hold together
    double agentAhead = 0;      ///< s by which the agent's clock is ahead of this machine's
};
/// All records with numbers above `after`.
[[nodiscard]] quantity::Result<Collected> collectSchedule(EndpointLink& agent, const std::string& id,
                                                          std::int64_t after);

} // namespace metrodos::probe
