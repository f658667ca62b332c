// Where strangers wait: takes connections through their handshakes, away from the threads of sessions.
#pragma once

#include "probe/tls.h"

#include <chrono>
#include <list>
#include <map>
#include <string>

namespace metrodos::probe {

struct ReceptionLimits {
    std::size_t strangers = 64;           ///< connections that have not shown a key
    std::size_t strangersOfOne = 32;      ///< of those of one network (Address::network)
    std::chrono::milliseconds time{5000}; ///< for a handshake
};

/// Holds connections until they have shown a key, for one thread that calls `wait` again and again. None of
/// its steps waits for a single peer. Where there are too many, the network that has most of them loses its
/// oldest that has shown nothing yet: who fills the room pushes out his own. Not thread-safe.
class Reception {
  public:
    explicit Reception(const TlsContext& tls, ReceptionLimits limits = {})
        : m_tls(tls)
        , m_limits(limits) {}

    void admit(Fd socket);
    /// Those who have shown a key, and what those claimed to be who could not (empty: nothing).
    struct Outcome {
        bool isKnocking = false; ///< somebody waits at the listener
        std::vector<std::unique_ptr<Channel>> known;
        std::vector<std::string> refused;
    };
    /// Waits up to `limit` for something to happen at the listener or to one of the strangers.
    [[nodiscard]] Outcome wait(int listener, std::chrono::milliseconds limit);
    [[nodiscard]] std::size_t size() const { return m_strangers.size(); }

  private:
    struct Stranger {
        Handshake handshake;
        std::string network;
        std::chrono::steady_clock::time_point until;
        Handshake::Wants wants = Handshake::Wants::toRead;
    };
    using Place = std::list<Stranger>::iterator;
    void makeRoom(const std::string& network);
    void dropOldestOf(const std::string& network);
    Place leave(Place stranger); // the one behind

    const TlsContext& m_tls;
    ReceptionLimits m_limits;
    std::list<Stranger> m_strangers; // the oldest first
    std::map<std::string, std::size_t> m_perNetwork;
};

} // namespace metrodos::probe
