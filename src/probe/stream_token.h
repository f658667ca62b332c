// What lets one connection of a run in: made from the run's secret, good for that connection and once.
#pragma once

#include "probe/message.h"
#include "probe/socket.h"

#include <mutex>
#include <string>

namespace metrodos::probe {

enum class StreamKind : std::uint8_t { stream = 1, datagrams = 2, delay = 3 };

/// HMAC-SHA-256 (RFC 2104) of kind and index under the run's secret, which goes over the control connections
/// only; the first 128 bits, half of the digest as its section 5 asks for. Who sees one of them on the line
/// can make no other.
[[nodiscard]] Token streamToken(const Token& secret, StreamKind kind, unsigned index = 0);

/// From where a run is joined: the first connection with a right token fixes it for all others of the run. It
/// is not told beforehand, since who joins may have several interfaces, or an address that is translated on
/// the way. Thread-safe.
class Joiner {
  public:
    /// Called for a connection with a right token; false: the run is joined from elsewhere.
    [[nodiscard]] bool claims(const Address& peer) {
        const std::string host = peer.host();
        const std::lock_guard lock(m_mutex);
        if (m_host.empty()) m_host = host;
        return m_host == host;
    }

  private:
    std::mutex m_mutex;
    std::string m_host;
};

} // namespace metrodos::probe
