// A week by its hours: what a way carried at each hour of each weekday, when it dropped out, and which
// appliance it goes with.
#pragma once

#include "benchmark/route_runs.h"
#include "benchmark/watch_report.h"

#include <array>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::benchmark {

inline constexpr int weekdays = 7; ///< from Monday
inline constexpr int dayHours = 24;

/// One hour of one weekday, by the clock of this machine's time zone.
struct WeekHour {
    int runs = 0;               ///< whole ones
    std::optional<BitRate> p10; ///< of their goodput
    std::optional<BitRate> p50;
    std::optional<BitRate> p90;
    double watchedSeconds = 0;
    int dropOuts = 0; ///< seen by watches that began in it
    double dropOutSeconds = 0;
};
using Week = std::array<std::array<WeekHour, dayHours>, weekdays>;

/// Of one route and direction, over the place as it is in the survey.
[[nodiscard]] Week weekOf(const RouteRuns& runs, const std::vector<WatchReport>& watches,
                          const house::Id& route, Direction direction);

/// What goes with an appliance, and how sure that is.
struct Coincidence {
    std::string appliance; ///< its label
    bool isNoted = false;  ///< it was noted with the runs whether it ran; false: by its hours only
    int with = 0;          ///< runs while it ran
    int without = 0;
    double ratio = 1; ///< of the rate while it ran to the rate while it did not
    double low = 1;   ///< its interval, at 95 % for all appliances together (Bonferroni)
    double high = 1;
    bool isReal = false; ///< the interval does not hold 1
    std::vector<std::string>
        alike; ///< appliances that ran at the same time: these runs cannot tell them apart
    std::string sentence;
};

/// The appliances of the house for which there are at least three runs each with and without, the strongest
/// first; each of the others by what the real ones before it leave. Both directions count, each about its own
/// middle, and the logarithms are compared by Welch's test (1947).
[[nodiscard]] std::vector<Coincidence> coincidencesOf(const house::House& house, const RouteRuns& runs,
                                                      const house::Id& route);

/// The slowest and the fastest hour of the day against each other, with at least three runs each, in one
/// sentence; empty where there is too little.
[[nodiscard]] std::string sentenceOf(const Week& week);

} // namespace metrodos::benchmark
