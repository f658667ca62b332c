// A device with nothing but a browser as the other end of a run, wherever its page is served from: this
// process, or an agent on another machine.
#pragma once

#include "probe/conduct.h"

#include <chrono>
#include <string>
#include <vector>

namespace metrodos::probe {

/// One of the runs that a device does at once.
struct GuestLeg {
    benchmark::RunConfig config; ///< forward sends to the device
    RunObserver observer;        ///< called from a thread of this leg's own
};

inline constexpr int maxGuestStreams = 8;

/// Whether a browser can do such runs; the Problem says what it cannot.
[[nodiscard]] quantity::Result<void> checkGuestOrder(const std::vector<GuestLeg>& legs);

/// Where a guest stands.
struct GuestState {
    std::vector<std::string> urls = {}; ///< where the device opens the page: one for each address, code in it
    std::string code = {};
    std::chrono::seconds expiresIn{0}; ///< 0: the code has ended
    bool isPresent = false;            ///< a device has opened the page and waits for work
    std::string medium = {};  ///< what it says of its own way in, "cable", "radio"; empty: not asked yet
    std::string peer = {};    ///< its address; empty: none has come
    std::string problem = {}; ///< a sentence where the agent cannot be asked; the rest is then stale
};

/// Thread-safe.
class GuestEnd {
  public:
    virtual ~GuestEnd() = default;

    /// Does not wait.
    [[nodiscard]] virtual GuestState state() const = 0;
    /// The machine that serves the page, which is the other end of every run: "here" or an agent's address.
    [[nodiscard]] virtual std::string servedBy() const = 0;
    /// One run, or two at once as one group. TCP, 1 to 8 streams. A stop request ends them within 200 ms and
    /// returns what was measured so far, marked incomplete; so does the device. A Problem where no device is
    /// there, or it falls silent.
    [[nodiscard]] virtual quantity::Result<std::vector<benchmark::Run>>
    runAll(std::vector<GuestLeg>& legs, const std::stop_token& stop) = 0;
    [[nodiscard]] quantity::Result<benchmark::Run>
    run(const benchmark::RunConfig& config, const RunObserver& observer, const std::stop_token& stop) {
        std::vector<GuestLeg> legs{{config, observer}};
        auto runs = runAll(legs, stop);
        if (!runs) return tl::unexpected(runs.error());
        return std::move(runs->front());
    }
};

} // namespace metrodos::probe
