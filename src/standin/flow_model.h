// A fluid model of TCP over one bottleneck, in steps of a tenth of the round-trip time or one millisecond.
#pragma once

#include "standin/truth.h"

#include <random>

namespace metrodos::standin {

/// Streams with slow start and congestion avoidance share one queue in front of the narrowest element. The
/// rate of each is window ÷ delay (Little's law); the queue adds to the delay; overflow makes one of them
/// halve-like back off by 0.7 and regain 0.53 segments a round trip (the Reno-friendly region of RFC 9438).
class FlowModel {
  public:
    FlowModel(RouteTruth truth, int streams, std::uint64_t seed);

    struct Tenth {
        double goodputBps = 0;
        double rttUs = 0; ///< median of what a delay probe saw
        double windowBytes = 0;
        std::uint64_t retransmits = 0; ///< since the start
        double senderCpu = 0;
        double receiverCpu = 0;
    };
    /// The next 100 ms.
    Tenth next();
    /// A round-trip time without load, with the jitter of the media.
    double idleRttUs();
    [[nodiscard]] benchmark::SenderLimited limited() const;
    [[nodiscard]] double bytes() const { return m_bytes; }

  private:
    struct Stream {
        double window = 0; ///< congestion window, bytes
        bool slowStart = true;
        double holdUntil = 0; ///< no second back-off before one round trip has passed, s
    };
    double capacity(double step);
    void move(double step);

    RouteTruth m_truth;
    std::vector<Stream> m_streams;
    std::vector<double> m_drift; ///< slow variation of each element, AR(1) with a second's memory
    std::mt19937_64 m_random;
    double m_now = 0;
    double m_queue = 0;
    double m_capacity = 0;
    double m_bytes = 0;
    double m_lost = 0;
    double m_windowTime = 0;
};

} // namespace metrodos::standin
