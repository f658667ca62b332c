// What a run is: its order, its samples, its result. One run moves bytes in one direction.
#pragma once

#include "benchmark/arrangement.h"
#include "benchmark/samples.h"
#include "quantity/quantity.h"

#include <cmath>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::benchmark {

using quantity::BitRate;

/// Forward is from → to.
enum class Direction { forward, backward };
[[nodiscard]] constexpr const char* name(Direction d) {
    return d == Direction::forward ? "forward" : "backward";
}
[[nodiscard]] std::optional<Direction> direction(std::string_view name);

enum class Protocol { tcp, udp };
[[nodiscard]] constexpr const char* name(Protocol p) {
    return p == Protocol::tcp ? "tcp" : "udp";
}
[[nodiscard]] std::optional<Protocol> protocol(std::string_view name);

/// What is asked of one run.
struct RunConfig {
    Direction direction = Direction::forward;
    Protocol protocol = Protocol::tcp;
    int streams = 1;              ///< TCP connections, 1–32; UDP has one flow
    double seconds = 10;          ///< length with warm-up, 0.5–3600
    std::optional<double> warmup; ///< seconds to leave out; nothing: found from the samples
    std::uint64_t maxBytes = 0;   ///< stop when so many were sent; 0: no bound but the time
    std::string bind;             ///< local address to send from; empty: the system's choice
    /// UDP: the pace of its payload. TCP: no stream set faster than this. Nothing: as fast as it goes, which
    /// UDP may not.
    std::optional<BitRate> rate;
    std::string congestion;        ///< the kernel's name of a congestion control; empty: the system's own
    std::uint64_t windowBytes = 0; ///< socket buffers at both ends; 0: the kernel sizes them as it goes
    int segmentBytes = 0;          ///< TCP: largest segment, 88–9000; UDP: payload of a datagram; 0: usual
    int dscp = 0;                  ///< code point of RFC 2474 on all that is sent, 0–63
    int ipVersion = 0;             ///< of the ends' addresses: 4, 6, or 0: as their names resolve
    Arrangement arrangement = {};
    /// Runs of one group went on at the same time; empty: alone. 1–64 of a–z, 0–9 and '-'.
    std::string group;
};

inline constexpr int minSegment = 88; // below, Linux refuses TCP_MAXSEG
inline constexpr int maxSegment = 9000;
inline constexpr int usualDatagram = 1448; ///< payload that fits 1500 bytes of IPv6 with options to spare
inline constexpr double maxWindow = 1e9;   // bytes
inline constexpr double minPace = 10e3;    // bit/s
inline constexpr double maxPace = 100e9;

inline constexpr int maxStreams = 32;
inline constexpr double minRun = 0.5;
inline constexpr double maxRun = 3600;
inline constexpr double sampleSeconds = 0.1;

inline constexpr std::size_t maxAddressBytes = 400;

/// How many samples a run of this length has.
[[nodiscard]] inline int sampleCount(double seconds) {
    return static_cast<int>(std::lround(seconds / sampleSeconds));
}

struct Percentiles {
    double p50 = 0;
    double p95 = 0;
    std::optional<double> p99 = {};
    std::optional<double> max = {};
};

/// A round trip far above the others (DelayStatistics).
struct DelaySpike {
    double t = 0; ///< s since the first byte
    double rttUs = 0;
};

/// What the receiver of datagrams saw.
struct DatagramCount {
    std::uint64_t sent = 0;       ///< as the sender counted
    std::uint64_t unsent = 0;     ///< due at the pace, but the sender could not get rid of them in time
    std::uint64_t received = 0;   ///< each once
    std::uint64_t duplicates = 0; ///< came again
    std::uint64_t reordered = 0;  ///< came after a later one (RFC 4737)
    std::uint64_t dropped = 0;    ///< of those lost, at the receiver's own full socket: the host, not the net
    double jitterUs = 0;          ///< interarrival jitter of RFC 3550, 6.4.1
    std::optional<Percentiles> variationUs; ///< one-way delay above the least of the run (RFC 3393)
    /// Of what was due at the pace, the share that did not arrive.
    [[nodiscard]] double shortfall() const {
        const std::uint64_t due = sent + unsent;
        return due == 0 || received >= due ? 0
                                           : static_cast<double>(due - received) / static_cast<double>(due);
    }
    [[nodiscard]] double lossRatio() const {
        return sent == 0 || received >= sent
                   ? 0
                   : static_cast<double>(sent - received) / static_cast<double>(sent);
    }
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
    std::uint64_t bytes = 0;                  ///< in the direction of the run, headers included
    std::optional<std::uint64_t> errors = {}; ///< frames with errors and frames dropped during the run
    std::optional<bool> radio = {};           ///< whether it is a radio
    std::optional<bool> cableToo = {};        ///< whether a wired interface of the machine is up as well
    /// The interface that the kernel would choose towards the peer, where it is another one.
    std::string elsewhere = {};
};

/// What else went on. Unknown is a legal answer.
struct Conditions {
    std::vector<std::string> appliances; ///< labels of those that ran
    std::optional<bool> othersActive;    ///< whether other people used the network
    std::string changed;              ///< what is different from the run before; empty: nothing that is known
    std::optional<int> hour;          ///< of the local clock, 0–23
    std::optional<bool> radioUp = {}; ///< whether a radio of one of the two machines was up

    friend bool operator==(const Conditions&, const Conditions&) = default;
};

struct Run {
    std::string id;
    bool simulated = false;
    RunConfig config;
    std::string startedAt; ///< ISO 8601, UTC
    double seconds = 0;    ///< that it lasted
    double warmupSeconds = 0;
    BitRate goodput; ///< at the receiver, warm-up left out
    Samples samples;
    std::optional<Percentiles> rttIdleUs;
    std::optional<Percentiles> rttLoadedUs;
    std::optional<std::uint64_t> retransmits;
    std::optional<SenderLimited> senderLimited;
    std::optional<double> cpuSender;
    std::optional<double> cpuReceiver;
    std::optional<double> cpuProcessSender; ///< processor time of the endpoint per second, in cores
    std::optional<double> cpuProcessReceiver;
    std::optional<DatagramCount> datagrams; ///< UDP
    std::vector<DelaySpike> spikes;         ///< of the loaded delay, the highest, by time
    std::optional<std::uint64_t> delayLost; ///< delay probes that never came back
    std::optional<InterfaceCount> interfaceSender;
    std::optional<InterfaceCount> interfaceReceiver;
    bool complete = true; ///< false: stopped before its time
    Conditions conditions;
    std::string step; ///< of a trial; empty: of none
    /// Of the service: the web address that the bytes came from, or went to, where the one that was asked
    /// sent on; at most maxAddressBytes.
    std::string redirectedTo;

    /// Whether the run went as fast as the route lets one user go: TCP, not paced, nothing else beside it,
    /// over the route and not on the bench. Others say of the route only "at least so much".
    [[nodiscard]] bool showsCeiling() const {
        return config.protocol == Protocol::tcp && !config.rate && config.group.empty() &&
               config.arrangement.isAsSurveyed();
    }
};

} // namespace metrodos::benchmark
