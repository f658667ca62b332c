// HTTP connections to a server that nobody has to trust: bounded in what is read before anybody sees any of
// it, and ended from outside.
#pragma once

#include "benchmark/run.h"
#include "probe/socket.h"

#include <chrono>
#include <httplib.h>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>

namespace metrodos::probe {

/// Where something is on the web.
struct WebPlace {
    std::string server; ///< scheme, host, port
    std::string path;
    [[nodiscard]] std::string text() const { return server + path; }
};
/// Of http:// or https://, a host, a port if need be and a path.
[[nodiscard]] quantity::Result<WebPlace> webPlace(const std::string& url);

/// Where a server that was asked at `asked` sends on to: "Location" is a whole address or a path (RFC 9110,
/// 10.2.2). A Problem where it is neither, or leads from https to http.
[[nodiscard]] quantity::Result<WebPlace> sentOnTo(const WebPlace& asked, const std::string& location);

/// Looks over the connections of one task. httplib reads heads, and the bodies of answers to uploads, into
/// memory without a bound, and cannot end the opening of a connection: both are done here, from a thread of
/// its own and with a descriptor of its own of each socket, since the client's may be another's by then.
class AnswerWatch {
  public:
    /// Bytes that a client reads of one answer without handing any of them on.
    static constexpr std::uint64_t maxUnseen = 64 * 1024;

    /// `limit`: after which everything is ended; nothing: when `end` is called.
    explicit AnswerWatch(std::optional<std::chrono::milliseconds> limit = {});
    ~AnswerWatch();
    AnswerWatch(const AnswerWatch&) = delete;
    AnswerWatch& operator=(const AnswerWatch&) = delete;

    /// A client has opened this socket.
    void opened(const void* client, int fd);
    /// A client is about to ask; and its answer's body has begun to arrive where it is wanted.
    void asks(const void* client);
    void arrives(const void* client);
    /// Ends every connection, and those that are opened later.
    void end();
    /// Whether one had to be ended because it sent too much where little was due.
    [[nodiscard]] bool sawTooMuch() const;

  private:
    struct Watched {
        Fd socket; // the newest of the client's
        std::uint64_t readBefore = 0;
        bool isLooked = false; // at what is read
    };
    void look();
    [[nodiscard]] static std::uint64_t readOf(int fd);

    mutable std::mutex m_mutex;
    std::map<const void*, Watched> m_watched;
    bool m_isOver = false;
    bool m_sawTooMuch = false;
    std::jthread m_thread;
};

/// Follows nothing, and asks for bytes as they are: what is counted is what came over the wire.
[[nodiscard]] std::unique_ptr<httplib::Client>
webClient(const WebPlace& place, const benchmark::RunConfig& config, AnswerWatch& watch);
/// The same of an address that was looked up.
[[nodiscard]] std::unique_ptr<httplib::Client> webClient(const Address& server, AnswerWatch& watch);

} // namespace metrodos::probe
