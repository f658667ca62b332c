// The control connection: TLS 1.3 with an external pre-shared key (RFC 8446, 2.2), messages behind their
// length.
#pragma once

#include "probe/channel.h"
#include "probe/key_ring.h"
#include "probe/socket.h"

#include <memory>

namespace metrodos::probe {

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

    /// Handshakes on a connected socket within `limit`. A peer without the key gets no answer beyond the
    /// alert. `named`: which identity the peer claimed, also where it could not prove it.
    [[nodiscard]] quantity::Result<std::unique_ptr<Channel>>
    accept(Fd socket, std::chrono::milliseconds limit, std::string* named = nullptr) const;
    [[nodiscard]] quantity::Result<std::unique_ptr<Channel>> connect(Fd socket,
                                                                     std::chrono::milliseconds limit) const;

  private:
    struct Impl;
    std::unique_ptr<Impl> m_impl;
};

} // namespace metrodos::probe
