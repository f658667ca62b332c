// A paced flow of numbered datagrams: sender and receiver.
#pragma once

#include "benchmark/datagrams.h"
#include "probe/load.h"
#include "probe/message.h"

#include <atomic>
#include <mutex>

namespace metrodos::probe {

/// Sends datagrams on a schedule: the n-th is due n × size ÷ rate after the start. One that is late goes at
/// once, with those due by then in one call (UDP_SEGMENT where the kernel has it), so that the mean rate is
/// exact and bursts are no longer than the wake-up of the thread. A sender that falls more than 100 ms behind
/// gives the missing ones up.
class DatagramSender final : public Load {
  public:
    /// `order` gives rate, datagram size, length and byte bound. `token` marks the flow.
    DatagramSender(Fd socket, const benchmark::RunConfig& config, const Token& token);
    ~DatagramSender() override;

    void start() override;
    void stop(bool reset) override;
    [[nodiscard]] std::uint64_t bytes() const override { return m_sent.load() * m_size; }
    [[nodiscard]] bool ended() const override { return m_ended.load(); }
    [[nodiscard]] const std::vector<Fd>& sockets() const override { return m_sockets; }
    [[nodiscard]] std::uint64_t sent() const { return m_sent.load(); }
    /// Datagrams that were due and never sent, because the machine could not keep the pace.
    [[nodiscard]] std::uint64_t givenUp() const { return m_givenUp.load(); }

  private:
    void work();
    bool sendBatch(std::uint64_t first, std::size_t count);

    std::vector<Fd> m_sockets;
    double m_rate;
    std::size_t m_size;
    double m_seconds;
    std::uint64_t m_maximum; // datagrams
    std::uint64_t m_mark;
    bool m_segments = true;
    std::vector<unsigned char> m_buffer;
    std::atomic<std::uint64_t> m_sent{0};
    std::atomic<std::uint64_t> m_givenUp{0};
    std::atomic<bool> m_stop{false};
    std::atomic<bool> m_ended{false};
    std::thread m_thread;
};

/// Takes them in batches with the kernel's time of arrival.
class DatagramReceiver final : public Load {
  public:
    DatagramReceiver(Fd socket, const Token& token);
    ~DatagramReceiver() override;

    void start() override;
    void stop(bool reset) override;
    [[nodiscard]] std::uint64_t bytes() const override { return m_bytes.load(std::memory_order_relaxed); }
    [[nodiscard]] bool ended() const override { return m_ended.load(); }
    [[nodiscard]] const std::vector<Fd>& sockets() const override { return m_sockets; }
    [[nodiscard]] benchmark::DatagramCount count() const;
    /// Loss since the last call.
    [[nodiscard]] std::optional<double> takeLoss();

  private:
    void work();

    std::vector<Fd> m_sockets;
    std::uint64_t m_mark;
    mutable std::mutex m_mutex;
    benchmark::DatagramStatistics m_statistics;
    std::uint32_t m_dropped = 0;
    std::atomic<std::uint64_t> m_bytes{0};
    std::atomic<bool> m_stop{false};
    std::atomic<bool> m_ended{false};
    std::thread m_thread;
};

} // namespace metrodos::probe
