// Round-trip times by datagrams of their own, before and during the load, with the kernel's time stamps.
#pragma once

#include "benchmark/delay_statistics.h"
#include "probe/datagram_port.h"
#include "probe/socket.h"

#include <atomic>
#include <mutex>
#include <optional>
#include <thread>

namespace metrodos::probe {

/// Lets the one peer in that knows the token and answers its probes until destroyed. Each answer tells how
/// long the probe lay here, so that this machine's own slowness is not counted as delay.
class DelayEcho {
  public:
    explicit DelayEcho(DatagramPort port);
    ~DelayEcho();

  private:
    void work();
    DatagramPort m_port;
    std::atomic<bool> m_stop{false};
    std::thread m_thread;
};

/// Sends a small probe every 20 ms and times its return, from its coming to the interface's queue to the
/// arrival of the answer. A probe that is not back within two seconds is lost.
class DelayProbe {
  public:
    explicit DelayProbe(Fd socket);
    ~DelayProbe();

    /// The median of the round-trip times since the last call, in µs; nothing when none came back.
    [[nodiscard]] std::optional<double> takeMedian();
    /// All since `mark`.
    [[nodiscard]] benchmark::DelayStatistics statistics() const;
    /// Forgets what was measured so far; times of spikes count from here.
    void mark();

  private:
    void work();
    Fd m_socket;
    std::atomic<bool> m_stop{false};
    mutable std::mutex m_mutex;
    benchmark::DelayStatistics m_statistics;
    std::int64_t m_markedNs = 0;
    std::thread m_thread;
};

} // namespace metrodos::probe
