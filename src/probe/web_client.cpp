#include "probe/web_client.h"

#include "probe/counters.h"
#include "quantity/text.h"

#include <fcntl.h>
#include <linux/sockios.h>
#include <sys/ioctl.h>
#include <sys/socket.h>

namespace metrodos::probe {
namespace {

using quantity::problem;
using quantity::Result;

constexpr std::chrono::seconds serverTime{5};
constexpr std::chrono::milliseconds watchEvery{20};
constexpr std::size_t maxUrl = 2000; // bytes
constexpr std::string_view schemes[] = {"http://", "https://"};

} // namespace

Result<WebPlace> webPlace(const std::string& url) {
    for (const std::string_view scheme : schemes)
        if (url.starts_with(scheme) && url.size() > scheme.size() && url[scheme.size()] != '/' &&
            url.size() < maxUrl && url.find_first_of(" \t\r\n") == std::string::npos) {
            const auto slash = url.find('/', scheme.size());
            return slash == std::string::npos ? WebPlace{url, "/"}
                                              : WebPlace{url.substr(0, slash), url.substr(slash)};
        }
    return problem(quantity::inQuotes(url) + " is not a web address", "",
                   "write it like http://server:8080/path");
}

Result<WebPlace> sentOnTo(const WebPlace& asked, const std::string& location) {
    const auto wrong = [&](const char* why) {
        return problem(std::string("the server sends on to ") + quantity::inQuotes(location) + why,
                       asked.text(), "give the address that the bytes come from");
    };
    if (location.starts_with('/') && !location.starts_with("//") && location.size() < maxUrl &&
        location.find_first_of(" \t\r\n") == std::string::npos)
        return WebPlace{asked.server, location};
    auto place = webPlace(location);
    if (!place) return wrong(", which is not a web address");
    if (asked.server.starts_with("https://") && !place->server.starts_with("https://"))
        return wrong(", which is not encrypted");
    return place;
}

AnswerWatch::AnswerWatch(std::optional<std::chrono::milliseconds> limit)
    : m_thread([this, limit](const std::stop_token& stop) {
        const auto begun = std::chrono::steady_clock::now();
        while (!stop.stop_requested()) {
            look();
            if (limit && std::chrono::steady_clock::now() - begun > *limit) end();
            std::this_thread::sleep_for(watchEvery);
        }
    }) {}

AnswerWatch::~AnswerWatch() = default;

std::uint64_t AnswerWatch::readOf(int fd) {
    int unread = 0;
    const std::uint64_t come = bytesReceived(fd).value_or(0);
    if (::ioctl(fd, SIOCINQ, &unread) != 0 || unread < 0) return 0;
    return come - std::min(come, static_cast<std::uint64_t>(unread));
}

// What is read is judged only where the client hands nothing on.
void AnswerWatch::look() {
    const std::lock_guard lock(m_mutex);
    for (auto& [client, w] : m_watched) {
        if (!w.isLooked || !w.socket || readOf(w.socket.get()) <= w.readBefore + maxUnseen) continue;
        m_sawTooMuch = true;
        w.isLooked = false;
        ::shutdown(w.socket.get(), SHUT_RDWR);
    }
}

void AnswerWatch::opened(const void* client, int fd) {
    const std::lock_guard lock(m_mutex);
    Watched& w = m_watched[client];
    w.socket = Fd(::fcntl(fd, F_DUPFD_CLOEXEC, 0));
    w.readBefore = 0;
    if (m_isOver) ::shutdown(w.socket.get(), SHUT_RDWR);
}

void AnswerWatch::asks(const void* client) {
    const std::lock_guard lock(m_mutex);
    Watched& w = m_watched[client];
    w.readBefore = w.socket ? readOf(w.socket.get()) : 0;
    w.isLooked = true;
}

void AnswerWatch::arrives(const void* client) {
    const std::lock_guard lock(m_mutex);
    m_watched[client].isLooked = false;
}

void AnswerWatch::end() {
    const std::lock_guard lock(m_mutex);
    m_isOver = true;
    for (const auto& [client, w] : m_watched)
        if (w.socket) ::shutdown(w.socket.get(), SHUT_RDWR);
}

bool AnswerWatch::sawTooMuch() const {
    const std::lock_guard lock(m_mutex);
    return m_sawTooMuch;
}

namespace {

std::unique_ptr<httplib::Client> prepared(std::unique_ptr<httplib::Client> client, AnswerWatch& watch) {
    client->set_socket_options([&watch, key = client.get()](socket_t opened) {
        httplib::default_socket_options(opened);
        watch.opened(key, opened);
    });
    client->set_decompress(false);
    client->set_default_headers({{"Accept-Encoding", "identity"}});
    client->set_connection_timeout(serverTime);
    client->set_read_timeout(serverTime);
    client->set_write_timeout(serverTime);
    client->set_keep_alive(true);
    client->set_tcp_nodelay(true);
    client->set_follow_location(false);
    return client;
}

} // namespace

std::unique_ptr<httplib::Client> webClient(const WebPlace& place, const benchmark::RunConfig& config,
                                           AnswerWatch& watch) {
    auto client = prepared(std::make_unique<httplib::Client>(place.server), watch);
    if (!config.bind.empty()) client->set_interface(config.bind);
    client->set_address_family(familyOf(config.ipVersion));
    return client;
}

std::unique_ptr<httplib::Client> webClient(const Address& server, AnswerWatch& watch) {
    return prepared(std::make_unique<httplib::Client>(server.host(), server.port()), watch);
}

} // namespace metrodos::probe
