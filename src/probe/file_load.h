// One TCP stream whose bytes come from a file, or go into one: the load of a transfer. The threads are bound
// like those of StreamSet.
#pragma once

#include "probe/load.h"
#include "probe/scratch_file.h"

#include <atomic>
#include <memory>
#include <thread>

namespace metrodos::probe {

class FileLoad final : public Load {
  public:
    /// Sends the first `bytes` of the file, or writes what comes, at most so many bytes, into it and, when
    /// the peer has closed, has it on the disk (fdatasync).
    FileLoad(Fd socket, std::shared_ptr<ScratchFile> file, bool sending, std::uint64_t bytes);
    ~FileLoad() override;
    FileLoad(const FileLoad&) = delete;
    FileLoad& operator=(const FileLoad&) = delete;

    void start() override;
    void stop(bool reset) override;
    [[nodiscard]] std::uint64_t bytes() const override { return m_bytes.load(std::memory_order_relaxed); }
    /// Of a receiver not before all is on the disk.
    [[nodiscard]] bool ended() const override { return m_ended.load(); }
    [[nodiscard]] const std::vector<Fd>& sockets() const override { return m_sockets; }
    [[nodiscard]] std::optional<double> movedSeconds() const override;
    /// Of a receiver that has ended: seconds between the last byte and the disk's word; nothing where it did
    /// not come so far.
    [[nodiscard]] std::optional<double> syncSeconds() const;

  private:
    void send();
    void receive();

    std::vector<Fd> m_sockets;
    std::shared_ptr<ScratchFile> m_file;
    bool m_sending;
    std::uint64_t m_maximum;
    std::thread m_thread;
    std::atomic<std::uint64_t> m_bytes{0};
    std::atomic<double> m_syncSeconds{-1};
    std::atomic<double> m_movedSeconds{-1};
    std::atomic<bool> m_stop{false};
    std::atomic<bool> m_ended{false};
};

} // namespace metrodos::probe
