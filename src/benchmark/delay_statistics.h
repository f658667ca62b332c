// Round-trip times of a probe that goes out at a steady beat: percentiles, spikes, what never came back.
#pragma once

#include "benchmark/histogram.h"

#include <cstdint>
#include <vector>

namespace metrodos::benchmark {

/// Constant memory however long it counts.
class DelayStatistics {
  public:
    /// One round trip that ended `t` seconds after the start.
    void add(double t, double rttUs);
    /// A probe that was given up.
    void lose() { ++m_lost; }
    void clear();
    [[nodiscard]] std::uint64_t count() const { return m_all.count(); }
    [[nodiscard]] std::uint64_t lost() const { return m_lost; }
    [[nodiscard]] std::optional<Percentiles> percentiles() const { return m_all.percentiles(); }
    /// The highest of those more than three times the median and 5 ms above it, by time; at most 20.
    [[nodiscard]] std::vector<DelaySpike> spikes() const;
    /// The median since the last call; nothing when none came.
    [[nodiscard]] std::optional<double> takeMedian();

  private:
    LogHistogram m_all;
    std::vector<DelaySpike> m_highest; // the highest so far, in no order
    std::vector<double> m_recent;
    std::uint64_t m_lost = 0;
};

/// The median and the 95th percentile of delays in µs; nothing of fewer than three.
[[nodiscard]] std::optional<Percentiles> percentilesOf(const std::vector<double>& rttsUs);

/// Round trips per minute that a mean delay allows (the measure of responsiveness of the IETF's work on
/// conditions under load): 60 s ÷ the round trip.
[[nodiscard]] double roundTripsPerMinute(double rttUs);

/// What waits in front of the narrowest element: (loaded − idle delay) × rate ÷ 8, in bytes; nothing where a
/// delay was not taken or did not rise.
[[nodiscard]] std::optional<double> queueBytes(const Run& run);

} // namespace metrodos::benchmark
