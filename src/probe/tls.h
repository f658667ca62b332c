// The control connection: TLS 1.3 with an external pre-shared key (RFC 8446, 2.2), messages behind their
// length.
#pragma once

#include "probe/channel.h"
#include "probe/key_ring.h"
#include "probe/socket.h"

#include <memory>

namespace metrodos::probe {

/// One handshake that goes on, in steps of which none waits. A peer without the key gets no answer beyond the
/// alert. Not thread-safe.
class Handshake {
  public:
    enum class Wants { toRead, toWrite, nothing };

    Handshake(Handshake&&) noexcept;
    Handshake& operator=(Handshake&&) noexcept;
    ~Handshake();

    /// Goes as far as what has come allows; `nothing` when both ends have shown the key. A Problem ends it.
    [[nodiscard]] quantity::Result<Wants> step();
    /// After that: the channel.
    [[nodiscard]] std::unique_ptr<Channel> finish();
    [[nodiscard]] int socket() const;
    [[nodiscard]] const Address& peer() const;
    /// Which identity the peer claims, also where it could not prove it; empty: none so far.
    [[nodiscard]] const std::string& named() const;

  private:
    friend class TlsContext;
    struct Impl;
    explicit Handshake(std::unique_ptr<Impl> impl);
    std::unique_ptr<Impl> m_impl;
};

/// Makes channels of sockets whose peers know the key. One context serves many connections at once.
class TlsContext {
  public:
    explicit TlsContext(const Key& key);
    explicit TlsContext(Credential own);
    /// For a listener with any number of keys, which may change meanwhile.
    explicit TlsContext(std::shared_ptr<const KeyRing> keys);
    ~TlsContext();
    TlsContext(TlsContext&&) noexcept;
    TlsContext& operator=(TlsContext&&) noexcept;
    TlsContext(const TlsContext&) = delete;
    TlsContext& operator=(const TlsContext&) = delete;

    /// Begins the listener's side on a connected socket; this context outlives it.
    [[nodiscard]] quantity::Result<Handshake> begin(Fd socket) const;
    /// Handshakes on a connected socket within `limit`.
    [[nodiscard]] quantity::Result<std::unique_ptr<Channel>> accept(Fd socket,
                                                                    std::chrono::milliseconds limit) const;
    [[nodiscard]] quantity::Result<std::unique_ptr<Channel>> connect(Fd socket,
                                                                     std::chrono::milliseconds limit) const;

  private:
    struct Impl;
    std::unique_ptr<Impl> m_impl;
};

} // namespace metrodos::probe
