// Opens the streams of a run: one side waits for them, the other makes them; a token lets them in.
#pragma once

#include "probe/message.h"
#include "probe/socket.h"

#include <atomic>
#include <functional>
#include <map>

namespace metrodos::probe {

/// Which connections may come in.
using PeerFilter = std::function<bool(const Address&)>;

/// Listens on a free port for exactly the connections of one run. Garbage is dropped and does not hold others
/// up.
class DataPort {
  public:
    /// On `host`, a numeric address of this machine. The order's options are set on every stream.
    static quantity::Result<DataPort> open(const std::string& host, const Token& token,
                                           const benchmark::RunConfig& config, PeerFilter allowed);

    [[nodiscard]] std::uint16_t port() const { return m_port; }
    /// Waits until all streams are there; stops when `stop` is set or `limit` passed. The port is closed
    /// afterwards: call it once.
    [[nodiscard]] quantity::Result<std::vector<Fd>> accept(std::chrono::milliseconds limit,
                                                           const std::atomic<bool>& stop);

  private:
    DataPort(Fd listener, const Token& token, int streams, PeerFilter allowed);
    Fd m_listener;
    std::uint16_t m_port;
    Token m_token{};
    int m_streams;
    PeerFilter m_allowed;
};

/// Makes the streams of a run to a DataPort, all within `limit`.
[[nodiscard]] quantity::Result<std::vector<Fd>> joinDataPort(const DataTarget& target,
                                                             const benchmark::RunConfig& config,
                                                             std::chrono::milliseconds limit,
                                                             const Interrupted& interrupted = {});

} // namespace metrodos::probe
