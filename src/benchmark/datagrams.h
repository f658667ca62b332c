// What a row of numbered datagrams says about loss, order and timing, in constant memory.
#pragma once

#include "benchmark/histogram.h"

#include <cstdint>
#include <vector>

namespace metrodos::benchmark {

/// Takes the datagrams of one flow as they arrive. Numbers begin at 0 and rise by one; the two clocks need
/// not agree, only run at the same rate.
class DatagramStatistics {
  public:
    DatagramStatistics();

    /// Whether it is the first of its number: what comes again carries nothing new. Times in ns of the
    /// sender's and the receiver's clock. A number far below those seen lately, or absurdly far ahead, is not
    /// of this flow and is left out: false as well.
    bool take(std::uint64_t number, std::int64_t sentNs, std::int64_t arrivedNs);

    /// So far; `sent` is what the highest number says until the sender has counted.
    [[nodiscard]] DatagramCount count() const;
    /// Loss since the last call, from the numbers alone: nothing when none were due.
    [[nodiscard]] std::optional<double> takeLoss();

  private:
    std::vector<std::uint64_t> m_seen; // ring of bits over the latest `window` numbers
    std::uint64_t m_next = 0;          // one above the highest number
    std::uint64_t m_received = 0;
    std::uint64_t m_duplicates = 0;
    std::uint64_t m_reordered = 0;
    double m_jitterNs = 0;
    double m_lastTransit = 0;
    double m_leastTransit = 0; ///< of both, ns
    LogHistogram m_variation;  // µs
    std::uint64_t m_takenNext = 0;
    std::uint64_t m_takenReceived = 0;
};

} // namespace metrodos::benchmark
