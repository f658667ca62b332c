#include "probe/stream_set.h"

#include "probe/guarded.h"
#include "probe/socket.h"

#include <cerrno>

namespace metrodos::probe {
namespace {

// Large enough that the system call's own cost vanishes, small enough to stay in a core's second-level cache.
constexpr std::size_t bufferBytes = 256 * 1024;
constexpr std::chrono::milliseconds wakeUp{50}; // how often a blocked stream looks at the stop flag

std::int64_t nowNs() {
    return std::chrono::steady_clock::now().time_since_epoch() / std::chrono::nanoseconds(1);
}

} // namespace

StreamSet::StreamSet(std::vector<Fd> sockets, bool sending, std::uint64_t maxBytes)
    : m_sockets(std::move(sockets))
    , m_counters(m_sockets.size())
    , m_sending(sending)
    , m_maximumPerStream(maxBytes == 0 ? UINT64_MAX : maxBytes / m_sockets.size() + 1) {
    for (const Fd& fd : m_sockets) {
        setBlocking(fd.get(), true);
        setTimeouts(fd.get(), wakeUp, false);
    }
}

StreamSet::~StreamSet() {
    stop(true);
}

void StreamSet::start() {
    m_running = static_cast<int>(m_sockets.size());
    for (std::size_t i = 0; i < m_sockets.size(); ++i)
        m_threads.emplace_back(guarded(
            [this, i] {
                m_sending ? send(i) : receive(i);
                m_running.fetch_sub(1);
            },
            [this](const std::string&) { m_running.fetch_sub(1); }));
}

void StreamSet::stop(bool reset) {
    m_stop = true;
    for (std::thread& thread : m_threads)
        thread.join();
    m_threads.clear();
    for (const Fd& fd : m_sockets) {
        if (reset)
            resetOnClose(fd.get());
        else if (m_sending)
            ::shutdown(fd.get(), SHUT_WR);
    }
    if (reset) m_sockets.clear();
}

std::uint64_t StreamSet::bytes() const {
    std::uint64_t sum = 0;
    for (const Counter& counter : m_counters)
        sum += counter.bytes.load(std::memory_order_relaxed);
    return sum;
}

std::vector<std::uint64_t> StreamSet::bytesByStream() const {
    std::vector<std::uint64_t> out;
    for (const Counter& counter : m_counters)
        out.push_back(counter.bytes.load(std::memory_order_relaxed));
    return out;
}

std::optional<double> StreamSet::movedSeconds() const {
    const std::int64_t first = m_firstByte.load();
    const std::int64_t last = m_lastClosed.load();
    if (first == 0 || last <= first) return std::nullopt;
    return static_cast<double>(last - first) / 1e9;
}

void StreamSet::send(std::size_t stream) {
    std::vector<unsigned char> buffer(bufferBytes);
    fillPayload(buffer, static_cast<std::uint32_t>(stream));
    std::atomic<std::uint64_t>& count = m_counters[stream].bytes;
    std::uint64_t total = 0;
    const int fd = m_sockets[stream].get();
    while (!m_stop.load(std::memory_order_relaxed) && total < m_maximumPerStream) {
        const auto n = ::send(fd, buffer.data(), buffer.size(), MSG_NOSIGNAL);
        if (n > 0)
            count.store(total += static_cast<std::uint64_t>(n), std::memory_order_relaxed);
        else if (!isTransient())
            return;
    }
    if (total >= m_maximumPerStream) ::shutdown(fd, SHUT_WR);
}

void StreamSet::receive(std::size_t stream) {
    std::atomic<std::uint64_t>& count = m_counters[stream].bytes;
    std::vector<unsigned char> buffer(bufferBytes);
    std::uint64_t total = 0;
    const int fd = m_sockets[stream].get();
    while (!m_stop.load(std::memory_order_relaxed)) {
        // MSG_TRUNC lets the kernel drop the payload instead of copying it (tcp(7)).
        const auto n = ::recv(fd, buffer.data(), buffer.size(), MSG_TRUNC);
        if (n > 0) {
            if (total == 0) {
                std::int64_t none = 0;
                m_firstByte.compare_exchange_strong(none, nowNs());
            }
            count.store(total += static_cast<std::uint64_t>(n), std::memory_order_relaxed);
        } else if (n == 0) {
            m_lastClosed = nowNs();
            return;
        } else if (!isTransient()) {
            return;
        }
    }
}

} // namespace metrodos::probe
