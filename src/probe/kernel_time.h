// The kernel's own time stamps of datagrams, on the monotonic clock.
#pragma once

#include <cstdint>
#include <ctime>
#include <optional>
#include <sys/socket.h>

namespace metrodos::probe {

/// What a clock of clock_gettime(2) shows, in seconds.
[[nodiscard]] double secondsOf(clockid_t clock);
/// CLOCK_MONOTONIC in ns.
[[nodiscard]] std::int64_t monotonicNs();

/// Asks for a stamp at each arrival; and, with `sending`, for one when each datagram comes to the queue of
/// its interface, read from the error queue: the wait in that queue is part of the delay that people feel.
/// False when the kernel has none: then callers fall back on their own clock.
bool stampArrivals(int fd, bool sending = false);

/// The stamp in a received message, moved to the monotonic clock; `seen` is the caller's own time after the
/// call. A stamp that lies after `seen` or more than a second before it is a step of the wall clock: then
/// `seen` is returned.
[[nodiscard]] std::int64_t arrivalNs(const msghdr& message, std::int64_t seen);

/// When a datagram came to the interface's queue: its number since stampArrivals and the time.
struct Departure {
    std::uint32_t number = 0;
    std::int64_t ns = 0;
};
/// The next one that waits in the socket's error queue.
[[nodiscard]] std::optional<Departure> takeDeparture(int fd);

/// Datagrams that the socket itself dropped because it was full, as of this message (SO_RXQ_OVFL); nothing
/// where it does not say.
[[nodiscard]] std::optional<std::uint32_t> droppedSoFar(const msghdr& message);

} // namespace metrodos::probe
