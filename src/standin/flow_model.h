// A fluid model of TCP over one bottleneck, in steps of a tenth of the round-trip time or one millisecond.
#pragma once

#include "standin/truth.h"

#include <random>

namespace metrodos::standin {

/// Streams with slow start and congestion avoidance share one queue in front of the narrowest element. The
/// rate of each is window ÷ delay (Little's law); the queue adds to the delay; overflow makes one of them
/// halve-like back off by 0.7 and regain 0.53 segments a round trip (the Reno-friendly region of RFC 9438).
/// Datagrams come at their pace, and what overflows the queue is lost.
class FlowModel {
  public:
    FlowModel(RouteTruth truth, const benchmark::RunConfig& config, std::uint64_t seed);

    struct Tenth {
        double goodputBps = 0;
        double rttUs = 0; ///< median of what a delay probe saw
        double windowBytes = 0;
        std::uint64_t retransmits = 0; ///< since the start
        double senderCpu = 0;
        double receiverCpu = 0;
        double lossRatio = 0; ///< UDP
    };
    /// The next 100 ms. `shares` is what other flows leave of each element, 0–1; empty: all.
    Tenth next(const std::vector<double>& shares = {});
    /// A round-trip time without load, with the jitter of the media.
    double idleRttUs();
    [[nodiscard]] benchmark::SenderLimited limited() const;
    [[nodiscard]] double bytes() const { return m_bytes; }
    /// UDP: what was sent and what arrived so far; the jitter follows the variation of the media.
    [[nodiscard]] benchmark::DatagramCount datagrams() const;
    [[nodiscard]] const RouteTruth& truth() const { return m_truth; }
    [[nodiscard]] double lastGoodputBps() const { return m_lastGoodput; }

  private:
    struct Stream {
        double window = 0; ///< congestion window, bytes
        bool slowStart = true;
        double holdUntil = 0; ///< no second back-off before one round trip has passed, s
    };
    double capacity(double step);
    void move(double step);
    void movePaced(double step, double perByte);
    void loseOnTheWay(Stream& stream, double segments, double rtt);
    [[nodiscard]] double jitterShare() const;

    RouteTruth m_truth;
    benchmark::RunConfig m_config;
    std::vector<double> m_shares;
    std::vector<Stream> m_streams;
    std::vector<double> m_drift; ///< slow variation of each element, AR(1) with a second's memory
    std::mt19937_64 m_random;
    double m_now = 0;
    double m_queue = 0;
    double m_capacity = 0;
    double m_bytes = 0;
    double m_lost = 0;
    double m_windowTime = 0;
    double m_bufferTime = 0;
    double m_sentBytes = 0; ///< UDP
    double m_lastGoodput = 0;
};

} // namespace metrodos::standin
