// What is said of the runs of the house, arranged for later ones, and noted of what was exchanged between
// them.
#pragma once

#include "house/survey.h"

namespace metrodos::house {

/// A run that counts for nothing any more: it stays in the log and feeds no verdict, plan or figure.
struct SetAside {
    Id id; ///< of the run, or "report-" and the number of a report
    std::string reason;
    std::string at; ///< ISO 8601, UTC: since when

    friend bool operator==(const SetAside&, const SetAside&) = default;
};

/// Runs over one route that are made again and again: by the window while it is open, or by an agent that was
/// given the schedule. Both directions in turn.
struct Schedule {
    Id id;
    std::string label;
    Id route;
    std::string from;           ///< ISO 8601, UTC: of the first
    int everyMinutes = 60;      ///< from one to the next, 1–1440
    int hours = 24;             ///< that it goes on, 1–744
    double seconds = 5;         ///< of one run, 1–60
    int streams = 4;            ///< 1–32
    bool unattended = false;    ///< the agent at the route's first end has it; else the window makes the runs
    std::int64_t collected = 0; ///< number of the agent's newest record that is in the job

    friend bool operator==(const Schedule&, const Schedule&) = default;
};

/// Something that was exchanged, by its time.
struct DatedChange {
    Id id;          ///< unique among the changes
    std::string at; ///< ISO 8601, UTC
    Id thing;
    std::string text; ///< "the service of “Operator's box” changed from 250 to 1000 Mbit/s down"
    /// The probability at which it was said to be the limit of `route` when it was exchanged, and so what the
    /// runs after it confirm or refute; nothing: nobody had said so.
    std::optional<double> said = {};
    Id route = {};

    friend bool operator==(const DatedChange&, const DatedChange&) = default;
};
/// Of the time, that scheduled runs may take: the house is used meanwhile.
inline constexpr double maxDuty = 0.25;
/// How a chapter of the job's documents is wanted (report/handover.h). Their order is that of the list.
struct ChapterChoice {
    Id id;
    bool isLeftOut = false;
    std::string note = {}; ///< added by hand

    friend bool operator==(const ChapterChoice&, const ChapterChoice&) = default;
};

inline constexpr std::size_t maxChanges = 500; ///< the newest are kept

} // namespace metrodos::house
