#include "probe/delay_probe.h"

#include "probe/guarded.h"
#include "probe/kernel_time.h"
#include "probe/tolerances.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>
#include <poll.h>
#include <sys/prctl.h>

namespace metrodos::probe {
namespace {

// A probe and its answer: number and time spent at the peer in ns, eight bytes each, and padding to the size
// of a small voice packet.
constexpr std::size_t probeBytes = 64;
using Packet = std::array<unsigned char, probeBytes>;
constexpr std::int64_t intervalNs = 20'000'000;
constexpr std::size_t remembered = 256;
constexpr std::chrono::hours meetingLimit{2}; // longer than any run; destruction ends it sooner

struct Received {
    Packet packet{};
    std::int64_t ns = 0;
};

// One whole probe, if one waits.
std::optional<Received> take(int fd) {
    Received out;
    iovec piece{out.packet.data(), out.packet.size()};
    alignas(cmsghdr) std::array<unsigned char, 256> control{};
    msghdr message{};
    message.msg_iov = &piece;
    message.msg_iovlen = 1;
    message.msg_control = control.data();
    message.msg_controllen = control.size();
    const auto n = ::recvmsg(fd, &message, MSG_DONTWAIT);
    if (n != static_cast<ssize_t>(probeBytes)) {
        if (n >= 0) errno = 0; // something else: not a probe, but not the end either
        return std::nullopt;
    }
    out.ns = arrivalNs(message, monotonicNs());
    return out;
}

std::uint64_t wordAt(const Packet& packet, std::size_t index) {
    std::uint64_t value = 0;
    std::memcpy(&value, packet.data() + 8 * index, sizeof value);
    return value;
}

void putWord(Packet& packet, std::size_t index, std::uint64_t value) {
    std::memcpy(packet.data() + 8 * index, &value, sizeof value);
}

} // namespace

DelayEcho::DelayEcho(DatagramPort port)
    : m_port(std::move(port)) {
    m_thread = std::thread(guarded([this] { work(); }));
}

DelayEcho::~DelayEcho() {
    m_stop = true;
    m_thread.join();
}

void DelayEcho::work() {
    const auto socket = m_port.accept(meetingLimit, m_stop);
    if (!socket) return;
    (void)stampArrivals(socket->get());
    while (!m_stop.load()) {
        if (!waitFor(socket->get(), false, std::chrono::milliseconds(50))) continue;
        while (auto probe = take(socket->get())) {
            putWord(probe->packet, 1,
                    static_cast<std::uint64_t>(std::max<std::int64_t>(monotonicNs() - probe->ns, 0)));
            (void)::send(socket->get(), probe->packet.data(), probeBytes, MSG_NOSIGNAL);
        }
        if (errno == ECONNREFUSED)
            std::this_thread::sleep_for(std::chrono::milliseconds(20)); // peer has left
    }
}

DelayProbe::DelayProbe(Fd socket)
    : m_socket(std::move(socket))
    , m_markedNs(monotonicNs()) {
    (void)stampArrivals(m_socket.get(), true);
    m_thread = std::thread(guarded([this] { work(); }));
}

DelayProbe::~DelayProbe() {
    m_stop = true;
    m_thread.join();
}

void DelayProbe::work() {
    ::prctl(PR_SET_TIMERSLACK, 1000UL);
    struct Sent {
        std::int64_t callNs = 0;   // before the call
        std::int64_t queuedNs = 0; // when it came to the interface; 0: not told yet
        bool open = false;
    };
    std::array<Sent, remembered> sent{};
    std::uint64_t next = 0;
    std::uint32_t stamped = 0; // the kernel numbers what it has sent; a failed call is not counted
    std::array<std::uint64_t, remembered> numberOf{};
    const int fd = m_socket.get();
    Packet packet{};
    std::int64_t due = monotonicNs();
    while (!m_stop.load()) {
        const std::int64_t now = monotonicNs();
        if (now >= due) {
            if (next >= lostAfter && sent[(next - lostAfter) % remembered].open) {
                sent[(next - lostAfter) % remembered].open = false;
                const std::lock_guard lock(m_mutex);
                m_statistics.lose();
            }
            Sent& slot = sent[next % remembered];
            putWord(packet, 0, next);
            slot = {now, 0, true};
            if (::send(fd, packet.data(), probeBytes, MSG_NOSIGNAL) == static_cast<ssize_t>(probeBytes)) {
                numberOf[stamped % remembered] = next;
                ++stamped;
            } else {
                slot.open = false; // no room in the queue, or the peer has left: nothing was asked
            }
            ++next;
            due = std::max(due + intervalNs, now); // a late start delays the next probe instead of bunching
        }
        pollfd item{fd, POLLIN, 0};
        const std::int64_t left = std::clamp<std::int64_t>(due - monotonicNs(), 0, intervalNs);
        const timespec limit{0, left};
        if (::ppoll(&item, 1, &limit, nullptr) <= 0) continue;
        while (const auto departure = takeDeparture(fd)) {
            const std::uint64_t number = numberOf[departure->number % remembered];
            if (number < next && next - number < remembered)
                sent[number % remembered].queuedNs = departure->ns;
        }
        while (const auto answer = take(fd)) {
            const std::uint64_t number = wordAt(answer->packet, 0);
            if (number >= next || next - number > remembered) continue;
            Sent& slot = sent[number % remembered];
            if (!slot.open) continue; // came twice
            slot.open = false;
            const std::int64_t own = answer->ns - slot.callNs;
            const auto there = static_cast<std::int64_t>(std::min<std::uint64_t>(
                wordAt(answer->packet, 1), static_cast<std::uint64_t>(std::max<std::int64_t>(own, 0))));
            // The stamp cannot lie before the call nor after the answer.
            const bool stampFits = slot.queuedNs >= slot.callNs && slot.queuedNs < answer->ns;
            const std::int64_t rtt = (stampFits ? answer->ns - slot.queuedNs : own) - there;
            const std::lock_guard lock(m_mutex);
            m_statistics.add(static_cast<double>(answer->ns - m_markedNs) * 1e-9,
                             static_cast<double>(std::max(rtt, shortestNs)) / 1000);
        }
    }
}

std::optional<double> DelayProbe::takeMedian() {
    const std::lock_guard lock(m_mutex);
    return m_statistics.takeMedian();
}

benchmark::DelayStatistics DelayProbe::statistics() const {
    const std::lock_guard lock(m_mutex);
    return m_statistics;
}

void DelayProbe::mark() {
    const std::lock_guard lock(m_mutex);
    m_statistics.clear();
    m_markedNs = monotonicNs();
}

} // namespace metrodos::probe
