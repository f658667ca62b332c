// Opens the data connections of a run: one side waits for them, the other makes them; a token lets them in.
#pragma once

#include "probe/message.h"
#include "probe/socket.h"

#include <atomic>
#include <functional>
#include <map>

namespace metrodos::probe {

/// The connected sockets of one run on one side.
struct DataSockets {
    std::vector<Fd> streams;
    Fd delay;
};

/// Which connections may come in.
using PeerFilter = std::function<bool(const Address&)>;

/// Listens on a free port for exactly the connections of one run. Garbage is dropped and does not hold others
/// up.
class DataPort {
  public:
    /// On `host`, a numeric address of this machine.
    static quantity::Result<DataPort> open(const std::string& host, int streams, PeerFilter allowed);

    [[nodiscard]] std::uint16_t port() const { return m_port; }
    [[nodiscard]] const Token& token() const { return m_token; }
    /// Waits until all connections are there; stops when `stop` is set or `limit` passed. The port is closed
    /// afterwards: call it once.
    [[nodiscard]] quantity::Result<DataSockets> accept(std::chrono::milliseconds limit,
                                                       const std::atomic<bool>& stop);

  private:
    DataPort(Fd listener, int streams, PeerFilter allowed);
    Fd m_listener;
    std::uint16_t m_port;
    Token m_token{};
    int m_streams;
    PeerFilter m_allowed;
};

/// Makes the connections of a run to a DataPort.
[[nodiscard]] quantity::Result<DataSockets>
joinDataPort(const DataTarget& target, int streams, const std::string& bind, std::chrono::milliseconds limit);

} // namespace metrodos::probe
