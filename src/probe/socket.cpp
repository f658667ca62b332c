#include "probe/socket.h"
#include "probe/deadline.h"
#include "quantity/parse.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <netdb.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <span>
#include <unistd.h>

namespace metrodos::probe {
namespace {

using quantity::problem;

std::string systemError() {
    return std::strerror(errno);
}

const unsigned char* bytesOf(const Address& address) {
    if (address.storage.ss_family == AF_INET6)
        return reinterpret_cast<const sockaddr_in6*>(&address.storage)->sin6_addr.s6_addr;
    return reinterpret_cast<const unsigned char*>(
        &reinterpret_cast<const sockaddr_in*>(&address.storage)->sin_addr.s_addr);
}

constexpr std::size_t mappedPrefix = 12; // bytes of ::ffff:0:0/96 (RFC 4291, 2.5.5.2)

// The bytes that tell where a packet goes: a mapped address is the IPv4 one that it stands for. Empty:
// neither.
std::span<const unsigned char> plainBytes(const Address& address) {
    const unsigned char* b = bytesOf(address);
    if (address.storage.ss_family == AF_INET) return {b, 4};
    if (address.storage.ss_family != AF_INET6) return {};
    const auto* v6 = &reinterpret_cast<const sockaddr_in6*>(&address.storage)->sin6_addr;
    if (IN6_IS_ADDR_V4MAPPED(v6)) return {b + mappedPrefix, 4};
    return {b, 16};
}

} // namespace

void Fd::reset() {
    if (m_fd >= 0) ::close(m_fd);
    m_fd = -1;
}

std::string Address::host() const {
    std::array<char, NI_MAXHOST> text{};
    if (length == 0 || ::getnameinfo(reinterpret_cast<const sockaddr*>(&storage), length, text.data(),
                                     text.size(), nullptr, 0, NI_NUMERICHOST) != 0)
        return {};
    return text.data();
}

std::uint16_t Address::port() const {
    if (storage.ss_family == AF_INET6)
        return ntohs(reinterpret_cast<const sockaddr_in6*>(&storage)->sin6_port);
    return ntohs(reinterpret_cast<const sockaddr_in*>(&storage)->sin_port);
}

std::string Address::text() const {
    const std::string name = host();
    return (storage.ss_family == AF_INET6 ? "[" + name + "]" : name) + ":" + std::to_string(port());
}

bool Address::isNearby() const {
    const auto b = plainBytes(*this);
    if (b.empty()) return false;
    if (isLoopback()) return true;
    if (b.size() == 4)
        return b[0] == 10 || (b[0] == 172 && (b[1] & 0xf0U) == 16) || (b[0] == 192 && b[1] == 168) ||
               (b[0] == 169 && b[1] == 254);
    return IN6_IS_ADDR_LINKLOCAL(&reinterpret_cast<const sockaddr_in6*>(&storage)->sin6_addr) ||
           (b[0] & 0xfeU) == 0xfc;
}

bool Address::isLoopback() const {
    const auto b = plainBytes(*this);
    if (b.size() == 4) return b[0] == 127;
    return b.size() == 16 &&
           IN6_IS_ADDR_LOOPBACK(&reinterpret_cast<const sockaddr_in6*>(&storage)->sin6_addr);
}

std::string Address::network() const {
    const auto b = plainBytes(*this);
    std::string out(b.begin(), b.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(b.size(), 8)));
    return out;
}

quantity::Result<Address> numericAddress(const std::string& host, std::uint16_t port) {
    return resolve("[" + host + "]:" + std::to_string(port), port, Names::refuse);
}

