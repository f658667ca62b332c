// Sockets as objects that close themselves, and addresses as people write them.
#pragma once

#include "quantity/problem.h"

#include <chrono>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <sys/socket.h>
#include <utility>
#include <vector>

namespace metrodos::probe {

/// Owns one file descriptor.
class Fd {
  public:
    Fd() = default;
    explicit Fd(int fd)
        : m_fd(fd) {}
    Fd(Fd&& other) noexcept
        : m_fd(std::exchange(other.m_fd, -1)) {}
    Fd& operator=(Fd&& other) noexcept {
        if (this != &other) {
            reset();
            m_fd = std::exchange(other.m_fd, -1);
        }
        return *this;
    }
    Fd(const Fd&) = delete;
    Fd& operator=(const Fd&) = delete;
    ~Fd() { reset(); }

    [[nodiscard]] int get() const { return m_fd; }
    explicit operator bool() const { return m_fd >= 0; }
    void reset();

  private:
    int m_fd = -1;
};

/// A numeric address and port, IPv4 or IPv6.
struct Address {
    sockaddr_storage storage{};
    socklen_t length = 0;

    [[nodiscard]] std::string host() const; ///< without port or brackets
    [[nodiscard]] std::uint16_t port() const;
    [[nodiscard]] std::string text() const; ///< "192.0.2.1:80", "[::1]:80"
    /// Loopback, private (RFC 1918, RFC 4193) or link-local.
    [[nodiscard]] bool isNearby() const;
    [[nodiscard]] bool isLoopback() const;
    /// Who shares one machine's bounds: the IPv4 address, or the first 64 bits of an IPv6 one, of which a
    /// machine may have as many as it likes (RFC 7934). As bytes; equal ones belong together.
    [[nodiscard]] std::string network() const;
};

inline constexpr std::uint16_t defaultPort = 47710;

enum class Names { lookUp, refuse };

/// AF_INET for 4, AF_INET6 for 6, else AF_UNSPEC.
[[nodiscard]] constexpr int familyOf(int ipVersion) {
    return ipVersion == 4 ? AF_INET : ipVersion == 6 ? AF_INET6 : AF_UNSPEC;
}

/// "host", "host:port", "[v6]:port". `port` is used where none is written. What comes from a peer or a range
/// is numeric: with Names::refuse nothing is looked up.
[[nodiscard]] quantity::Result<Address> resolve(std::string_view text, std::uint16_t port = defaultPort,
                                                Names names = Names::lookUp, int family = AF_UNSPEC);
/// The same for a host and a port that are known apart; numeric only.
[[nodiscard]] quantity::Result<Address> numericAddress(const std::string& host, std::uint16_t port);

/// An address range, "192.0.2.0/24"; a bare address is a range of one. IPv4 addresses are in it in both of
/// their forms, plain and mapped into IPv6 (RFC 4291, 2.5.5.2).
struct AddressRange {
    Address base;
    int bits = 0;
    [[nodiscard]] bool contains(const Address& address) const;
    static quantity::Result<AddressRange> parse(std::string_view text);
};

/// Which peers may take part: the nearby ones, and those in one of the ranges.
[[nodiscard]] bool mayReach(const Address& peer, const std::vector<AddressRange>& allowed);

/// Done to a socket before it is bound or connected.
using SocketSetup = std::function<quantity::Result<void>(int fd)>;

/// Asked again and again, about every 20 ms, while something is waited for: true ends the waiting.
using Interrupted = std::function<bool()>;

[[nodiscard]] quantity::Result<Fd> listenOn(const Address& address, int backlog = 128,
                                            const SocketSetup& setup = {});
/// Connects without blocking longer than `limit`.
[[nodiscard]] quantity::Result<Fd> connectTo(const Address& address, std::chrono::milliseconds limit,
                                             const SocketSetup& setup = {},
                                             const Interrupted& interrupted = {});
[[nodiscard]] Address localAddress(int fd);
[[nodiscard]] Address peerAddress(int fd);

void setBlocking(int fd, bool blocking);
/// Timeouts of blocking send and recv; also turns off Nagle's algorithm where `prompt`.
void setTimeouts(int fd, std::chrono::milliseconds limit, bool prompt);
/// Close will drop what is queued and reset the connection, so that nothing lingers in the kernel.
void resetOnClose(int fd);
/// Resets the TCP connection now, while others still hold the descriptor: the peer's next call fails, also
/// one that waits for room. A shutdown would leave it waiting where no byte more fits into the window.
void resetConnection(int fd);

/// Waits until `fd` can be read (or written); false when `limit` passed first, or when it was interrupted.
[[nodiscard]] bool waitFor(int fd, bool write, std::chrono::milliseconds limit,
                           const Interrupted& interrupted = {});

/// Whether the last call on a socket failed only for now (errno): it had no room or nothing to read, or a
/// signal came.
[[nodiscard]] bool isTransient();

/// A write to a closed connection shall be an error, not a signal that ends the program. Call once in main.
void ignoreBrokenPipes();

} // namespace metrodos::probe
