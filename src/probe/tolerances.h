// From when on the engine takes two readings for different, or waits no longer.
#pragma once

#include <chrono>
#include <cstdint>

namespace metrodos::probe {

/// Rates that a machine reports are the same within this share: the raw and the rounded rate of USB 2 differ
/// by as much.
inline constexpr double sameRate = 0.05;
/// s without an event from an endpoint that should send ten a second: a lost peer, and not a busy one.
inline constexpr double silenceLimit = 5;
/// s by which the clock that stops in sleep and the one that goes on must part: above all that a busy machine
/// delays.
inline constexpr double sleepNoticed = 2.0;
/// s until a watch tries a lost endpoint again: often enough to time its return, too seldom to be a load.
inline constexpr double retryAfter = 1.0;
/// A sender this far behind its schedule, in ns, gives up what is missing: a burst of more would measure the
/// queue.
inline constexpr std::int64_t giveUpNs = 100'000'000;
/// What a schedule may lack at its end, in ns, without the machine having been too slow: one late wake-up.
inline constexpr double endSlackNs = 5e6;
/// A probe of the delay that is not answered after so many more counts as lost: two seconds, as long as the
/// slowest links of a house queue.
inline constexpr std::uint64_t lostAfter = 100;
/// ns; below, the stamps of two clocks have crossed, and a delay of nothing would be wrong.
inline constexpr std::int64_t shortestNs = 100;

} // namespace metrodos::probe
