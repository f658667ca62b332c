// What a run is: its order, its samples, its result. One run moves bytes in one direction.
#pragma once

#include "quantity/quantity.h"

#include <cmath>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::benchmark {

using quantity::BitRate;

/// Forward is from → to.
enum class Direction { forward, backward };
[[nodiscard]] constexpr const char* name(Direction d) {
    return d == Direction::forward ? "forward" : "backward";
}

/// What is asked of one run.
struct RunOrder {
    Direction direction = Direction::forward;
    int streams = 1;                ///< TCP connections, 1–32
    double seconds = 10;            ///< length with warm-up, 0.5–3600
    std::optional<double> warmup;   ///< seconds to leave out; nothing: found from the samples
    std::uint64_t maximumBytes = 0; ///< stop when so many were sent; 0: no bound but the time
    std::string bind;               ///< local address to send from; empty: the system's choice
};

inline constexpr int maximumStreams = 32;
inline constexpr double shortestRun = 0.5;
inline constexpr double longestRun = 3600;
inline constexpr double sampleSeconds = 0.1;

/// How many samples a run of this length has.
[[nodiscard]] inline int sampleCount(double seconds) {
    return static_cast<int>(std::lround(seconds / sampleSeconds));
}

/// One tenth of a second of a run. What could not be taken is nothing, never 0.
struct Sample {
    double t = 0;                             ///< s since the first byte, at the end of the sample
    double goodputBps = 0;                    ///< at the receiver
    std::optional<double> rttUs;              ///< loaded round-trip time of the delay probe
    std::optional<double> tcpRttUs;           ///< the sender's kernel's smoothed estimate
    std::optional<double> windowBytes;        ///< congestion windows of all streams together
    std::optional<std::uint64_t> retransmits; ///< segments since the start
    std::optional<double> cpuSender;          ///< busy share of the sender's busiest core, 0–1
    std::optional<double> cpuReceiver;
};

struct Percentiles {
    double p50 = 0;
    double p95 = 0;
};

/// Shares of the time that the sender was busy, 0–1.
struct SenderLimited {
    double network = 0;        ///< neither of the others: the congestion window
    double receiverWindow = 0; ///< closed receive window
    double sendBuffer = 0;     ///< small send buffer
};

/// What an interface's own counters say about a run.
struct InterfaceCount {
    std::string name;
    std::uint64_t bytes = 0; ///< in the direction of the run, headers included
};

struct Run {
    std::string id;
    bool simulated = false;
    RunOrder order;
    std::string startedAt; ///< ISO 8601, UTC
    double seconds = 0;    ///< that it lasted
    double warmupSeconds = 0;
    BitRate goodput; ///< at the receiver, warm-up left out
    std::vector<Sample> samples;
    std::optional<Percentiles> rttIdleUs;
    std::optional<Percentiles> rttLoadedUs;
    std::optional<std::uint64_t> retransmits;
    std::optional<SenderLimited> senderLimited;
    std::optional<double> cpuSender;
    std::optional<double> cpuReceiver;
    std::optional<InterfaceCount> interfaceSender;
    std::optional<InterfaceCount> interfaceReceiver;
    bool complete = true; ///< false: stopped before its time
};

} // namespace metrodos::benchmark
