// Opens a flow of datagrams: who joins must know the token and show that it is at the address it claims.
#pragma once

#include "probe/data_port.h"
#include "probe/datagram_format.h"

namespace metrodos::probe {

/// Waits at a UDP port for one peer. The token, which came over the control connection, opens: to a datagram
/// without it nothing is ever sent. To one with it, a cookie of the sender's address goes back, shorter than
/// what came, and only who returns the cookie from that address is taken: a forged source address reflects
/// nothing.
class DatagramPort {
  public:
    /// On `host`, a numeric address of this machine. The order's options are set on the socket.
    /// `token` is this flow's own (stream_token.h); `joiner` is shared by all ports of the run.
    static quantity::Result<DatagramPort> open(const std::string& host, const Token& token,
                                               const benchmark::RunConfig& config, PeerFilter allowed,
                                               std::shared_ptr<Joiner> joiner = std::make_shared<Joiner>());

    [[nodiscard]] std::uint16_t port() const { return m_port; }
    /// The socket, connected to the peer; from then on the kernel takes nothing from elsewhere.
    [[nodiscard]] quantity::Result<Fd> accept(std::chrono::milliseconds limit, const std::atomic<bool>& stop);

  private:
    DatagramPort(Fd socket, const Token& token, PeerFilter allowed, std::shared_ptr<Joiner> joiner);
    [[nodiscard]] Cookie cookieFor(const Address& peer) const;

    Fd m_socket;
    std::uint16_t m_port;
    Token m_token{};
    Token m_secret{};
    PeerFilter m_allowed;
    std::shared_ptr<Joiner> m_joiner;
};

/// Joins it; the socket is connected.
[[nodiscard]] quantity::Result<Fd> joinDatagramPort(const std::string& host, std::uint16_t port,
                                                    const Token& token, const benchmark::RunConfig& config,
                                                    std::chrono::milliseconds limit,
                                                    const Interrupted& interrupted = {});

/// Random bits for a run.
[[nodiscard]] quantity::Result<Token> newToken();

} // namespace metrodos::probe
