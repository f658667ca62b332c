#include "probe/kernel_time.h"

#include <array>
#include <cstring>
#include <ctime>
#include <linux/errqueue.h>
#include <linux/net_tstamp.h>
#include <netinet/in.h>

namespace metrodos::probe {
namespace {

constexpr std::int64_t second = 1'000'000'000;

std::int64_t nsOf(const timespec& t) {
    return t.tv_sec * second + t.tv_nsec;
}

std::int64_t now(clockid_t clock) {
    timespec t{};
    ::clock_gettime(clock, &t);
    return nsOf(t);
}

// A wall-clock stamp on the monotonic clock, by what both clocks show now; `seen` where it is none (0).
std::int64_t toMonotonic(std::int64_t stamp, std::int64_t seen) {
    const std::int64_t ago = now(CLOCK_REALTIME) - stamp - (monotonicNs() - seen);
    return ago < 0 || ago > second ? seen : seen - ago;
}

template <typename Use>
void eachControl(const msghdr& message, Use use) {
    auto* mutableMessage = const_cast<msghdr*>(&message); // CMSG_NXTHDR wants it so
    for (cmsghdr* c = CMSG_FIRSTHDR(mutableMessage); c != nullptr; c = CMSG_NXTHDR(mutableMessage, c))
        use(*c);
}

// The software stamp among the three that SO_TIMESTAMPING delivers; 0: none.
std::int64_t stampOf(const msghdr& message) {
    std::int64_t stamp = 0;
    eachControl(message, [&](const cmsghdr& c) {
        if (c.cmsg_level != SOL_SOCKET || c.cmsg_type != SCM_TIMESTAMPING) return;
        scm_timestamping times{};
        std::memcpy(&times, CMSG_DATA(&c), sizeof times);
        stamp = nsOf(times.ts[0]);
    });
    return stamp;
}

} // namespace

double secondsOf(clockid_t clock) {
    return static_cast<double>(now(clock)) * 1e-9;
}

std::int64_t monotonicNs() {
    return now(CLOCK_MONOTONIC);
}

bool stampArrivals(int fd, bool sending) {
    const int on = 1;
    ::setsockopt(fd, SOL_SOCKET, SO_RXQ_OVFL, &on, sizeof on);
    unsigned flags = SOF_TIMESTAMPING_RX_SOFTWARE | SOF_TIMESTAMPING_SOFTWARE;
    if (sending) flags |= SOF_TIMESTAMPING_TX_SCHED | SOF_TIMESTAMPING_OPT_ID | SOF_TIMESTAMPING_OPT_TSONLY;
    return ::setsockopt(fd, SOL_SOCKET, SO_TIMESTAMPING, &flags, sizeof flags) == 0;
}

std::int64_t arrivalNs(const msghdr& message, std::int64_t seen) {
    return toMonotonic(stampOf(message), seen);
}

std::optional<Departure> takeDeparture(int fd) {
    alignas(cmsghdr) std::array<unsigned char, 512> control{};
    msghdr message{};
    message.msg_control = control.data();
    message.msg_controllen = control.size();
    if (::recvmsg(fd, &message, MSG_ERRQUEUE | MSG_DONTWAIT) < 0) return std::nullopt;
    const std::int64_t seen = monotonicNs();
    Departure out{0, toMonotonic(stampOf(message), seen)};
    eachControl(message, [&](const cmsghdr& c) {
        const bool isError = (c.cmsg_level == IPPROTO_IP && c.cmsg_type == IP_RECVERR) ||
                             (c.cmsg_level == IPPROTO_IPV6 && c.cmsg_type == IPV6_RECVERR);
        if (!isError) return;
        sock_extended_err error{};
        std::memcpy(&error, CMSG_DATA(&c), sizeof error);
        out.number = error.ee_data;
    });
    return out;
}

std::optional<std::uint32_t> droppedSoFar(const msghdr& message) {
    std::optional<std::uint32_t> out;
    eachControl(message, [&](const cmsghdr& c) {
        if (c.cmsg_level != SOL_SOCKET || c.cmsg_type != SO_RXQ_OVFL) return;
        std::uint32_t value = 0;
        std::memcpy(&value, CMSG_DATA(&c), sizeof value);
        out = value;
    });
    return out;
}

} // namespace metrodos::probe
