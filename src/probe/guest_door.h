// The guest of an agent: a device with a browser that measures against the agent's machine, led by a
// controller that knows the agent's key.
#pragma once

#include "probe/channel.h"
#include "probe/guest_server.h"

#include <atomic>
#include <memory>
#include <mutex>
#include <thread>

namespace metrodos::probe {

/// Makes a code when it is first asked for one, and a new one when the last has ended. Thread-safe.
class GuestDoor {
  public:
    explicit GuestDoor(GuestSettings settings)
        : m_settings(std::move(settings)) {}

    [[nodiscard]] quantity::Result<std::shared_ptr<GuestServer>> open();

  private:
    GuestSettings m_settings;
    std::mutex m_mutex;
    std::shared_ptr<GuestServer> m_server;
};

/// The guest's part of one session. Messages:
///   guest → guest (its state) · guest-run → guest-sample …, then guest-runs; a problem where it cannot be.
/// Each sample and each run says its leg.
class GuestSession {
  public:
    /// `door`: nullptr where this endpoint has none.
    GuestSession(Channel& channel, GuestDoor* door)
        : m_channel(channel)
        , m_door(door) {}
    ~GuestSession() { cancel(); }

    /// Answers a message of type "guest"; false where the channel is broken.
    bool tell();
    /// Begins the runs of a message of type "guest-run"; returns at once.
    bool begin(const nlohmann::json& message);
    /// Ends them; what they measured is told before this returns.
    void cancel();
    [[nodiscard]] bool isRunning() const { return m_isRunning.load(); }

  private:
    bool refuse(const quantity::Problem& problem);
    [[nodiscard]] quantity::Result<std::shared_ptr<GuestServer>> open();

    Channel& m_channel;
    GuestDoor* m_door;
    std::atomic<bool> m_isRunning{false};
    std::jthread m_thread;
};

} // namespace metrodos::probe
