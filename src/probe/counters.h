// Counters of the kernel that are read while a run goes on. All by files and ioctl, no programs.
#pragma once

#include "probe/socket.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::probe {

/// Busy share of the busiest processor core between two calls, 0–1; nothing at the first call or without
/// /proc.
class CpuMeter {
  public:
    [[nodiscard]] std::optional<double> busiestCore();

  private:
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
[[nodiscard]] std::optional<InterfaceReading> readInterface(const std::string& interface, bool sent);

[[nodiscard]] bool isRadio(const std::string& interface);
/// Whether a wired interface of this machine is up besides the loopback.
[[nodiscard]] bool hasCable();
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

} // namespace metrodos::probe