quantity::Result<Address> resolve(std::string_view text, std::uint16_t port, Names names, int family) {
    const std::string whole(text.substr(0, 300));
    const auto wrong = [&](const std::string& why) {
        return problem(why, whole,
                       "write the address as host:port, like 192.168.1.20:" + std::to_string(defaultPort));
    };
    std::string host = whole;
    std::string service = std::to_string(port);
    const auto colon = whole.rfind(':');
    if (whole.starts_with('[')) {
        const auto close = whole.find(']');
        if (close == std::string::npos) return wrong("the bracket is not closed");
        host = whole.substr(1, close - 1);
        if (close + 1 < whole.size()) {
            if (whole[close + 1] != ':') return wrong("this is not an address");
            service = whole.substr(close + 2);
        }
    } else if (colon != std::string::npos && whole.find(':') == colon) {
        host = whole.substr(0, colon);
        service = whole.substr(colon + 1);
    }
    if (host.empty() || !quantity::parseWhole(service, 0, 65535)) return wrong("this is not an address");
    addrinfo hints{};
    hints.ai_family = family;
    hints.ai_socktype = SOCK_STREAM;
    hints.ai_flags = AI_NUMERICSERV | (names == Names::refuse ? AI_NUMERICHOST : 0);
    addrinfo* found = nullptr;
    if (::getaddrinfo(host.c_str(), service.c_str(), &hints, &found) != 0 || found == nullptr)
        return wrong("no machine of this name was found");
    Address out;
    std::memcpy(&out.storage, found->ai_addr, found->ai_addrlen);
    out.length = found->ai_addrlen;
    ::freeaddrinfo(found);
    return out;
}

quantity::Result<AddressRange> AddressRange::parse(std::string_view text) {
    const auto slash = text.find('/');
    const auto base = numericAddress(std::string(text.substr(0, slash)), 0);
    if (!base)
        return problem("this is not an address range", std::string(text), "write it like 192.0.2.0/24");
    AddressRange range{*base, base->storage.ss_family == AF_INET6 ? 128 : 32};
    if (slash != std::string_view::npos) {
        const auto bits = quantity::parseWhole(text.substr(slash + 1), 0, range.bits);
        if (!bits)
            return problem("this is not an address range", std::string(text), "write it like 192.0.2.0/24");
        range.bits = static_cast<int>(*bits);
    }
    // Written in mapped form it means the IPv4 addresses, if it is not wider than those.
    constexpr int mappedBits = 8 * static_cast<int>(mappedPrefix);
    if (base->storage.ss_family == AF_INET6 && plainBytes(*base).size() == 4) {
        if (range.bits < mappedBits)
            return problem("a range of mapped addresses is wider than all of IPv4", std::string(text),
                           "write it as an IPv4 range, like 192.0.2.0/24");
        range.bits -= mappedBits;
    }
    return range;
}

bool AddressRange::contains(const Address& address) const {
    const auto a = plainBytes(address);
    const auto b = plainBytes(base);
    if (a.size() != b.size() || a.empty()) return false;
    for (std::size_t i = 0; i < static_cast<std::size_t>(bits); ++i) {
        const unsigned mask = 0x80U >> (i % 8);
        if (((a[i / 8] ^ b[i / 8]) & mask) != 0) return false;
    }
    return true;
}

bool mayReach(const Address& peer, const std::vector<AddressRange>& allowed) {
    return peer.isNearby() || std::any_of(allowed.begin(), allowed.end(),
                                          [&](const AddressRange& range) { return range.contains(peer); });
}

quantity::Result<Fd> listenOn(const Address& address, int backlog, const SocketSetup& setup) {
    Fd fd(::socket(address.storage.ss_family, SOCK_STREAM | SOCK_CLOEXEC, 0));
    if (!fd) return problem("no socket could be opened: " + systemError(), address.text());
    const int on = 1;
    ::setsockopt(fd.get(), SOL_SOCKET, SO_REUSEADDR, &on, sizeof on);
    if (setup)
        if (const auto set = setup(fd.get()); !set) return tl::unexpected(set.error());
    if (::bind(fd.get(), reinterpret_cast<const sockaddr*>(&address.storage), address.length) != 0) {
        if (errno == EADDRINUSE)
            return problem("the port is in use by another program", address.text(),
                           "stop that program or choose another port");
        if (errno == EADDRNOTAVAIL)
            return problem("this machine does not have this address", address.text(),
                           "choose an address of this machine");
        return problem("the address cannot be used: " + systemError(), address.text(),
                       "choose another address or port");
    }
    if (::listen(fd.get(), backlog) != 0) return problem("cannot listen: " + systemError(), address.text());
    return fd;
}

