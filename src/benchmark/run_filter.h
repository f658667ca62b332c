// Which runs of a job are meant, in words that can be typed: "route=dome-loft direction=forward hours=18-22".
#pragma once

#include "benchmark/route_runs.h"
#include "quantity/problem.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::benchmark {

/// What is not said is not asked for.
struct RunFilter {
    std::string kind;         ///< of an entry of the log (job/log.h); empty: any. Of runs only "run" is one
    std::optional<bool> used; ///< whether it counts
    house::Id route;
    std::string machine; ///< at an end of the route: a part of its label, in any case, or its id
    std::optional<Direction> direction;
    std::optional<house::Setup> setup;
    std::optional<int> streams;
    std::string from;  ///< of ISO 8601, UTC, as much of it as was typed: "2026-05"; runs from then on
    std::string until; ///< the same, runs that began before its end
    std::optional<house::HourSpan> hours; ///< of the local clock where it was noted, else of UTC
    std::optional<bool> others;           ///< whether other people used the network
    std::optional<bool> simulated;
    std::string without;          ///< an appliance that did not run
    std::optional<bool> bypassed; ///< whether a part of the way was left out
    std::string appliance;        ///< that ran; in any case, a part of its label is enough
    std::string place;            ///< where a thing was plugged in: a jack or "device.port"
    std::string step;             ///< a trial or one of its steps
    std::vector<std::string>
        words; ///< each stands in the route, the note of what was changed, the appliances

    [[nodiscard]] bool matches(const RouteRun& run, const house::House& house) const;
};

/// "key=value" and words, with blanks between; a value with blanks stands in double quotes. Keys are route,
/// machine, direction, setup, streams, from, until, hours, others, simulated, appliance, without, bypassed,
/// place, step, kind, used. A Problem names what cannot be read.
[[nodiscard]] quantity::Result<RunFilter> parseRunFilter(std::string_view text);

/// Those that match, in their order.
[[nodiscard]] RouteRuns matching(const RouteRuns& runs, const RunFilter& filter, const house::House& house);

/// Whether the route ends at a machine of that id or with that in its label.
[[nodiscard]] bool hasMachine(const house::House& house, const house::Id& route, const std::string& machine);

/// Whether the text has the part in it, in any case of ASCII.
[[nodiscard]] bool hasWord(const std::string& text, const std::string& part);

/// The hour in which a run began, 0–23: of the local clock where it was noted, else of UTC; nothing: not
/// known.
[[nodiscard]] std::optional<int> hourOf(const Run& run);

} // namespace metrodos::benchmark
