#include "probe/endpoint_link.h"

#include "probe/deadline.h"
#include "probe/session.h"
#include "probe/tls.h"

#include <sys/socket.h>

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::chrono::seconds answerTime{5};

} // namespace

Result<EndpointLink> EndpointLink::connect(const std::string& address, const Key& key, int family,
                                           const std::stop_token& stop) {
    const auto resolved = resolve(address, defaultPort, Names::lookUp, family);
    if (!resolved) return tl::unexpected(resolved.error());
    const quantity::Problem stopped{"the connection was stopped", address, "start it again"};
    auto socket = connectTo(*resolved, answerTime, {}, [&stop] { return stop.stop_requested(); });
    if (stop.stop_requested()) return tl::unexpected(stopped);
    if (!socket) return tl::unexpected(socket.error());
    const int fd = socket->get();
    auto channel = [&] {
        // Whatever the handshake waits for: then there is nothing more to come.
        const std::stop_callback end(stop, [fd] { ::shutdown(fd, SHUT_RDWR); });
        return TlsContext(key).connect(std::move(*socket), answerTime);
    }();
    if (stop.stop_requested()) return tl::unexpected(stopped);
    if (!channel) return tl::unexpected(channel.error());
    return greet(std::move(*channel), address, stop);
}

Result<EndpointLink> EndpointLink::here(const std::string& name, const std::vector<AddressRange>& allowed,
                                        const std::filesystem::path& folder) {
    auto [mine, theirs] = localChannel();
    const std::shared_ptr<Channel> channel = std::move(theirs);
    std::thread server;
    try {
        server = std::thread([name, allowed, folder, channel] {
            const std::atomic<bool> never{false};
            const auto performer = makePerformer(
                name, [&allowed](const Address& peer) { return mayReach(peer, allowed); }, true, folder);
            serveSession(*channel, *performer, name, never);
        });
    } catch (const std::system_error&) {
        return problem("this machine has no room for another thread", name,
                       "end some of what runs here and try again");
    }
    auto link = greet(std::move(mine), name);
    if (!link) {
        server.join(); // the channel is closed with the failed link
        return link;
    }
    link->m_server = std::move(server);
    return link;
}

Result<EndpointLink> EndpointLink::greet(std::unique_ptr<Channel> channel, const std::string& peer,
                                         const std::stop_token& stop) {
    EndpointLink link;
    link.m_channel = std::move(channel);
    link.m_name = peer;
    auto hello = link.ask({{"type", "hello"}, {"protocol", protocolVersion}}, "hello", answerTime, stop);
    if (!hello) return tl::unexpected(hello.error());
    try {
        if (fields::neededNumber(*hello, "protocol", 0, 1e6) != protocolVersion)
            return problem("the agent speaks another protocol version", peer,
                           "install the same version at both ends");
        link.m_name = fields::neededText(*hello, "name", 200);
        link.m_simulated = fields::neededFlag(*hello, "simulated");
    } catch (const quantity::BadField&) {
        return problem("what answers there did not greet as an agent", peer, "check the address and port");
    }
    return link;
}

EndpointLink::~EndpointLink() {
    if (m_channel) m_channel->close();
    if (m_server.joinable()) m_server.join();
}

quantity::Problem EndpointLink::placed(quantity::Problem problem) const {
    if (problem.where.empty()) problem.where = m_name;
    return problem;
}

Result<json> EndpointLink::facts() {
    return ask({{"type", "facts"}}, "facts", answerTime).map([](const json& answer) {
        return answer.contains("facts") ? answer.at("facts") : json::object();
    });
}

Result<json> EndpointLink::ask(const json& order, const char* answer, std::chrono::milliseconds limit,
                               const std::stop_token& stop) {
    if (const auto sent = m_channel->send(order); !sent) return tl::unexpected(placed(sent.error()));
    for (const Deadline end(limit);;) {
        if (end.isOver())
            return problem("it does not answer any more", m_name,
                           "check that it still runs and is connected");
        if (stop.stop_requested()) return problem("it was stopped", m_name, "start it again");
        constexpr std::chrono::milliseconds slice{20};
        auto message = m_channel->receive(stop.stop_possible() ? std::min(end.left(), slice) : end.left());
        if (!message) return tl::unexpected(placed(message.error()));
        if (!*message) continue;
        const auto type = typeOf(**message);
        if (!type) return tl::unexpected(placed(type.error()));
        // One that comes late belongs to a run that was stopped.
        if (order.contains("run") && (*message)->contains("run") && (**message).at("run") != order.at("run"))
            continue;
        if (*type == answer) return std::move(**message);
        if (*type == "problem") return tl::unexpected(placed(readProblem(**message)));
    }
}

} // namespace metrodos::probe
