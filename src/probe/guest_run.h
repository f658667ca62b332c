// A run with a device that has a browser: what its connections share, and how it is led. Internal to the
// layer.
#pragma once

#include "probe/conduct.h"
#include "probe/together.h"

#include <atomic>
#include <functional>
#include <list>
#include <mutex>
#include <string>
#include <vector>

namespace metrodos::probe {

/// 160 random bits as letters and digits.
[[nodiscard]] std::string randomToken();

/// A run that the device has been given, shared by the threads of its connections.
struct GuestRun {
    std::string id = randomToken();
    std::string streamToken = randomToken();
    std::string pingToken = randomToken();
    benchmark::RunConfig config;
    std::atomic<bool> taken{false};   ///< the device has it
    std::atomic<bool> go{false};      ///< the streams may carry
    std::atomic<bool> over{false};    ///< they shall end
    std::atomic<bool> stopped{false}; ///< by the device

    struct Stream {
        int fd = -1; ///< −1: it has ended
        std::atomic<std::uint64_t> bytes{0};
        std::uint64_t acknowledged = 0; ///< the last known, once it has ended
    };
    std::mutex mutex; ///< of what follows
    std::list<Stream> streams;
    std::vector<double> pingsUs;
    std::uint64_t retransmits = 0; ///< of streams that have ended
    double busyUs = 0;
    double receiverUs = 0;
    double bufferUs = 0;

    [[nodiscard]] bool sends() const { return config.direction == benchmark::Direction::forward; }

    /// What the far kernel has acknowledged, or what has arrived here, of all streams.
    [[nodiscard]] std::uint64_t moved();
    /// A stream has ended: keeps its last figures. Its socket is still open.
    void close(Stream& s);

  private:
    [[nodiscard]] std::uint64_t bytesOf(const Stream& s) const;
};

/// Leads it through its parts: until the device has opened its streams and all of its group have passed the
/// gate, its samples, its last figures. Then
/// it is over. `medium` says what the device tells of its own side, "cable" or "radio".
[[nodiscard]] quantity::Result<benchmark::Run> leadGuestRun(GuestRun& run, const RunObserver& observer,
                                                            const std::stop_token& stop, Gate& gate,
                                                            const std::function<std::string()>& medium);

} // namespace metrodos::probe
