// The head of a request is read by Boost.Beast's parser, which has its own tests against malformed input and
// refuses what smuggles requests (two lengths, a length beside chunks, bare line ends). Sockets, times and
// bodies stay here: a run needs the kernel's figures of the very sockets that carry it.
#include "probe/http_connection.h"

#include <boost/beast/core/error.hpp>
#include <boost/beast/http/empty_body.hpp>
#include <boost/beast/http/parser.hpp>

#include <algorithm>
#include <cstring>

namespace metrodos::probe {
namespace {

namespace http = boost::beast::http;

constexpr std::chrono::milliseconds step{100}; // until `stop` is looked at
constexpr std::chrono::seconds silence{10};    // of a client that neither takes nor gives
constexpr std::size_t readAtOnce = 64 * 1024;

std::string_view reason(int status) {
    switch (status) {
    case 200:
        return "OK";
    case 204:
        return "No Content";
    case 400:
        return "Bad Request";
    case 403:
        return "Forbidden";
    case 404:
        return "Not Found";
    case 405:
        return "Method Not Allowed";
    case 408:
        return "Request Timeout";
    case 409:
        return "Conflict";
    case 410:
        return "Gone";
    case 421:
        return "Misdirected Request";
    case 431:
        return "Request Header Fields Too Large";
    default:
        return "Error";
    }
}

} // namespace

HttpConnection::HttpConnection(Fd fd, const std::atomic<bool>& stop)
    : m_fd(std::move(fd))
    , m_stop(stop)
    , m_peer(peerAddress(m_fd.get())) {
    setBlocking(m_fd.get(), false);
}

// Waits for more and takes it; false where there is none by then, or never again.
bool HttpConnection::fill(const Deadline& until) {
    while (!m_stop.load() && !until.isOver()) {
        if (!waitFor(m_fd.get(), false, std::min(step, until.left()))) continue;
        const std::size_t before = m_buffer.size();
        m_buffer.resize(before + readAtOnce);
        const ssize_t got = ::recv(m_fd.get(), m_buffer.data() + before, readAtOnce, 0);
        m_buffer.resize(before + static_cast<std::size_t>(std::max<ssize_t>(got, 0)));
        if (got > 0) return true;
        if (got == 0 || !isTransient()) return false;
    }
    return false;
}

std::optional<HttpRequest> HttpConnection::refuse(int status) {
    (void)answer(status, "text/plain", "", {"Connection: close"});
    return std::nullopt;
}

std::optional<HttpRequest> HttpConnection::read() {
    if (m_left > 0 && !skipBody()) return std::nullopt;
    if (m_buffer.empty() && !fill(Deadline(idleLimit))) return std::nullopt;
    const Deadline until(headerLimit);
    http::request_parser<http::empty_body> parser;
    parser.header_limit(maxHeaderBytes);
    parser.body_limit(maxBodyBytes);
    while (true) {
        // From the start each time: the parser wants the whole of a line, and a head is small.
        boost::beast::error_code error;
        const std::size_t used = parser.put(boost::asio::buffer(m_buffer.data(), m_buffer.size()), error);
        m_buffer.erase(m_buffer.begin(), m_buffer.begin() + static_cast<std::ptrdiff_t>(used));
        if (error == http::error::header_limit) return refuse(431);
        if (error && error != http::error::need_more && !parser.is_header_done()) return refuse(400);
        if (parser.is_header_done()) break;
        if (m_buffer.size() > maxHeaderBytes) return refuse(431);
        if (!fill(until)) return m_stop.load() ? std::nullopt : refuse(408);
    }
    const auto& message = parser.get();
    // A body without a length would be chunks, which no page of ours sends.
    if (parser.chunked() || (message.version() != 11 && message.version() != 10)) return refuse(400);
    const auto field = [&](std::string_view name) {
        const auto it = message.find(boost::beast::string_view(name.data(), name.size()));
        return it == message.end() ? std::string() : std::string(it->value());
    };
    HttpRequest out{std::string(message.method_string()),
                    std::string(message.target()),
                    field("Host"),
                    field("Origin"),
                    field("Sec-Fetch-Site"),
                    field("X-Code"),
                    field("X-Session"),
                    parser.content_length().value_or(0)};
    if (out.length > maxBodyBytes) return refuse(400);
    m_left = out.length;
    return out;
}

std::optional<std::size_t> HttpConnection::readBody(void* data, std::size_t size) {
    if (m_left == 0) return 0;
    if (m_buffer.empty()) {
        // Straight into the caller's hands: the bytes of a run are not copied.
        const Deadline until(silence);
        while (!m_stop.load() && !until.isOver()) {
            if (!waitFor(m_fd.get(), false, step)) continue;
            const ssize_t got = ::recv(m_fd.get(), data, std::min<std::uint64_t>(size, m_left), 0);
            if (got > 0) {
                m_left -= static_cast<std::uint64_t>(got);
                return static_cast<std::size_t>(got);
            }
            if (got == 0 || !isTransient()) return std::nullopt;
        }
        return std::nullopt;
    }
    const std::size_t take = std::min<std::uint64_t>({size, m_left, m_buffer.size()});
    std::memcpy(data, m_buffer.data(), take);
    m_buffer.erase(m_buffer.begin(), m_buffer.begin() + static_cast<std::ptrdiff_t>(take));
    m_left -= take;
    return take;
}

bool HttpConnection::skipBody() {
    std::vector<char> drop(readAtOnce);
    while (m_left > 0)
        if (!readBody(drop.data(), drop.size())) return false;
    return true;
}

bool HttpConnection::send(const void* data, std::size_t size) {
    const auto* from = static_cast<const char*>(data);
    Deadline until(silence);
    while (size > 0) {
        const ssize_t sent = ::send(m_fd.get(), from, size, MSG_NOSIGNAL);
        if (sent > 0) {
            from += sent;
            size -= static_cast<std::size_t>(sent);
            until = Deadline(silence);
            continue;
        }
        if (!isTransient() || m_stop.load() || until.isOver()) return false;
        (void)waitFor(m_fd.get(), true, step);
    }
    return true;
}

bool HttpConnection::answer(int status, std::string_view type, std::string_view body,
                            const std::vector<std::string>& fields) {
    std::string out = "HTTP/1.1 " + std::to_string(status) + " " + std::string(reason(status)) + "\r\n";
    for (const std::string& field : fields)
        out += field + "\r\n";
    if (status != 204)
        out += "Content-Type: " + std::string(type) + "\r\nContent-Length: " + std::to_string(body.size()) +
               "\r\n";
    out += "\r\n";
    out += body;
    return send(out.data(), out.size());
}

bool HttpConnection::beginEndless(const std::vector<std::string>& fields) {
    std::string out = "HTTP/1.1 200 OK\r\n";
    for (const std::string& field : fields)
        out += field + "\r\n";
    out += "Content-Type: application/octet-stream\r\nConnection: close\r\n\r\n";
    return send(out.data(), out.size());
}

} // namespace metrodos::probe
