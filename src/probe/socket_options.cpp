#include "probe/socket_options.h"

#include <cerrno>
#include <cstring>
#include <net/if.h>
#include <netinet/in.h>
#include <netinet/tcp.h>

namespace metrodos::probe {
namespace {

using quantity::problem;
using quantity::Result;

template <typename T>
bool set(int fd, int level, int name, const T& value) {
    return ::setsockopt(fd, level, name, &value, sizeof value) == 0;
}

tl::unexpected<quantity::Problem> refused(const std::string& what, const std::string& advice) {
    return problem(what + " is refused by this machine: " + std::strerror(errno), "", advice);
}

} // namespace

Result<void> setOptions(int fd, const benchmark::RunConfig& config) {
    const bool tcp = config.protocol == benchmark::Protocol::tcp;
    if (tcp && !config.congestion.empty() &&
        ::setsockopt(fd, IPPROTO_TCP, TCP_CONGESTION, config.congestion.data(),
                     static_cast<socklen_t>(config.congestion.size())) != 0)
        return refused("the congestion control “" + config.congestion + "”",
                       "choose one of /proc/sys/net/ipv4/tcp_allowed_congestion_control");
    if (config.windowBytes > 0) {
        // The kernel doubles what is asked, for its own book-keeping (socket(7)).
        const int half = static_cast<int>(config.windowBytes / 2);
        if (!set(fd, SOL_SOCKET, SO_SNDBUF, half) || !set(fd, SOL_SOCKET, SO_RCVBUF, half))
            return refused("the window", "choose a smaller one");
    }
    if (tcp && config.segmentBytes > 0 && !set(fd, IPPROTO_TCP, TCP_MAXSEG, config.segmentBytes))
        return refused("the segment size", "choose one between 88 and the MTU less 40");
    if (config.dscp > 0) {
        const int field = config.dscp << 2; // above the two bits of RFC 3168
        sockaddr_storage own{};
        socklen_t size = sizeof own;
        ::getsockname(fd, reinterpret_cast<sockaddr*>(&own), &size);
        const bool six = own.ss_family == AF_INET6;
        if (!set(fd, six ? IPPROTO_IPV6 : IPPROTO_IP, six ? IPV6_TCLASS : IP_TOS, field))
            return refused("the code point", "leave it at 0");
    }
    if (tcp && config.rate) {
        const auto perStream = static_cast<std::uint64_t>(config.rate->bps() / 8 / config.streams);
        if (!set(fd, SOL_SOCKET, SO_MAX_PACING_RATE, perStream)) return refused("the pace", "leave it out");
    }
    return {};
}

Result<void> bindTo(int fd, const std::string& where) {
    if (where.empty()) return {};
    if (::if_nametoindex(where.c_str()) != 0) {
        if (::setsockopt(fd, SOL_SOCKET, SO_BINDTODEVICE, where.data(),
                         static_cast<socklen_t>(where.size())) != 0)
            return problem("the interface cannot be chosen: " + std::string(std::strerror(errno)), where,
                           "give one of its addresses instead");
        return {};
    }
    const auto local = numericAddress(where, 0);
    if (!local)
        return problem("this is neither an interface nor an address of this machine", where,
                       "choose one that “metrodos-cli endpoints” lists");
    if (::bind(fd, reinterpret_cast<const sockaddr*>(&local->storage), local->length) != 0)
        return problem("this machine cannot send from this address: " + std::string(std::strerror(errno)),
                       where, "choose an address of this machine");
    return {};
}

} // namespace metrodos::probe
