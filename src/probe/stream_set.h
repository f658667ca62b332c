// The bulk of a run on one machine: one thread per TCP stream that sends or receives as fast as it goes.
#pragma once

#include "probe/load.h"

#include <array>
#include <atomic>
#include <cstdint>
#include <thread>
#include <vector>

namespace metrodos::probe {

/// Moves bytes over connected sockets until told to stop.
class StreamSet final : public Load {
  public:
    /// Takes over the sockets, one to maxStreams. `maximumBytes` (0: none) bounds what all streams
    /// together send.
    StreamSet(std::vector<Fd> sockets, bool sending, std::uint64_t maxBytes);
    ~StreamSet() override;
    StreamSet(const StreamSet&) = delete;
    StreamSet& operator=(const StreamSet&) = delete;

    void start() override;
    void stop(bool reset) override;
    [[nodiscard]] std::uint64_t bytes() const override;
    [[nodiscard]] std::vector<std::uint64_t> bytesByStream() const override;
    [[nodiscard]] std::optional<double> movedSeconds() const override;
    [[nodiscard]] bool ended() const override { return m_running.load() == 0; }
    [[nodiscard]] const std::vector<Fd>& sockets() const override { return m_sockets; }

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
    // ns of the steady clock, of all streams of a receiver: 0 until then.
    std::atomic<std::int64_t> m_firstByte{0};
    std::atomic<std::int64_t> m_lastClosed{0};
};

} // namespace metrodos::probe
