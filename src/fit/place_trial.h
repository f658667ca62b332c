// Trying where a thing is plugged in: the outlets of a room, the coax jacks of a room, the sockets of a
// machine, the ports of a switch. Each place has its runs, both ways; the one with the best lower end stays.
#pragma once

#include "benchmark/route_runs.h"
#include "capacity/distribution.h"
#include "fit/steps.h"
#include "quantity/problem.h"

#include <optional>

namespace metrodos::fit {

struct Place {
    std::string id;    ///< a jack, or "device.port"
    std::string label; ///< "Loft outlet 2", "Loft computer, USB 3"

    friend bool operator==(const Place&, const Place&) = default;
};

/// What can be tried of a step.
struct PlaceTrial {
    std::string what;          ///< is plugged in: "Loft adapter"
    std::string kind;          ///< of the places: "outlets", "coax jacks", "sockets", "ports"
    std::string things;        ///< with whose they are: "outlets of the Loft"
    std::string wait;          ///< what to see before a run, the end of an instruction
    house::Id route;           ///< that passes it
    house::Id element;         ///< of that route, which is other than surveyed at the other places
    std::vector<Place> places; ///< where it is now first; at least two
};

/// Nothing where the step is about nothing that can be plugged in elsewhere, there is only one place, or no
/// route passes it.
[[nodiscard]] std::optional<PlaceTrial> placesOf(const Step& step, const house::House& house);

/// One round over the places: five seconds each way with four streams.
[[nodiscard]] house::Trial planPlaces(const house::House& house, const PlaceTrial& places);
/// The trial with one round more, in the order opposite to the last, so that a drift of the hour does not
/// decide.
[[nodiscard]] house::Trial withRound(house::Trial trial);

/// Whether the trial tries places, and whether it tries these.
[[nodiscard]] bool triesPlaces(const house::Trial& trial);
[[nodiscard]] bool isTrialOf(const house::Trial& trial, const PlaceTrial& places);

/// What a place has shown.
struct TriedPlace {
    Place place;
    bool isNow = false; ///< the house has the thing there
    std::optional<catalog::RateSpread>
        forward; ///< of whole seconds: their tenth, middle and ninetieth percentile
    std::optional<catalog::RateSpread> backward;
    /// The lower end of both directions; nothing while one of them has no run.
    std::optional<quantity::BitRate> lower;
};
/// In the order of the trial.
[[nodiscard]] std::vector<TriedPlace> triedPlaces(const house::House& house, const house::Trial& trial,
                                                  const benchmark::RouteRuns& runs);
/// The one with the highest lower end, of equal ones the one that is now; nothing until two are measured.
[[nodiscard]] std::optional<std::size_t> bestOf(const std::vector<TriedPlace>& tried);

/// The house with the thing plugged in there. A Problem where it does not fit any more.
[[nodiscard]] quantity::Result<house::House> keepPlace(const house::House& house, const house::Trial& trial,
                                                       const std::string& place);

/// The same with the best place so far. A Problem also where there is none yet.
struct Kept {
    Place place;
    house::House house;
};
[[nodiscard]] quantity::Result<Kept> keepBest(const house::House& house, const house::Trial& trial,
                                              const benchmark::RouteRuns& runs);

} // namespace metrodos::fit
