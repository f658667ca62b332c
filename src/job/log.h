// All that was found out in a job, in the order of time: runs, watches, copies, searches, tables of pairs,
// and what adapters showed of their modems.
#pragma once

#include "benchmark/run_filter.h"
#include "job/document.h"

namespace metrodos::job {

struct LogEntry {
    std::string id;   ///< of the run; "report-3"; "reading-" and the connection's id
    std::string kind; ///< "run", "watch", "copy", "search", "matrix", "reading", "document"
    std::string at;   ///< ISO 8601, UTC; empty: not known
    house::Id route;  ///< empty: of none
    std::optional<benchmark::Direction> direction;
    std::optional<quantity::BitRate> figure; ///< goodput; of a reading the PHY rate
    std::optional<quantity::BitRate> low;    ///< tenth percentile, where the kind has one
    std::optional<quantity::BitRate> high;   ///< ninetieth
    bool simulated = false;
    bool used = true;        ///< false: cut off, set aside, or of before an exchange
    std::string about;       ///< what it was made on, where that is no route of the house
    std::string words;       ///< conditions of a run; what else was found
    std::string aside;       ///< why it is set aside; empty: it is not
    bool isOfBefore = false; ///< a run of what was exchanged since: compared, and not judged by
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

/// The runs that are not set aside: for the log, and for comparing what was with what is. Shares their
/// samples.
[[nodiscard]] benchmark::RouteRuns counted(const benchmark::RouteRuns& runs, const house::House& house);
/// The same of reports.
[[nodiscard]] std::vector<Report> counted(const std::vector<Report>& reports, const house::House& house);

/// The one door to everything that is judged: of the runs that are counted those that speak of what is there
/// now. Where something that a way passes was exchanged (dated_changes.h) and the way was run again since, in
/// that direction and set up like that, what was run before speaks of what was there before. Where it was not
/// run again it stands: an entry may only have been corrected.
[[nodiscard]] benchmark::RouteRuns evidence(const benchmark::RouteRuns& runs, const house::House& house);
[[nodiscard]] std::string idOf(const Report& report); ///< "report-3"

/// The house with the run or report set aside for that reason, or counted again where the reason is empty.
[[nodiscard]] quantity::Result<house::House> withSetAside(const house::House& house, const house::Id& id,
                                                          const std::string& reason, const std::string& at);

} // namespace metrodos::job
