// Pacing. Datagram n is due at start + n × size × 8 ÷ rate, reckoned from the start each time and not from
// the one before, so that wake-ups that come late do not add up: the mean rate is exact, and the error is one
// wake-up at the end. Whatever is due when the thread wakes goes out in one call, up to what one UDP_SEGMENT
// carries (64 segments, 64 KiB; udp(7)). Why not a token bucket with a sleep for each datagram: a sleep is
// good to some 50 µs, a datagram at 1 Gbit/s takes 12; and not the kernel's own pacing (SO_MAX_PACING_RATE),
// which shapes UDP only behind the fq queue that a client's machine need not have. The price is bursts as
// long as a wake-up; one call for each, O(1).
#include "probe/datagram_flow.h"

#include "probe/datagram_format.h"
#include "probe/guarded.h"
#include "probe/kernel_time.h"
#include "probe/tolerances.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>
#include <ctime>
#include <netinet/in.h>
#include <netinet/udp.h>
#include <sys/prctl.h>

namespace metrodos::probe {
namespace {

constexpr int endTimes = 3;
constexpr std::size_t maxPerCall = 40; // below the 64 segments and 64 KiB of UDP_SEGMENT
constexpr std::size_t maxBytesPerCall = 60'000;
constexpr std::int64_t longestSleepNs = 50'000'000; // to see the stop flag
constexpr std::size_t batch = 64;
constexpr std::size_t maxDatagram = 9216;
constexpr int receiveBuffer = 8 * 1024 * 1024; // as far as the system's bound lets it

void sleepUntil(std::int64_t ns) {
    const timespec t{ns / 1'000'000'000, ns % 1'000'000'000};
    ::clock_nanosleep(CLOCK_MONOTONIC, TIMER_ABSTIME, &t, nullptr);
}

} // namespace

DatagramSender::DatagramSender(Fd socket, const benchmark::RunConfig& config, const Token& token)
    : m_rate(config.rate->bps())
    , m_size(
          static_cast<std::size_t>(config.segmentBytes > 0 ? config.segmentBytes : benchmark::usualDatagram))
    , m_seconds(config.seconds)
    , m_maximum(config.maxBytes == 0 ? UINT64_MAX : config.maxBytes / m_size + 1)
    , m_mark(markOf(token))
    , m_buffer(maxPerCall * m_size) {
    m_sockets.push_back(std::move(socket));
    fillPayload(m_buffer, 7);
    setBlocking(m_sockets[0].get(), true);
    setTimeouts(m_sockets[0].get(), std::chrono::milliseconds(50), false);
}

DatagramSender::~DatagramSender() {
    stop(true);
}

void DatagramSender::start() {
    m_thread = std::thread(guarded([this] { work(); }));
}

void DatagramSender::stop(bool reset) {
    m_stop = true;
    if (m_thread.joinable()) m_thread.join();
    if (reset) m_sockets.clear();
}

bool DatagramSender::sendBatch(std::uint64_t first, std::size_t count) {
    const int fd = m_sockets[0].get();
    const std::int64_t now = monotonicNs();
    for (std::size_t i = 0; i < count; ++i) {
        unsigned char* at = m_buffer.data() + i * m_size;
        writeHead({m_mark, first + i, now}, at);
    }
    std::size_t done = 0;
    while (done < count && !m_stop.load(std::memory_order_relaxed)) {
        iovec piece{m_buffer.data() + done * m_size, m_size};
        msghdr message{};
        message.msg_iov = &piece;
        message.msg_iovlen = 1;
        alignas(cmsghdr) std::array<unsigned char, CMSG_SPACE(sizeof(std::uint16_t))> control{};
        std::size_t taking = 1;
        if (m_segments && count - done > 1) {
            taking = count - done;
            piece.iov_len = taking * m_size;
            message.msg_control = control.data();
            message.msg_controllen = control.size();
            cmsghdr* c = CMSG_FIRSTHDR(&message);
            c->cmsg_level = SOL_UDP;
            c->cmsg_type = UDP_SEGMENT;
            c->cmsg_len = CMSG_LEN(sizeof(std::uint16_t));
            const auto segment = static_cast<std::uint16_t>(m_size);
            std::memcpy(CMSG_DATA(c), &segment, sizeof segment);
        }
        if (::sendmsg(fd, &message, MSG_NOSIGNAL) >= 0) {
            done += taking;
            m_sent.fetch_add(taking, std::memory_order_relaxed);
        } else if (taking > 1 &&
                   (errno == EINVAL || errno == EIO || errno == EMSGSIZE || errno == EOPNOTSUPP)) {
            m_segments = false; // an older kernel, or an interface without checksums: one by one
        } else if (errno == ENOBUFS || errno == EAGAIN || errno == EINTR || errno == ECONNREFUSED) {
            // The interface's queue is full; or an earlier datagram was answered by an error of the peer.
            if (errno != ECONNREFUSED) std::this_thread::sleep_for(std::chrono::microseconds(100));
        } else if (errno == ENETUNREACH || errno == EHOSTUNREACH || errno == ENETDOWN) {
            std::this_thread::sleep_for(std::chrono::milliseconds(10)); // a pulled cable may come back
        } else {
            return false;
        }
    }
    return true;
}

void DatagramSender::work() {
    ::prctl(PR_SET_TIMERSLACK, 1000UL); // ns: the usual 50 µs would make bursts
    const double spacingNs = static_cast<double>(m_size) * 8e9 / m_rate;
    const std::size_t atOnce = std::clamp<std::size_t>(maxBytesPerCall / m_size, 1, maxPerCall);
    const std::int64_t start = monotonicNs();
    const std::int64_t end = start + static_cast<std::int64_t>(m_seconds * 1e9);
    std::uint64_t next = 0;      // number of the next datagram
    std::uint64_t scheduled = 0; // with those given up
    while (!m_stop.load(std::memory_order_relaxed) && next < m_maximum) {
        const std::int64_t now = monotonicNs();
        if (now >= end) break;
        const auto due = static_cast<std::uint64_t>(static_cast<double>(now - start) / spacingNs) + 1;
        if (due <= scheduled) {
            const auto when = start + static_cast<std::int64_t>(static_cast<double>(scheduled) * spacingNs);
            sleepUntil(std::min({when, now + longestSleepNs, end}));
            continue;
        }
        const auto late = static_cast<std::int64_t>(static_cast<double>(due - scheduled) * spacingNs);
        if (late > giveUpNs && due - scheduled > 2) {
            m_givenUp.fetch_add(due - scheduled - 1);
            scheduled = due - 1;
        }
        const std::size_t count = std::min<std::uint64_t>({due - scheduled, atOnce, m_maximum - next});
        if (!sendBatch(next, count)) break;
        next += count;
        scheduled += count;
    }
    // What was due and is not out by more than a wake-up's worth, the machine could not get rid of.
    const double lasted = static_cast<double>(std::min(monotonicNs(), end) - start);
    if (next < m_maximum) {
        const auto due = static_cast<std::uint64_t>(lasted / spacingNs);
        const auto slack = static_cast<std::uint64_t>(endSlackNs / spacingNs) + 2;
        if (due > scheduled + slack) m_givenUp.fetch_add(due - scheduled);
    }
    // So that the receiver need not wait for what was never sent.
    for (int i = 0; i < endTimes && !m_stop.load(std::memory_order_relaxed); ++i) {
        writeHead({m_mark, endOfFlow, 0}, m_buffer.data());
        (void)::send(m_sockets[0].get(), m_buffer.data(), flowHeadBytes, MSG_NOSIGNAL);
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    m_ended = true;
}

DatagramReceiver::DatagramReceiver(Fd socket, const Token& token)
    : m_mark(markOf(token)) {
    m_sockets.push_back(std::move(socket));
    const int fd = m_sockets[0].get();
    ::setsockopt(fd, SOL_SOCKET, SO_RCVBUF, &receiveBuffer, sizeof receiveBuffer);
    (void)stampArrivals(fd);
    setBlocking(fd, true);
    setTimeouts(fd, std::chrono::milliseconds(50), false);
}

DatagramReceiver::~DatagramReceiver() {
    stop(true);
}

void DatagramReceiver::start() {
    m_thread = std::thread(guarded([this] { work(); }));
}

void DatagramReceiver::stop(bool reset) {
    m_stop = true;
    if (m_thread.joinable()) m_thread.join();
    if (reset) m_sockets.clear();
}

benchmark::DatagramCount DatagramReceiver::count() const {
    const std::lock_guard lock(m_mutex);
    benchmark::DatagramCount out = m_statistics.count();
    out.dropped = m_dropped;
    return out;
}

std::optional<double> DatagramReceiver::takeLoss() {
    const std::lock_guard lock(m_mutex);
    return m_statistics.takeLoss();
}

void DatagramReceiver::work() {
    constexpr std::size_t controlBytes = 256;
    std::vector<unsigned char> data(batch * maxDatagram);
    alignas(cmsghdr) std::array<unsigned char, batch * controlBytes> control{};
    std::array<iovec, batch> pieces{};
    std::array<mmsghdr, batch> messages{};
    const int fd = m_sockets[0].get();
    while (!m_stop.load(std::memory_order_relaxed)) {
        for (std::size_t i = 0; i < batch; ++i) {
            pieces[i] = {data.data() + i * maxDatagram, maxDatagram};
            messages[i] = {};
            messages[i].msg_hdr.msg_iov = &pieces[i];
            messages[i].msg_hdr.msg_iovlen = 1;
            messages[i].msg_hdr.msg_control = control.data() + i * controlBytes;
            messages[i].msg_hdr.msg_controllen = controlBytes;
        }
        const int n = ::recvmmsg(fd, messages.data(), batch, MSG_WAITFORONE, nullptr);
        if (n < 0) {
            // ECONNREFUSED: the peer has closed; it may be a late answer to something else, so go on.
            if (errno == EAGAIN || errno == EWOULDBLOCK || errno == EINTR || errno == ECONNREFUSED) continue;
            break;
        }
        const std::int64_t seen = monotonicNs();
        std::uint64_t bytes = 0;
        const std::lock_guard lock(m_mutex);
        for (std::size_t i = 0; i < static_cast<std::size_t>(n); ++i) {
            const unsigned char* at = data.data() + i * maxDatagram;
            const auto head = readHead({at, messages[i].msg_len});
            if (!head || head->mark != m_mark) continue;
            if (head->number == endOfFlow) {
                m_ended = true;
                continue;
            }
            if (const auto dropped = droppedSoFar(messages[i].msg_hdr)) m_dropped = *dropped;
            if (m_statistics.take(head->number, head->sentNs, arrivalNs(messages[i].msg_hdr, seen)))
                bytes += messages[i].msg_len;
        }
        m_bytes.fetch_add(bytes, std::memory_order_relaxed);
    }
    m_ended = true;
}

} // namespace metrodos::probe
