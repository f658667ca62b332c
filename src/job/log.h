// All that was found out in a job, in the order of time: runs, watches, copies, searches, tables of pairs,
// and what adapters showed of their modems.
#pragma once

#include "benchmark/run_filter.h"
#include "job/document.h"

namespace metrodos::job {

struct LogEntry {
    std::string id;   ///< of the run; "report-3"; "reading-" and the connection's id
    std::string kind; ///< "run", "watch", "copy", "search", "matrix", "reading"
    std::string at;   ///< ISO 8601, UTC; empty: not known
    house::Id route;  ///< empty: of none
    std::optional<benchmark::Direction> direction;
    std::optional<quantity::BitRate> figure; ///< goodput; of a reading the PHY rate
    std::optional<quantity::BitRate> low;    ///< tenth percentile, where the kind has one
    std::optional<quantity::BitRate> high;   ///< ninetieth
    bool simulated = false;
    bool used = true;                         ///< false: cut off, or set aside
    std::string about;                        ///< what it was made on, where that is no route of the house
    std::string words;                        ///< conditions of a run; what else was found
    std::string aside;                        ///< why it is set aside; empty: it is not
    const benchmark::RouteRun* run = nullptr; ///< of `runs`, for a run
};

/// Those that the filter means, oldest first. What only runs have is asked of runs only: a filter with a
/// direction means no copy.
[[nodiscard]] std::vector<LogEntry> logOf(const house::House& house, const benchmark::RouteRuns& runs,
                                          const std::vector<Report>& reports,
                                          const benchmark::RunFilter& filter);

/// The tenth and ninetieth percentile of a run's whole seconds, which are read for it; nothing for a run of
/// fewer than two seconds.
[[nodiscard]] std::optional<std::pair<quantity::BitRate, quantity::BitRate>>
spreadOf(const benchmark::Run& run);

/// The one door to what is judged: the runs that are not set aside. Shares their samples.
[[nodiscard]] benchmark::RouteRuns used(const benchmark::RouteRuns& runs, const house::House& house);
/// The same of reports.
[[nodiscard]] std::vector<Report> used(const std::vector<Report>& reports, const house::House& house);
/// Those made since the last exchange (dated_changes.h) of something that their way passes: runs of the things
/// that are there now. Where an entry was only corrected, that leaves out more than it has to.
[[nodiscard]] benchmark::RouteRuns sinceExchanges(const benchmark::RouteRuns& runs, const house::House& house);
[[nodiscard]] std::string idOf(const Report& report); ///< "report-3"

/// The house with the run or report set aside for that reason, or counted again where the reason is empty.
[[nodiscard]] quantity::Result<house::House> withSetAside(const house::House& house, const house::Id& id,
                                                          const std::string& reason, const std::string& at);

} // namespace metrodos::job
