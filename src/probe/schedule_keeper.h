// Runs that an agent makes by itself, with another endpoint that the schedule names, while nobody is there.
#pragma once

#include "house/logged.h"
#include "probe/endpoint_link.h"
#include "probe/schedule_records.h"

#include <atomic>
#include <condition_variable>
#include <functional>
#include <map>
#include <mutex>
#include <stop_token>
#include <thread>

namespace metrodos::probe {

/// A schedule with the endpoint that the runs are made with.
struct Assignment {
    house::Schedule schedule; ///< `id` tells assignments apart; its route means nothing here
    std::string peer;         ///< "host:port"
    Key peerKey;
};
/// {"id", "label", "from", "every_minutes", "hours", "seconds", "streams", "peer", "peer_key"}
[[nodiscard]] nlohmann::json toJson(const Assignment& assignment);
/// Throws quantity::BadField.
[[nodiscard]] Assignment readAssignment(const nlohmann::json& value);

struct KeeperSettings {
    /// Where assignments, with the keys of their peers, and records are kept; empty: in memory only.
    std::filesystem::path folder;
    /// The agent's own end of a run.
    std::function<quantity::Result<EndpointLink>()> own;
    PeerFilter mayReach = {};               ///< which peers; empty: nearby ones
    std::function<std::int64_t()> now = {}; ///< seconds since 1970; empty: the system's clock
    std::function<Uptime()> uptime = &uptimeNow;
};

inline constexpr std::size_t maxAssignments = 16;

/// Looks every second what is due, in a thread of its own, and makes one run at a time. Thread-safe.
class ScheduleKeeper {
  public:
    /// Goes on with what is in the folder. A Problem where that cannot be used.
    static quantity::Result<std::unique_ptr<ScheduleKeeper>> start(KeeperSettings settings);
    ~ScheduleKeeper();
    ScheduleKeeper(const ScheduleKeeper&) = delete;
    ScheduleKeeper& operator=(const ScheduleKeeper&) = delete;

    /// In place of one with the same id, whose records stay.
    [[nodiscard]] quantity::Result<void> take(const Assignment& assignment);
    /// With its records; a Problem where there is none.
    [[nodiscard]] quantity::Result<void> drop(const std::string& id);

    struct State {
        house::Schedule schedule;
        std::string peer;
        std::string peerIdentity; ///< of the key that the peer was given for it
        std::size_t records = 0;
        std::int64_t newest = 0;
        std::string lastProblem;
    };
    [[nodiscard]] std::vector<State> states() const;
    [[nodiscard]] quantity::Result<std::vector<nlohmann::json>>
    records(const std::string& id, std::int64_t after, std::size_t maxBytes) const;

    /// Sessions say here that a run goes on: scheduled ones wait for it.
    [[nodiscard]] std::atomic<int>& busy() { return m_busy; }
    /// What the agent's clocks say now.
    [[nodiscard]] double wallClock() const;
    [[nodiscard]] Uptime uptime() const { return m_settings.uptime(); }
    /// Looks at once; for when the clock that `now` reads was moved.
    void wake();

  private:
    struct Kept {
        Assignment assignment;
        ScheduleRecords records;
        std::int64_t tried = 0;   ///< the newest time that was due and is over
        std::int64_t waiting = 0; ///< one that is due, while other runs go on; 0: none
    };
    explicit ScheduleKeeper(KeeperSettings settings)
        : m_settings(std::move(settings)) {}
    [[nodiscard]] std::int64_t now() const;
    void work(const std::stop_token& stop);
    struct Due {
        std::string id;
        std::int64_t slot = 0;
        Assignment assignment;
    };
    [[nodiscard]] std::optional<Due> nextDue();
    void perform(const Due& due, const std::stop_token& stop);
    void keep(const std::string& id, ScheduleRecord record);
    [[nodiscard]] std::filesystem::path folderOf(const std::string& id) const;
    [[nodiscard]] quantity::Result<void> load();

    KeeperSettings m_settings;
    mutable std::mutex m_mutex;
    std::condition_variable_any m_changed;
    std::map<std::string, Kept> m_kept;
    std::atomic<int> m_busy{0};
    bool m_woken = false;
    std::jthread m_thread; // last: it uses all of the above
};

} // namespace metrodos::probe
