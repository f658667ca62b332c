// The bulk of a run on one machine: one thread per TCP stream that sends or receives as fast as it goes.
#pragma once

#include "probe/socket.h"

#include <array>
#include <atomic>
#include <cstdint>
#include <thread>
#include <vector>

namespace metrodos::probe {

/// Moves bytes over connected sockets until told to stop. Counts are read without locks while it runs.
class StreamSet {
  public:
    /// Takes over the sockets, one to maximumStreams. `maximumBytes` (0: none) bounds what all streams
    /// together send.
    StreamSet(std::vector<Fd> sockets, bool sending, std::uint64_t maximumBytes);
    ~StreamSet();
    StreamSet(const StreamSet&) = delete;
    StreamSet& operator=(const StreamSet&) = delete;

    void start();
    /// Lets no stream go on: within 100 ms all threads have left. Senders end their streams in order, so that
    /// the receivers see the end; with `reset` what is queued is dropped.
    void stop(bool reset);
    /// Payload bytes moved so far by all streams.
    [[nodiscard]] std::uint64_t bytes() const;
    /// True when every stream has ended by itself: its peer has closed, the byte bound is reached, or it
    /// broke.
    [[nodiscard]] bool ended() const { return m_running.load() == 0; }
    /// Waits until the first byte has moved, or until all streams ended or `limit` passed: then false.
    [[nodiscard]] bool waitForFirstByte(std::chrono::milliseconds limit) const;
    [[nodiscard]] const std::vector<Fd>& sockets() const { return m_sockets; }

  private:
    struct alignas(64) Counter { // a cache line each: the streams do not slow one another
        std::atomic<std::uint64_t> bytes{0};
    };
    void send(std::size_t stream);
    void receive(std::size_t stream);

    std::vector<Fd> m_sockets;
    std::vector<Counter> m_counters;
    std::vector<std::thread> m_threads;
    bool m_sending;
    std::uint64_t m_maximumPerStream;
    std::atomic<bool> m_stop{false};
    std::atomic<int> m_running{0};
};

} // namespace metrodos::probe
