// Runs of days that have passed in a simulated house: visits, and a schedule of hours. For demonstrations and
// tests; every run says that it is simulated.
#pragma once

#include "benchmark/route_runs.h"
#include "standin/truth.h"

namespace metrodos::standin {

/// A visit on which each of the routes was run `repeats` times in both directions.
struct PastVisit {
    std::int64_t at = 0; ///< seconds since 1970: of the first run; the others follow every 40 s
    std::vector<house::Id> routes;
    int repeats = 2;
    Situation situation = {};
};

/// Both directions in turn, again and again.
struct PastSchedule {
    std::int64_t from = 0;
    int everyMinutes = 60;
    int hours = 24;
    house::Id route;
    house::Id schedule = {}; ///< that the runs belong to; empty: to none
    Situation situation = {};
    std::string appliance = {};                ///< label; empty: none
    std::vector<house::HourSpan> hoursOn = {}; ///< UTC, on working days: while it disturbs
    Situation disturbed = {};
    bool isNoted = true; ///< the runs say that it ran
};

/// Over the house as it is given; ids begin with `stem`. Routes that are not joined are left out. The same
/// seed gives the same runs.
[[nodiscard]] benchmark::RouteRuns runsOf(const house::House& house, const catalog::Catalog& catalog,
                                          const PastVisit& visit, const std::string& stem,
                                          std::uint64_t seed);
[[nodiscard]] benchmark::RouteRuns runsOf(const house::House& house, const catalog::Catalog& catalog,
                                          const PastSchedule& schedule, const std::string& stem,
                                          std::uint64_t seed);

} // namespace metrodos::standin
