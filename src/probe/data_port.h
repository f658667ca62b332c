// Opens the streams of a run: one side waits for them, the other makes them; a token of its own lets each in.
#pragma once

#include "probe/message.h"
#include "probe/socket.h"
#include "probe/stream_token.h"

#include <atomic>
#include <functional>
#include <map>
#include <memory>

namespace metrodos::probe {

/// Which connections may come in.
using PeerFilter = std::function<bool(const Address&)>;

/// Listens on a free port for exactly the connections of one run. Garbage is dropped and does not hold others
/// up.
class DataPort {
  public:
    /// On `host`, a numeric address of this machine. The order's options are set on every stream. `secret` is
    /// the run's, of which the streams' tokens are made; `joiner` is shared by all ports of the run.
    static quantity::Result<DataPort> open(const std::string& host, const Token& secret,
                                           const benchmark::RunConfig& config, PeerFilter allowed,
                                           std::shared_ptr<Joiner> joiner = std::make_shared<Joiner>());

    [[nodiscard]] std::uint16_t port() const { return m_port; }
    /// Waits until all streams are there; stops when `stop` is set or `limit` passed. The port is closed
    /// afterwards: call it once.
    [[nodiscard]] quantity::Result<std::vector<Fd>> accept(std::chrono::milliseconds limit,
                                                           const std::atomic<bool>& stop);

  private:
    DataPort(Fd listener, const Token& secret, int streams, PeerFilter allowed,
             std::shared_ptr<Joiner> joiner);
    Fd m_listener;
    std::uint16_t m_port;
    Token m_secret{};
    int m_streams;
    PeerFilter m_allowed;
    std::shared_ptr<Joiner> m_joiner;
};

/// Makes the streams of a run to a DataPort, all within `limit`.
[[nodiscard]] quantity::Result<std::vector<Fd>> joinDataPort(const DataTarget& target,
                                                             const benchmark::RunConfig& config,
                                                             std::chrono::milliseconds limit,
                                                             const Interrupted& interrupted = {});

} // namespace metrodos::probe
