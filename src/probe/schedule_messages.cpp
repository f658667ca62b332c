#include "probe/schedule_messages.h"

#include "benchmark/run_json.h"
#include "probe/message.h"
#include "probe/peer_clock.h"
#include "quantity/fields.h"
#include "quantity/moment.h"

#include <cmath>

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;
using quantity::Result;

constexpr std::size_t mostAtOnce = 200'000; // bytes of records in one message
constexpr std::chrono::seconds scheduleAnswer{5};

json answerOf(const Result<void>& outcome) {
    return outcome ? json{{"type", "schedule"}} : problemMessage(outcome.error());
}

json recordsOf(const ScheduleKeeper& keeper, const json& message) {
    const auto asked = reading([&] {
        return std::pair(fields::neededText(message, "id", 64),
                         fields::neededNumber(message, "after", 0, 1e12));
    });
    if (!asked) return problemMessage(asked.error());
    auto records = keeper.records(asked->first, static_cast<std::int64_t>(asked->second), mostAtOnce);
    if (!records) return problemMessage(records.error());
    const Uptime uptime = keeper.uptime();
    return {{"type", "schedule-records"},
            {"records", std::move(*records)},
            {"utc_s", keeper.wallClock()},
            {"boot", uptime.boot},
            {"uptime_s", uptime.seconds}};
}

} // namespace

json answerSchedule(ScheduleKeeper& keeper, const std::string& type, const json& message) {
    if (type == "schedule-give") {
        const auto assignment = reading([&] { return readAssignment(message); });
        return assignment ? answerOf(keeper.take(*assignment)) : problemMessage(assignment.error());
    }
    if (type == "schedule-records") return recordsOf(keeper, message);
    if (type == "schedule-end") {
        const auto id = reading([&] { return fields::neededText(message, "id", 64); });
        return id ? answerOf(keeper.drop(*id)) : problemMessage(id.error());
    }
    json list = json::array();
    for (const ScheduleKeeper::State& s : keeper.states())
        list.push_back({{"id", s.schedule.id},
                        {"label", s.schedule.label},
                        {"peer", s.peer},
                        {"peer_identity", s.peerIdentity},
                        {"records", s.records},
                        {"newest", s.newest},
                        {"last_problem", fields::orNull(s.lastProblem)}});
    return {{"type", "schedule"}, {"schedules", std::move(list)}};
}

Result<void> giveSchedule(EndpointLink& agent, const Assignment& assignment) {
    json order = toJson(assignment);
    order["type"] = "schedule-give";
    return agent.ask(order, "schedule", scheduleAnswer).map([](const json&) {});
}

Result<std::string> endSchedule(EndpointLink& agent, const std::string& id) {
    const auto known = agent.ask({{"type", "schedule-list"}}, "schedule", scheduleAnswer);
    if (!known) return tl::unexpected(known.error());
    std::string identity;
    if (const json* list = known->contains("schedules") && known->at("schedules").is_array()
                               ? &known->at("schedules")
                               : nullptr)
        for (const json& one : *list)
            if (one.is_object() && fields::ifSound([&] { return fields::text(one, "id", 64); }) == id)
                identity =
                    fields::ifSound([&] { return fields::text(one, "peer_identity", 64); }).value_or("");
    return agent.ask({{"type", "schedule-end"}, {"id", id}}, "schedule", scheduleAnswer)
        .map([&](const json&) { return identity; });
}

Result<Collected> collectSchedule(EndpointLink& agent, const std::string& id, std::int64_t after) {
    constexpr double latest = 1e11;
    Collected out;
    out.newest = after;
    out.agentAhead = clockAhead(agent).value_or(0);
    // An agent has at most so many records, and gives at least one at a time.
    for (std::size_t turn = 0; turn <= maxRecords; ++turn) {
        const auto answer = agent.ask({{"type", "schedule-records"}, {"id", id}, {"after", out.newest}},
                                      "schedule-records", scheduleAnswer);
        if (!answer) return tl::unexpected(answer.error());
        const double now = wallSeconds();
        const std::int64_t before = out.newest;
        const auto read = reading([&]() -> bool {
            const std::string boot = fields::text(*answer, "boot", 64);
            const double uptime = fields::neededNumber(*answer, "uptime_s", 0, latest);
            const json* list = fields::list(*answer, "records", maxRecords);
            if (list == nullptr) return false;
            for (const json& one : *list) {
                const auto record = fields::ifSound([&] { return readRecord(one); });
                // Numbers rise: what does not would be asked for again and again.
                if (!record || record->number <= out.newest) {
                    ++out.unreadable;
                    continue;
                }
                out.newest = record->number;
                // Within one boot the age is known whatever was done to the clock on the wall.
                const bool isSameBoot = !boot.empty() && record->uptime.boot == boot;
                const double at =
                    isSameBoot ? now - (uptime - record->uptime.seconds) : record->at - out.agentAhead;
                const std::string when = quantity::utcText(static_cast<std::int64_t>(std::llround(at)));
                if (record->run.is_null()) {
                    out.missed.push_back({when, record->problem});
                    continue;
                }
                auto run = benchmark::runFromJson(record->run);
                if (!run) {
                    ++out.unreadable;
                    continue;
                }
                run->startedAt = when;
                out.runs.push_back(std::move(*run));
            }
            return true;
        });
        if (!read) return tl::unexpected(agent.placed(read.error()));
        if (out.newest == before) break;
    }
    return out;
}

} // namespace metrodos::probe
