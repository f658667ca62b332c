// From which figures on a run is said to show something. Each is a working value with its reason; what the
// models reckon with stands in data/catalog.
#pragma once

namespace metrodos::benchmark {

/// A core from this busy share on is full. The kernel counts in ticks of 10 ms and a sample has 100 ms: a
/// core that never waits is seen at 0.95 and more.
inline constexpr double fullCore = 0.95;

/// A copy this much faster than the network did not cross it; one this much slower is held back by disk or
/// file protocol. Between them lie the protocol's 1 to 8 % and the error of a file of some seconds.
inline constexpr double copyAboveNetwork = 1.2;
inline constexpr double copyBelowNetwork = 0.8;

/// Share of a file that may lie in memory before a copy of it counts as read from the disk.
inline constexpr double coldBelow = 0.05;

} // namespace metrodos::benchmark
