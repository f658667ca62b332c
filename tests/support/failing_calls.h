// Orders to a program whose calls of the system fail (failing_calls.cpp), in a file that both have mapped.
#pragma once

#include <array>
#include <atomic>
#include <cstddef>

namespace metrodos::testing {

enum class SystemCall {
    threadMade,
    socketMade,
    accepted,
    bound,
    listened,
    connected,
    named,     ///< getsockname, getpeername
    optionSet, ///< setsockopt
    shut,
    waited, ///< poll
    sent,   ///< send, sendto, sendmsg
    received,
    read,
    written,
    count
};
inline constexpr std::array<const char*, static_cast<std::size_t>(SystemCall::count)> systemCallNames{
    "pthread_create", "socket",   "accept4", "bind", "listen", "connect", "getsockname",
    "setsockopt",     "shutdown", "poll",    "send", "recv",   "read",    "write"};

struct CallOrders {
    std::atomic<int> failing{-1}; ///< which SystemCall; -1: none
    std::atomic<int> left{0};     ///< so many more of it succeed first
    std::atomic<int> error{0};    ///< errno of the one that fails
    std::atomic<int> happened{0}; ///< how often one was made to fail
    std::array<std::atomic<int>, static_cast<std::size_t>(SystemCall::count)> counts{};
};
inline constexpr const char* callOrdersVariable = "METRODOS_CALL_ORDERS";

} // namespace metrodos::testing
