// Counters of the kernel that are read while a run goes on. All by files and ioctl, no programs.
#pragma once

#include "probe/socket.h"

#include <chrono>
#include <cstdint>
#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::probe {

// `root`: the folder below which "proc" and "sys" lie.

/// The seconds for which a group of processes was held back so far, of its cpu.stat: "throttled_usec" of
/// cgroup v2, "throttled_time" in nanoseconds of v1. Nothing where the text has neither.
[[nodiscard]] std::optional<double> heldBackSeconds(std::string_view stat);
/// Where the cpu.stat of a process may be by the text of its /proc/PID/cgroup.
[[nodiscard]] std::vector<std::filesystem::path> quotaFilesIn(std::string_view groups);

/// Busy share of the busiest processor core between two calls, 0–1; nothing at the first call or without
/// /proc. For the share of the time in which this process has to wait because its group has used up its quota
/// of the processors (a container, a slice of a service manager), a core counts as busy: it has no more.
class CpuMeter {
  public:
    explicit CpuMeter(std::filesystem::path root = "/");
    [[nodiscard]] std::optional<double> busiestCore();

  private:
    [[nodiscard]] double heldBackShare();
    std::filesystem::path m_root;
    std::optional<std::filesystem::path> m_quotaFile; ///< nothing: no quota is known of
    std::optional<double> m_heldBack;
    std::chrono::steady_clock::time_point m_asked = std::chrono::steady_clock::now();
    struct Ticks {
        std::uint64_t busy = 0;
        std::uint64_t total = 0;
    };
    std::vector<Ticks> m_last;
};

/// The numeric addresses of this machine, by interface.
[[nodiscard]] std::multimap<std::string, std::string> addresses();

/// The interface that has the local address of a socket; empty when none has.
[[nodiscard]] std::string interfaceOf(const Address& local);

/// Processor time of this process so far, in s, all threads together.
[[nodiscard]] double processSeconds();

/// What an interface has counted since it came up.
struct InterfaceReading {
    std::uint64_t bytes = 0;  ///< sent or received
    std::uint64_t errors = 0; ///< frames with errors and dropped ones, both ways
};
[[nodiscard]] std::optional<InterfaceReading> readInterface(const std::string& interface, bool sent,
                                                            const std::filesystem::path& root = "/");

[[nodiscard]] bool isRadio(const std::string& interface, const std::filesystem::path& root = "/");
/// Whether a wired interface of this machine is up besides the loopback.
[[nodiscard]] bool hasCable(const std::filesystem::path& root = "/");
/// The interface by which the kernel would send to this address now; empty when it has no way there.
[[nodiscard]] std::string interfaceTowards(const Address& peer);

/// The kernel's figures of one TCP connection (tcp_info of Linux 4.10 and later).
struct TcpFigures {
    double rttUs = 0;
    double windowBytes = 0;
    std::uint64_t retransmits = 0;
    std::uint64_t busyUs = 0;
    std::uint64_t receiverLimitedUs = 0;
    std::uint64_t bufferLimitedUs = 0;
};
[[nodiscard]] std::optional<TcpFigures> tcpFigures(int fd);
/// Payload that has come in over the connection so far, read or not (Linux 4.1 and later).
[[nodiscard]] std::optional<std::uint64_t> bytesReceived(int fd);

} // namespace metrodos::probe
