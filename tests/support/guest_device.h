// A device with a browser as the page makes it behave, as plain as can be.
#pragma once

#include "probe/guest_server.h"
#include "probe/http_connection.h"
#include "probe/socket.h"

#include <QtGlobal>
#include <atomic>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <sys/socket.h>
#include <thread>

namespace metrodos::testing {

using namespace metrodos::probe;
using nlohmann::json;

/// A connection of a device, as plain as can be.
class Client {
  public:
    explicit Client(const Address& to, const SocketSetup& setup = {})
        : m_fd(connectTo(to, std::chrono::seconds(2), setup).value())
        , m_host(to.text()) {
        setBlocking(m_fd.get(), true);
        setTimeouts(m_fd.get(), std::chrono::seconds(5), true);
    }
    void write(const std::string& text) { (void)::send(m_fd.get(), text.data(), text.size(), MSG_NOSIGNAL); }
    // Status and body of the answer; 0: the connection has ended.
    std::pair<int, std::string> ask(const std::string& method, const std::string& target,
                                    const std::string& fields = {}, const std::string& body = {},
                                    const std::string& host = {}) {
        write(method + " " + target + " HTTP/1.1\r\nHost: " + (host.empty() ? m_host : host) + "\r\n" +
              fields + (method == "POST" ? "Content-Length: " + std::to_string(body.size()) + "\r\n" : "") +
              "\r\n" + body);
        return answer();
    }
    std::pair<int, std::string> answer() {
        while (m_text.find("\r\n\r\n") == std::string::npos)
            if (!more()) return {0, ""};
        const std::size_t end = m_text.find("\r\n\r\n");
        head = m_text.substr(0, end);
        m_text.erase(0, end + 4);
        const std::size_t at = head.find("Content-Length: ");
        const std::size_t length = at == std::string::npos ? 0 : std::stoul(head.substr(at + 16));
        while (m_text.size() < length)
            if (!more()) return {0, ""};
        const std::string body = m_text.substr(0, length);
        m_text.erase(0, length);
        return {std::stoi(head.substr(9, 3)), body};
    }
    // Whatever comes, until it ends or `enough` says so; the bytes.
    std::uint64_t drain(const std::atomic<bool>& enough) {
        std::uint64_t all = m_text.size();
        m_text.clear();
        std::vector<char> buffer(1 << 18);
        while (!enough.load()) {
            const ssize_t got = ::recv(m_fd.get(), buffer.data(), buffer.size(), 0);
            if (got <= 0) break;
            all += static_cast<std::uint64_t>(got);
        }
        return all;
    }
    [[nodiscard]] int fd() const { return m_fd.get(); }
    std::string head;

  private:
    bool more() {
        char buffer[4096];
        const ssize_t got = ::recv(m_fd.get(), buffer, sizeof buffer, 0);
        if (got <= 0) return false;
        m_text.append(buffer, static_cast<std::size_t>(got));
        return true;
    }
    Fd m_fd;
    std::string m_host;
    std::string m_text;
};

/// What the page does, in threads of its own.
class Device {
  public:
    // A browser that cannot read while it loads asks for `wholes`: one answer of a known size after the
    // other.
    explicit Device(const GuestServer& server, const std::string& medium = "cable", bool wholes = false)
        : m_to(server.address())
        , m_work(m_to)
        , m_wholes(wholes) {
        const auto [status, body] = m_work.ask("POST", "/session", "X-Code: " + server.state().code + "\r\n");
        if (status != 200) qFatal("no session: %d", status);
        session = json::parse(body).at("session");
        if (m_work.ask("POST", "/medium", mine(), medium).first != 204) qFatal("no medium");
    }
    ~Device() {
        m_over = true;
        if (m_thread.joinable()) m_thread.join();
    }
    // Takes one order and does it, or those of one group at once.
    void work() {
        m_thread = std::thread([this] {
            std::vector<std::thread> group;
            for (std::size_t wanted = 1; group.size() < wanted && !m_over.load();) {
                const auto [status, body] = m_work.ask("GET", "/next", mine());
                if (status != 200) break;
                const json run = json::parse(body).at("run");
                if (!run.is_object()) continue;
                wanted = run.at("together").get<std::size_t>();
                group.emplace_back([this, run, first = group.empty()] { perform(run, first); });
            }
            for (std::thread& one : group)
                one.join();
        });
    }
    [[nodiscard]] std::string mine() const { return "X-Session: " + session + "\r\n"; }
    std::string session;
    std::atomic<std::uint64_t> bytes{0};
    std::map<int, int> opened; // streams by port
    static constexpr std::size_t wholeBytes = 8 << 20;

  private:
    void perform(const json& run, bool asks) {
        std::vector<std::thread> threads;
        std::atomic<bool> over{false};
        if (asks)
            threads.emplace_back([&] {
                Client c(m_to);
                while (!over.load() &&
                       c.ask("GET", "/ping/" + run.at("ping").get<std::string>()).first == 204) {
                    ++m_answered;
                    std::this_thread::sleep_for(std::chrono::milliseconds(5));
                }
            });
        // Long enough for the idle delay, however little of the processor there is.
        const int before = m_answered.load();
        const auto patience = std::chrono::steady_clock::now() + std::chrono::seconds(5);
        do
            std::this_thread::sleep_for(std::chrono::milliseconds(120));
        while (m_answered.load() < before + 6 && std::chrono::steady_clock::now() < patience);
        std::vector<std::thread> streams;
        for (int i = 0; i < run.at("streams").get<int>(); ++i)
            streams.emplace_back([&, port = run.at("ports").at(static_cast<std::size_t>(i)).get<int>()] {
                {
                    const std::lock_guard lock(m_mutex);
                    ++opened[port];
                }
                const Address to = numericAddress(m_to.host(), static_cast<std::uint16_t>(port)).value();
                Client c(to);
                const std::string origin =
                    port == m_to.port() ? "" : "Origin: http://" + m_to.text() + "\r\n";
                const std::string target = "/stream/" + run.at("stream").get<std::string>();
                if (m_wholes) {
                    while (c.ask("GET", target + "/small", origin).second.size() == wholeBytes)
                        bytes += wholeBytes;
                    return;
                }
                if (run.at("direction") == "download") {
                    c.write("GET " + target + " HTTP/1.1\r\nHost: " + to.text() + "\r\n" + origin + "\r\n");
                    bytes += c.drain(m_over);
                    return;
                }
                const std::string piece(1 << 22, 'x');
                while (!m_over.load()) {
                    if (c.ask("POST", target, origin, piece).first != 204) return;
                    bytes += piece.size();
                }
            });
        for (auto& t : streams)
            t.join();
        over = true;
        for (auto& t : threads)
            t.join();
    }
    Address m_to;
    Client m_work;
    bool m_wholes;
    std::mutex m_mutex; // of `opened`
    std::atomic<bool> m_over{false};
    std::atomic<int> m_answered{0}; // small requests
    std::thread m_thread;
};

inline benchmark::RunConfig shortRun(benchmark::Direction direction, int streams = 2, double seconds = 1) {
    benchmark::RunConfig out;
    out.direction = direction;
    out.streams = streams;
    out.seconds = seconds;
    return out;
}

} // namespace metrodos::testing
