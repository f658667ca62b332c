// A second simulation of houses, runs and hidden faults, for the proof that the inference does not only
// understand the first one. It includes nothing of capacity, trace or standin and reads no catalog: ceilings,
// laws of loss and window, noise, queues and what a machine can see are its own, from the sources named where
// they stand. What it shares with the judge is what both get from outside: the survey and the record of a
// run.
#pragma once

#include "benchmark/summary.h"
#include "house/chain.h"

#include <array>
#include <random>

namespace independent {

using Random = std::mt19937_64;

/// What one element of the route does, by direction: 0 forward, 1 backward.
struct Part {
    std::array<double, 2> ceiling{1e15, 1e15}; ///< bit/s of TCP goodput
    std::array<double, 2> loss{0, 0};          ///< share of the segments that it loses
    double delay = 0;                          ///< s, of a round trip
    double wobble = 0.003;                     ///< relative standard deviation from second to second
    double shared = 1;       ///< share of a medium that is left by others on it; a PHY rate does not show it
    bool cleanOff = false;   ///< what is wrong goes with the appliances
    bool cleanMoved = false; ///< and at another outlet
    std::array<double, 2> clean{1e15, 1e15}; ///< then
};

/// A machine at an end.
struct Machine {
    double sends = 20e9; ///< bit/s that fill one core
    double receives = 20e9;
    double window = 3e6;   ///< bytes that it lets one connection have under way
    bool coreShows = true; ///< a full core is seen; a slow driver is not
};

struct World {
    metrodos::house::House survey; ///< as written down
    metrodos::house::House real;
    std::vector<metrodos::house::Element> route; ///< of the real house
    std::vector<Part> parts;                     ///< by element
    std::array<Machine, 2> machines;             ///< at `from`, at `to`
    std::string fault;                           ///< its name; "none"
    double hiddenRate = 0;                       ///< of something that nobody wrote down; 0: there is none
    double hiddenWobble = 0;
    std::size_t hiddenAt = 0; ///< the cable that it hangs in
    double kindness = 1;      ///< of the congestion control to loss
    double queue = 256e3;     ///< bytes in front of the narrowest element
    double cools = 0;         ///< share that is left when it is hot; 0: it stays cool
    Random random;
    int made = 0; ///< runs

    /// A run of ten seconds. `pace`: datagrams at that rate; 0: TCP.
    metrodos::benchmark::Run run(bool forward, int streams, const metrodos::benchmark::Arrangement& how = {},
                                 double pace = 0);
    /// Writes down what the link or socket of this connection runs at, or its adapters' PHY rates.
    void read(const metrodos::house::Id& connection);
    /// What limits four streams in the slower direction; several where they are within 3 %.
    [[nodiscard]] std::vector<std::string> limiters() const;

    /// What holds a run back: the rate, and of what.
    struct Held {
        double rate = 1e15;
        enum { network, sender, receiver, window, loss, hidden } by = network;
        std::size_t element = 0;
    };
    [[nodiscard]] std::vector<Held> bounds(bool forward, int streams,
                                           const metrodos::benchmark::Arrangement& how, bool datagrams) const;
    [[nodiscard]] double roundTrip(const metrodos::benchmark::Arrangement& how) const;
};

/// The id under which the judge names what is in no survey.
inline constexpr const char* notWritten = "unlisted";

[[nodiscard]] World draw(std::uint64_t seed);

} // namespace independent
