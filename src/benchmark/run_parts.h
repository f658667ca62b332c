// Parts of runs as JSON, alike in the messages of a run, in the job file and in documents: one writer and one
// reader each, with the same bounds wherever they are read. Readers throw quantity::BadField.
#pragma once

#include "benchmark/run.h"
#include "quantity/fields.h"

namespace metrodos::benchmark {

inline constexpr double maxSeconds = 2 * maxRun; ///< a run may end late
inline constexpr double maxBps = 1e13;
inline constexpr double maxRttUs = 1e10;
inline constexpr double maxCores = 1024;
inline constexpr std::size_t maxSamples = 40'000;
inline constexpr std::size_t maxSpikes = 20;

/// Bits a second; null for nothing.
[[nodiscard]] nlohmann::json toJson(const std::optional<BitRate>& rate);
[[nodiscard]] std::optional<BitRate> readRate(const nlohmann::json& object, const char* key);

/// {"p50", "p95", "p99", "max"}; all null where nothing was taken.
[[nodiscard]] nlohmann::json toJson(const std::optional<Percentiles>& p);
/// Of the member `key`; nothing where it is absent, null, or has no p50 or p95.
[[nodiscard]] std::optional<Percentiles> readPercentiles(const nlohmann::json& object, const char* key);

/// {"name", "bytes", "errors", "radio", "cable_too", "elsewhere"}; nothing where there is no count of bytes.
[[nodiscard]] nlohmann::json toJson(const std::optional<InterfaceCount>& count);
[[nodiscard]] std::optional<InterfaceCount> readInterface(const nlohmann::json& value);

/// {"network", "receiver_window", "send_buffer"}, of the member "sender_limited".
[[nodiscard]] nlohmann::json toJson(const std::optional<SenderLimited>& limited);
[[nodiscard]] std::optional<SenderLimited> readSenderLimited(const nlohmann::json& object);

/// {"sent", "unsent", "received", "duplicates", "reordered", "dropped_at_receiver", "jitter_us",
/// "variation_us"}; null for nothing.
[[nodiscard]] nlohmann::json toJson(const std::optional<DatagramCount>& count);
[[nodiscard]] DatagramCount readDatagrams(const nlohmann::json& value);

/// [{"t_s", "rtt_us"}], of the member "delay_spikes".
[[nodiscard]] nlohmann::json toJson(const std::vector<DelaySpike>& spikes);
[[nodiscard]] std::vector<DelaySpike> readSpikes(const nlohmann::json& object);

} // namespace metrodos::benchmark
