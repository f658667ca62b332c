// One connection of an HTTP/1.1 client (RFC 9112) that is not trusted: requests within bounds and time,
// answers, and the bare socket for the bytes of a run.
#pragma once

#include "probe/deadline.h"
#include "probe/socket.h"

#include <atomic>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::probe {

/// What is read of a request besides its body. Names of fields are in lower case.
struct HttpRequest {
    std::string method;
    std::string target;
    std::string host;
    std::string origin;       ///< empty: none was sent
    std::string fetchSite;    ///< Sec-Fetch-Site; empty: none
    std::string code;         ///< X-Code
    std::string session;      ///< X-Session
    std::uint64_t length = 0; ///< of the body
};

inline constexpr std::size_t maxHeaderBytes = 8192;
inline constexpr std::uint64_t maxBodyBytes = 1ULL << 30U; ///< of one request that uploads
inline constexpr std::chrono::seconds headerLimit{5};      ///< for a whole head, from its first byte
inline constexpr std::chrono::seconds idleLimit{30};       ///< between two requests

class HttpConnection {
  public:
    /// `stop` ends every wait within 100 ms.
    HttpConnection(Fd fd, const std::atomic<bool>& stop);

    /// The next request; nothing where the client has gone, was too slow, or `stop` is set. What is no
    /// request within the bounds is answered 400, 408 or 431, and ends the connection.
    [[nodiscard]] std::optional<HttpRequest> read();
    /// Up to `size` bytes of the body of the request that was read; 0 at its end, nothing where it breaks
    /// off.
    [[nodiscard]] std::optional<std::size_t> readBody(void* data, std::size_t size);
    /// Drops what is left of the body; false where it breaks off.
    bool skipBody();
    /// A whole answer. `fields` are lines of the head without their ends.
    bool answer(int status, std::string_view type, std::string_view body,
                const std::vector<std::string>& fields = {});
    /// The head of an answer whose body goes on until the connection is closed.
    bool beginEndless(const std::vector<std::string>& fields);
    /// Bytes of the body. False where the client has gone or takes nothing for ten seconds.
    bool send(const void* data, std::size_t size);

    [[nodiscard]] int fd() const { return m_fd.get(); }
    [[nodiscard]] const Address& peer() const { return m_peer; }

  private:
    [[nodiscard]] bool fill(const Deadline& until);
    std::optional<HttpRequest> refuse(int status);

    Fd m_fd;
    const std::atomic<bool>& m_stop;
    Address m_peer;
    std::vector<char> m_buffer; ///< read from the socket and not used yet
    std::uint64_t m_left = 0;   ///< of the body
};

} // namespace metrodos::probe