quantity::Result<Fd> connectTo(const Address& address, std::chrono::milliseconds limit,
                               const SocketSetup& setup, const Interrupted& interrupted) {
    Fd fd(::socket(address.storage.ss_family, SOCK_STREAM | SOCK_CLOEXEC | SOCK_NONBLOCK, 0));
    if (!fd) return problem("no socket could be opened: " + systemError(), address.text());
    if (setup)
        if (const auto set = setup(fd.get()); !set) return tl::unexpected(set.error());
    const auto failed = [&](int error) {
        return problem(error == ECONNREFUSED ? "nothing listens there" : std::string(std::strerror(error)),
                       address.text(), "check that the agent runs there and that no firewall is in the way");
    };
    if (::connect(fd.get(), reinterpret_cast<const sockaddr*>(&address.storage), address.length) != 0) {
        if (errno != EINPROGRESS) return failed(errno);
        if (!waitFor(fd.get(), true, limit, interrupted)) return failed(ETIMEDOUT);
        int error = 0;
        socklen_t size = sizeof error;
        ::getsockopt(fd.get(), SOL_SOCKET, SO_ERROR, &error, &size);
        if (error != 0) return failed(error);
    }
    setBlocking(fd.get(), true);
    return fd;
}

Address localAddress(int fd) {
    Address out;
    out.length = sizeof out.storage;
    if (::getsockname(fd, reinterpret_cast<sockaddr*>(&out.storage), &out.length) != 0) out.length = 0;
    return out;
}

Address peerAddress(int fd) {
    Address out;
    out.length = sizeof out.storage;
    if (::getpeername(fd, reinterpret_cast<sockaddr*>(&out.storage), &out.length) != 0) out.length = 0;
    return out;
}

void setBlocking(int fd, bool blocking) {
    const int flags = ::fcntl(fd, F_GETFL);
    ::fcntl(fd, F_SETFL, blocking ? flags & ~O_NONBLOCK : flags | O_NONBLOCK);
}

void setTimeouts(int fd, std::chrono::milliseconds limit, bool prompt) {
    timeval time{};
    time.tv_sec = limit.count() / 1000;
    time.tv_usec = (limit.count() % 1000) * 1000;
    ::setsockopt(fd, SOL_SOCKET, SO_SNDTIMEO, &time, sizeof time);
    ::setsockopt(fd, SOL_SOCKET, SO_RCVTIMEO, &time, sizeof time);
    const int on = prompt ? 1 : 0;
    ::setsockopt(fd, IPPROTO_TCP, TCP_NODELAY, &on, sizeof on);
}

void resetOnClose(int fd) {
    const linger drop{1, 0};
    ::setsockopt(fd, SOL_SOCKET, SO_LINGER, &drop, sizeof drop);
}

void resetConnection(int fd) {
    const sockaddr nobody{AF_UNSPEC, {}};
    (void)::connect(fd, &nobody, sizeof nobody); // dissolves the association: connect(2)
}

bool waitFor(int fd, bool write, std::chrono::milliseconds limit, const Interrupted& interrupted) {
    pollfd item{fd, static_cast<short>(write ? POLLOUT : POLLIN), 0};
    constexpr std::chrono::milliseconds slice{20};
    for (const Deadline end(limit);;) {
        if (interrupted && interrupted()) return false;
        const auto left = interrupted ? std::min(end.left(), slice) : end.left();
        const auto n = TEMP_FAILURE_RETRY(::poll(&item, 1, static_cast<int>(left.count())));
        if (n != 0) return n > 0;
        if (end.isOver()) return false;
    }
}

bool isTransient() {
    return errno == EAGAIN || errno == EINTR;
}

void ignoreBrokenPipes() {
    ::signal(SIGPIPE, SIG_IGN);
}

} // namespace metrodos::probe
