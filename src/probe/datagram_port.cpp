#include "probe/datagram_port.h"

#include "probe/deadline.h"
#include "probe/socket_options.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <openssl/crypto.h>
#include <openssl/rand.h>
#include <openssl/sha.h>

namespace metrodos::probe {
namespace {

using quantity::problem;
using quantity::Result;

constexpr std::chrono::milliseconds again{100};

/// The opening that waits at the socket, and whose it is.
std::optional<Opening> take(int fd, Address& peer) {
    std::array<std::uint8_t, maxOpening> bytes{};
    peer.length = sizeof peer.storage;
    const auto n = ::recvfrom(fd, bytes.data(), bytes.size(), MSG_TRUNC,
                              reinterpret_cast<sockaddr*>(&peer.storage), &peer.length);
    if (n < 0 || static_cast<std::size_t>(n) > bytes.size()) return std::nullopt;
    return readOpening(std::span(bytes).first(static_cast<std::size_t>(n)));
}

bool same(const std::array<std::uint8_t, 16>& a, const std::array<std::uint8_t, 16>& b) {
    return CRYPTO_memcmp(a.data(), b.data(), a.size()) == 0;
}

} // namespace

Result<Token> newToken() {
    Token out{};
    if (RAND_bytes(out.data(), static_cast<int>(out.size())) != 1)
        return problem("the system has no random numbers");
    return out;
}

DatagramPort::DatagramPort(Fd socket, const Token& token, PeerFilter allowed, std::shared_ptr<Joiner> joiner)
    : m_socket(std::move(socket))
    , m_port(localAddress(m_socket.get()).port())
    , m_token(token)
    , m_allowed(std::move(allowed))
    , m_joiner(std::move(joiner)) {}

Result<DatagramPort> DatagramPort::open(const std::string& host, const Token& token,
                                        const benchmark::RunConfig& config, PeerFilter allowed,
                                        std::shared_ptr<Joiner> joiner) {
    const auto address = numericAddress(host, 0);
    if (!address) return tl::unexpected(address.error());
    Fd fd(::socket(address->storage.ss_family, SOCK_DGRAM | SOCK_CLOEXEC | SOCK_NONBLOCK, 0));
    if (!fd) return problem("no socket could be opened: " + std::string(std::strerror(errno)), host);
    if (const auto set = setOptions(fd.get(), config); !set) return tl::unexpected(set.error());
    if (::bind(fd.get(), reinterpret_cast<const sockaddr*>(&address->storage), address->length) != 0)
        return problem("this machine does not have this address", host, "choose an address of this machine");
    DatagramPort out(std::move(fd), token, std::move(allowed), std::move(joiner));
    const auto secret = newToken();
    if (!secret) return tl::unexpected(secret.error());
    out.m_secret = *secret;
    return out;
}

Cookie DatagramPort::cookieFor(const Address& peer) const {
    // Address and port in text, so that nothing of the structure's padding gets in.
    const std::string text = peer.text();
    std::vector<std::uint8_t> input(m_secret.begin(), m_secret.end());
    input.insert(input.end(), text.begin(), text.end());
    std::array<std::uint8_t, SHA256_DIGEST_LENGTH> digest{};
    SHA256(input.data(), input.size(), digest.data());
    Cookie cookie{};
    std::copy_n(digest.begin(), cookie.size(), cookie.begin());
    return cookie;
}

Result<Fd> DatagramPort::accept(std::chrono::milliseconds limit, const std::atomic<bool>& stop) {
    const Deadline end(limit);
    while (!end.isOver()) {
        if (stop.load()) return problem("the run was stopped");
        if (!waitFor(m_socket.get(), false, std::chrono::milliseconds(50))) continue;
        Address peer;
        const auto opening = take(m_socket.get(), peer);
        if (!opening || (opening->kind != OpeningKind::hello && opening->kind != OpeningKind::answer))
            continue;
        if (!same(opening->token, m_token) || (m_allowed && !m_allowed(peer))) continue;
        const Cookie cookie = cookieFor(peer);
        const auto reply = [&](OpeningKind kind) {
            const auto bytes = write({kind, {}, cookie});
            (void)::sendto(m_socket.get(), bytes.data(), bytes.size(), 0,
                           reinterpret_cast<const sockaddr*>(&peer.storage), peer.length);
        };
        if (opening->kind == OpeningKind::hello) {
            reply(OpeningKind::challenge);
            continue;
        }
        if (!same(opening->cookie, cookie) || !m_joiner->claims(peer)) continue;
        reply(OpeningKind::welcome);
        if (::connect(m_socket.get(), reinterpret_cast<const sockaddr*>(&peer.storage), peer.length) != 0)
            continue;
        return std::move(m_socket);
    }
    return problem("the other endpoint did not open its flow of datagrams", "",
                   "check that no firewall blocks UDP between the two machines");
}

Result<Fd> joinDatagramPort(const std::string& host, std::uint16_t port, const Token& token,
                            const benchmark::RunConfig& config, std::chrono::milliseconds limit,
                            const Interrupted& interrupted) {
    const auto address = numericAddress(host, port);
    if (!address) return tl::unexpected(address.error());
    Fd fd(::socket(address->storage.ss_family, SOCK_DGRAM | SOCK_CLOEXEC | SOCK_NONBLOCK, 0));
    if (!fd) return problem("no socket could be opened: " + std::string(std::strerror(errno)), host);
    if (const auto set = setOptions(fd.get(), config); !set) return tl::unexpected(set.error());
    if (const auto bound = bindTo(fd.get(), config.bind); !bound) return tl::unexpected(bound.error());
    if (::connect(fd.get(), reinterpret_cast<const sockaddr*>(&address->storage), address->length) != 0)
        return problem("there is no way to this address: " + std::string(std::strerror(errno)),
                       address->text(), "check the cable and the addresses of both machines");
    Opening out{OpeningKind::hello, token, {}};
    const auto send = [&] {
        const auto bytes = write(out);
        (void)::send(fd.get(), bytes.data(), bytes.size(), 0);
    };
    const Deadline end(limit);
    while (!end.isOver()) {
        send();
        const Deadline next(end.endOf(again));
        while (!next.isOver()) {
            if (!waitFor(fd.get(), false, next.left(), interrupted)) {
                if (interrupted && interrupted()) return problem("the run was stopped");
                break;
            }
            Address peer;
            const auto opening = take(fd.get(), peer);
            if (!opening) continue; // or nothing listens there yet, or any more
            if (opening->kind == OpeningKind::welcome) return fd;
            if (opening->kind != OpeningKind::challenge) continue;
            out.kind = OpeningKind::answer;
            out.cookie = opening->cookie;
            send();
        }
    }
    return problem("the other endpoint did not answer datagrams", address->text(),
                   "check that no firewall blocks UDP between the two machines");
}

} // namespace metrodos::probe
