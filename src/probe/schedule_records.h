// What an agent keeps of the runs that it made by itself: bounded, the newest win, in files that survive it.
#pragma once

#include "quantity/problem.h"

#include <cstdint>
#include <deque>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <string>

namespace metrodos::probe {

/// A clock that goes on in sleep and that nobody sets: seconds since this boot, and which boot it is. By it
/// the age of a record is known although the clock of the wall was wrong when it was made.
struct Uptime {
    std::string boot;   ///< boot_id of random(4); empty: not known
    double seconds = 0; ///< CLOCK_BOOTTIME of clock_gettime(2)
};
[[nodiscard]] Uptime uptimeNow();

/// One run of a schedule, or why there was none.
struct ScheduleRecord {
    std::int64_t number = 0; ///< rising from 1
    std::int64_t slot = 0;   ///< seconds since 1970: for when it was due
    double at = 0;           ///< seconds since 1970, by the agent's clock: when the run began
    Uptime uptime;           ///< at the same time
    double peerAhead = 0;    ///< s by which the peer's clock was ahead of the agent's
    nlohmann::json run;      ///< as benchmark::toJson; null where there was none
    std::string problem;     ///< why there was none
};
[[nodiscard]] nlohmann::json toJson(const ScheduleRecord& record);
/// Throws quantity::BadField.
[[nodiscard]] ScheduleRecord readRecord(const nlohmann::json& value);

inline constexpr std::size_t maxRecords = 2000; ///< of one schedule
inline constexpr std::size_t maxRecordBytes =
    150'000; ///< of one record as JSON; a run of more goes without samples
inline constexpr std::size_t maxStoreBytes = 32'000'000; ///< of one schedule's records

/// The records of one schedule. Not thread-safe.
class ScheduleRecords {
  public:
    /// Those in `folder`, which is made; an empty path keeps them in memory only. Files that cannot be read
    /// are left out.
    static quantity::Result<ScheduleRecords> open(std::filesystem::path folder);

    /// Gives the record its number; the oldest go where there are too many.
    quantity::Result<void> add(ScheduleRecord record);
    /// Those with higher numbers, oldest first, as many as fit into `maxBytes` of JSON but at least one.
    [[nodiscard]] std::vector<nlohmann::json> after(std::int64_t number, std::size_t maxBytes) const;
    [[nodiscard]] std::size_t size() const { return m_records.size(); }
    [[nodiscard]] std::int64_t newest() const { return m_next - 1; }
    [[nodiscard]] std::int64_t lastSlot() const { return m_lastSlot; }
    /// Of the newest record; empty: it was a run, or there is none.
    [[nodiscard]] std::string lastProblem() const;

  private:
    struct Kept {
        std::int64_t number = 0;
        std::size_t bytes = 0;
        nlohmann::json body;
    };
    [[nodiscard]] std::filesystem::path fileOf(std::int64_t number) const;
    void dropOldest();

    std::filesystem::path m_folder;
    std::deque<Kept> m_records;
    std::size_t m_bytes = 0;
    std::int64_t m_next = 1;
    std::int64_t m_lastSlot = 0;
};

} // namespace metrodos::probe
