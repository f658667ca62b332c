#include "probe/delay_probe.h"
#include "benchmark/statistics.h"

#include <array>
#include <cerrno>
#include <cstring>
#include <span>

namespace metrodos::probe {
namespace {

using Clock = std::chrono::steady_clock;
using Packet = std::array<unsigned char, 32>;
constexpr std::chrono::milliseconds interval{20};
constexpr std::chrono::milliseconds wakeUp{50};
constexpr std::size_t longestRecord = 200'000; // a little over an hour of probes

enum class Outcome { whole, stopped, broken };

// Reads one whole packet; a packet is written at once, so a part of one only waits for its rest.
Outcome readPacket(int fd, Packet& packet, const std::atomic<bool>& stop) {
    std::size_t have = 0;
    while (have < packet.size()) {
        if (stop.load()) return Outcome::stopped;
        const auto n = ::recv(fd, packet.data() + have, packet.size() - have, 0);
        if (n > 0)
            have += static_cast<std::size_t>(n);
        else if (n == 0 || (errno != EAGAIN && errno != EWOULDBLOCK && errno != EINTR))
            return Outcome::broken;
    }
    return Outcome::whole;
}

bool writePacket(int fd, const Packet& packet) {
    return ::send(fd, packet.data(), packet.size(), MSG_NOSIGNAL) == static_cast<ssize_t>(packet.size());
}

} // namespace

DelayEcho::DelayEcho(Fd socket)
    : m_socket(std::move(socket)) {
    setBlocking(m_socket.get(), true);
    setTimeouts(m_socket.get(), wakeUp, true);
    m_thread = std::thread([this] { work(); });
}

DelayEcho::~DelayEcho() {
    m_stop = true;
    m_thread.join();
}

void DelayEcho::work() {
    Packet packet{};
    while (readPacket(m_socket.get(), packet, m_stop) == Outcome::whole)
        if (!writePacket(m_socket.get(), packet)) return;
}

DelayProbe::DelayProbe(Fd socket)
    : m_socket(std::move(socket)) {
    setBlocking(m_socket.get(), true);
    setTimeouts(m_socket.get(), wakeUp, true);
    m_thread = std::thread([this] { work(); });
}

DelayProbe::~DelayProbe() {
    m_stop = true;
    m_thread.join();
}

void DelayProbe::work() {
    Packet packet{};
    auto next = Clock::now();
    while (!m_stop.load()) {
        std::this_thread::sleep_until(next);
        const auto sent = Clock::now();
        if (!writePacket(m_socket.get(), packet)) return;
        if (readPacket(m_socket.get(), packet, m_stop) != Outcome::whole) return;
        const auto now = Clock::now();
        {
            const std::lock_guard lock(m_mutex);
            if (m_times.size() < longestRecord)
                m_times.push_back(std::chrono::duration<double, std::micro>(now - sent).count());
        }
        next = std::max(next + interval, now); // a late answer delays the next probe instead of bunching them
    }
}

std::optional<double> DelayProbe::takeMedian() {
    const std::lock_guard lock(m_mutex);
    if (m_taken >= m_times.size()) return std::nullopt;
    const double median = benchmark::quantile(std::span(m_times).subspan(m_taken), 0.5);
    m_taken = m_times.size();
    return median;
}

std::optional<benchmark::Percentiles> DelayProbe::percentiles() const {
    const std::lock_guard lock(m_mutex);
    if (m_times.size() < 3) return std::nullopt;
    return benchmark::Percentiles{benchmark::quantile(m_times, 0.5), benchmark::quantile(m_times, 0.95)};
}

void DelayProbe::mark() {
    const std::lock_guard lock(m_mutex);
    m_times.clear();
    m_taken = 0;
}

std::size_t DelayProbe::count() const {
    const std::lock_guard lock(m_mutex);
    return m_times.size();
}

} // namespace metrodos::probe
