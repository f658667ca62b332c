// Round-trip times on a connection of their own, before and during the load.
#pragma once

#include "benchmark/run.h"
#include "probe/socket.h"

#include <atomic>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

namespace metrodos::probe {

/// Answers every probe on a socket until stopped or the peer closes.
class DelayEcho {
  public:
    explicit DelayEcho(Fd socket);
    ~DelayEcho();

  private:
    void work();
    Fd m_socket;
    std::atomic<bool> m_stop{false};
    std::thread m_thread;
};

/// Sends a small probe every 20 ms and times its return on the monotonic clock.
class DelayProbe {
  public:
    explicit DelayProbe(Fd socket);
    ~DelayProbe();

    /// The median of the round-trip times since the last call, in µs; nothing when none came back.
    [[nodiscard]] std::optional<double> takeMedian();
    /// Percentiles of all round-trip times since `mark`; nothing for fewer than three.
    [[nodiscard]] std::optional<benchmark::Percentiles> percentiles() const;
    /// Forgets what was measured so far.
    void mark();
    [[nodiscard]] std::size_t count() const;

  private:
    void work();
    Fd m_socket;
    std::atomic<bool> m_stop{false};
    mutable std::mutex m_mutex;
    std::vector<double> m_times; // since mark, µs
    std::size_t m_taken = 0;
    std::thread m_thread;
};

} // namespace metrodos::probe
