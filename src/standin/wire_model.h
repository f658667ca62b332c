// What happens to single packets on a simulated medium: when each comes out at the other side, if at all.
#pragma once

#include <array>
#include <cstdint>
#include <deque>
#include <optional>
#include <random>
#include <vector>

namespace metrodos::standin {

struct WireSettings {
    double bps = 100e6;        ///< of IP packets, headers included
    bool halfDuplex = false;   ///< one total: the directions send in turn while both have something to send
    double delaySeconds = 0;   ///< each way, without the time that the bits take
    double jitterSeconds = 0;  ///< added, evenly between none and this; packets do not overtake one another
    double lossRatio = 0;      ///< of packets, each by itself
    double queueBytes = 256e3; ///< that wait in front of each direction; what does not fit is dropped
    std::uint64_t seed = 1;
};

/// Works on times that it is given, in s: the same packets at the same times meet the same fate.
class WireModel {
  public:
    struct Arrival {
        int direction = 0;
        std::uint64_t number = 0;
        std::optional<double> at; ///< nothing: it is lost on the way
    };

    explicit WireModel(const WireSettings& settings);

    /// A packet comes to direction 0 or 1; times of calls do not fall. False: the queue is full.
    bool enter(int direction, std::size_t bytes, std::uint64_t number, double now);
    /// The packets whose last bit was sent by `now`, with the times at which they arrive, which may lie
    /// later.
    [[nodiscard]] std::vector<Arrival> advance(double now);
    /// When `advance` will have something to do; nothing while all queues are empty.
    [[nodiscard]] std::optional<double> next() const;

  private:
    struct Waiting {
        std::uint64_t number = 0;
        double bytes = 0;
        double since = 0;
    };
    struct Side {
        std::deque<Waiting> queue; ///< the first is being sent where `server` says so
        double bytes = 0;
        double arrived = 0; ///< of the packet before
    };
    struct Server {
        std::optional<double> until; ///< when the last bit of what it sends is out; nothing: idle
        int sends = 0;
        double free = 0;
    };
    [[nodiscard]] Server& serverOf(int direction) {
        return m_servers[m_settings.halfDuplex ? 0 : index(direction)];
    }
    static std::size_t index(int direction) { return direction == 0 ? 0 : 1; }
    void begin(Server& server, int preferred);

    WireSettings m_settings;
    std::array<Side, 2> m_sides;
    std::array<Server, 2> m_servers;
    std::mt19937_64 m_random;
};

} // namespace metrodos::standin
