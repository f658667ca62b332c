#include "probe/data_port.h"

#include "probe/deadline.h"
#include "probe/socket_options.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <openssl/crypto.h>
#include <poll.h>

namespace metrodos::probe {
namespace {

using quantity::problem;

// A stream opens with: magic, version, its index, two zero bytes, its token. The other side answers one byte
// when it has taken it.
constexpr std::size_t helloBytes = 24;
using Hello = std::array<unsigned char, helloBytes>;
constexpr std::array<unsigned char, 5> prefix{'M', 'T', 'R', 'D', 3};
constexpr unsigned char taken = 1;
constexpr std::chrono::seconds helloLimit{2};
constexpr std::size_t maxPending = 64;

Hello helloFor(const Token& secret, unsigned char index) {
    Hello hello{};
    const Token token = streamToken(secret, StreamKind::stream, index);
    std::copy(prefix.begin(), prefix.end(), hello.begin());
    hello[5] = index;
    std::copy(token.begin(), token.end(), hello.begin() + 8);
    return hello;
}

struct Pending {
    Fd fd;
    Hello hello{};
    std::size_t have = 0;
    Deadline until;
};

} // namespace

DataPort::DataPort(Fd listener, const Token& secret, int streams, PeerFilter allowed,
                   std::shared_ptr<Joiner> joiner)
    : m_listener(std::move(listener))
    , m_port(localAddress(m_listener.get()).port())
    , m_secret(secret)
    , m_streams(streams)
    , m_allowed(std::move(allowed))
    , m_joiner(std::move(joiner)) {}

quantity::Result<DataPort> DataPort::open(const std::string& host, const Token& secret,
                                          const benchmark::RunConfig& config, PeerFilter allowed,
                                          std::shared_ptr<Joiner> joiner) {
    const auto address = numericAddress(host, 0);
    if (!address) return tl::unexpected(address.error());
    // What is set on the listener the streams inherit.
    auto listener = listenOn(*address, 128, [&](int fd) { return setOptions(fd, config); });
    if (!listener) return tl::unexpected(listener.error());
    DataPort out(std::move(*listener), secret, config.streams, std::move(allowed), std::move(joiner));
    setBlocking(out.m_listener.get(), false);
    return out;
}

quantity::Result<std::vector<Fd>> DataPort::accept(std::chrono::milliseconds limit,
                                                   const std::atomic<bool>& stop) {
    const Fd listener = std::move(m_listener); // nobody is let in later
    std::map<unsigned char, Fd> streams;
    std::vector<Pending> pending;
    const Deadline end(limit);
    const auto complete = [&] { return streams.size() == static_cast<std::size_t>(m_streams); };
    // True when the connection is done with: taken in or dropped.
    const auto progress = [&](Pending& p) {
        const auto n = ::recv(p.fd.get(), p.hello.data() + p.have, helloBytes - p.have, 0);
        if (n <= 0) return n == 0 || !isTransient();
        p.have += static_cast<std::size_t>(n);
        if (p.have < helloBytes) return false;
        const unsigned char index = p.hello[5];
        const Hello wanted = helloFor(m_secret, index);
        if (CRYPTO_memcmp(wanted.data(), p.hello.data(), helloBytes) != 0) return true;
        if (index >= m_streams || streams.contains(index) || !m_joiner->claims(peerAddress(p.fd.get())) ||
            ::send(p.fd.get(), &taken, 1, MSG_NOSIGNAL) != 1)
            return true;
        streams[index] = std::move(p.fd);
        return true;
    };
    while (!complete()) {
        if (stop.load()) return problem("the run was stopped");
        if (end.isOver())
            return problem("the other endpoint did not open its data connections", "",
                           "check that no firewall blocks the way between the two machines");
        std::vector<pollfd> items{{listener.get(), POLLIN, 0}};
        for (const Pending& p : pending)
            items.push_back({p.fd.get(), POLLIN, 0});
        ::poll(items.data(), items.size(), 50);
        for (std::size_t i = 0; i < pending.size(); ++i)
            if ((items[i + 1].revents != 0 && progress(pending[i])) || pending[i].until.isOver())
                pending[i].fd.reset();
        std::erase_if(pending, [](const Pending& p) { return !p.fd; });
        if (items[0].revents == 0) continue;
        Fd fd(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC | SOCK_NONBLOCK));
        if (!fd || (m_allowed && !m_allowed(peerAddress(fd.get())))) continue;
        if (pending.size() >= maxPending) pending.erase(pending.begin()); // the oldest makes room
        pending.push_back({std::move(fd), {}, 0, Deadline(helloLimit)});
    }
    std::vector<Fd> out;
    for (auto& [index, fd] : streams)
        out.push_back(std::move(fd));
    return out;
}

quantity::Result<std::vector<Fd>> joinDataPort(const DataTarget& target, const benchmark::RunConfig& config,
                                               std::chrono::milliseconds limit,
                                               const Interrupted& interrupted) {
    const auto address = numericAddress(target.host, target.port);
    if (!address) return tl::unexpected(address.error());
    std::vector<Fd> out;
    const auto setup = [&](int fd) {
        const auto set = setOptions(fd, config);
        return set ? bindTo(fd, config.bind) : set;
    };
    const Deadline end(limit);
    for (int i = 0; i < config.streams; ++i) {
        auto fd = connectTo(*address, end.left(), setup, interrupted);
        if (!fd) return tl::unexpected(fd.error());
        const Hello hello = helloFor(target.token, static_cast<unsigned char>(i));
        unsigned char answer = 0;
        if (::send(fd->get(), hello.data(), hello.size(), MSG_NOSIGNAL) !=
                static_cast<ssize_t>(hello.size()) ||
            !waitFor(fd->get(), false, end.left(), interrupted) || ::recv(fd->get(), &answer, 1, 0) != 1 ||
            answer != taken)
            return problem("the other endpoint did not take the data connection", address->text(),
                           "check that no other program answers on its ports");
        out.push_back(std::move(*fd));
    }
    return out;
}

} // namespace metrodos::probe
