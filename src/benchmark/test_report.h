// What every report of a test that is not a run has: how it was made, and what it says in sentences. Reports
// are kept in a job as JSON, drawn in the window and printed by the command line; each kind has its writer,
// its reader and its sentences beside each other (watch_report.h, matrix_report.h, search_report.h,
// copy_report.h).
#pragma once

#include "benchmark/run.h"
#include "quantity/fields.h"
#include "quantity/problem.h"

#include <functional>
#include <string>
#include <vector>

namespace metrodos::benchmark {

struct ReportHead {
    bool simulated = false;
    std::string startedAt = {}; ///< ISO 8601, UTC; empty: not known
    std::string about = {};     ///< label of the route that it was made on, as it was then; empty: not known
    house::Id route = {};       ///< that route, as long as the job has it; empty: not known
};

/// Puts {"format", "version", "simulated", "started_at", "about", "route"} into `document`; a field that is
/// not known is left out.
void writeHead(nlohmann::json& document, const char* format, const ReportHead& head);
/// Throws quantity::BadField where the format is another one.
[[nodiscard]] ReportHead readHead(const nlohmann::json& document, const char* format);

/// What `read` returns, or the Problem that the report is not well formed.
template <typename Read>
[[nodiscard]] auto readingReport(Read read) -> quantity::Result<decltype(read())> {
    try {
        return read();
    } catch (const quantity::BadField& bad) {
        return quantity::problem("this report does not hold together: “" + bad.name +
                                     "” is missing or out of range",
                                 "", "make the test again");
    }
}

/// How a time since the beginning of a test is said: by the clock in the window, in seconds on the command
/// line.
using TimeWords = std::function<std::string(double seconds)>;

} // namespace metrodos::benchmark
