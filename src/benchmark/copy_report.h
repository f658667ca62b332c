// What a real file written to a store and read again has shown, as it is kept, drawn and said.
#pragma once

#include "benchmark/test_report.h"

namespace metrodos::benchmark {

/// One pass over the file.
struct CopyPass {
    BitRate rate;
    double seconds = 0;
    std::vector<double> bpsByTenth; ///< rate in each tenth of the file: a falling write shows a full cache
    std::optional<double>
        cachedAtStart; ///< share of the file that this machine held in memory before (mincore)
};

struct CopyReport {
    ReportHead head;
    std::uint64_t bytes = 0;
    CopyPass write; ///< until the file system says that it is on the disk (fsync)
    std::optional<CopyPass>
        cold;                ///< read with this machine's cache dropped; nothing: it could not be dropped
    CopyPass warm;           ///< read again: what memory gives, not disk or network
    std::string folder = {}; ///< empty: not said
    std::optional<BitRate> network =
        {}; ///< the most that the network alone gave on the route; nothing: not measured
};

/// {"format": "metrodos-copy", "version": 1, "simulated", "started_at", "about", "bytes", "write",
/// "cold_read", "warm_read", "folder", "network_bps"}, each pass {"bps", "bytes_per_second", "seconds",
/// "bps_by_tenth", "cached_at_start"}.
[[nodiscard]] nlohmann::json toJson(const CopyReport& report);
[[nodiscard]] quantity::Result<CopyReport> readCopyReport(const nlohmann::json& document);

[[nodiscard]] std::vector<std::string> sentences(const CopyReport& report);

} // namespace metrodos::benchmark
