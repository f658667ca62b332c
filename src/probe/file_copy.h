// Writes and reads one real file over a mounted path: what disk and file protocol add to the bare network.
#pragma once

#include "benchmark/run.h"
#include "quantity/problem.h"
#include "quantity/quantity.h"

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <stop_token>
#include <vector>

namespace metrodos::probe {

struct CopySettings {
    std::filesystem::path folder;
    std::uint64_t bytes = 1'000'000'000; ///< 1 MB to 1 TB
};

/// One pass over the file.
struct CopyPass {
    quantity::BitRate rate;
    double seconds = 0;
    std::vector<double> bpsByTenth; ///< rate in each tenth of the file: a falling write shows a full cache
    std::optional<double>
        cachedAtStart; ///< share of the file that this machine held in memory before (mincore)
};

struct CopyResult {
    CopyPass write;       ///< until the file system says that it is on the disk (fsync)
    CopyPass cold;        ///< read with this machine's cache dropped
    CopyPass warm;        ///< read again: what memory gives, not disk or network
    bool wasCold = false; ///< whether less than a twentieth was cached before the cold read
};

/// Makes a file of its own in the folder and removes it again, whatever happens. A Problem when the folder
/// cannot be written, is too full, or the stop was requested.
[[nodiscard]] quantity::Result<CopyResult> copyFile(const CopySettings& settings,
                                                    const std::stop_token& stop);

/// {"format": "metrodos-copy", "version": 1, "bytes", "write", "cold_read", "warm_read"}, each pass {"bps",
/// "bytes_per_second", "seconds", "bps_by_tenth", "cached_at_start"}; a cold read that was not cold is null.
[[nodiscard]] nlohmann::json copyDocument(const CopyResult& result, std::uint64_t bytes);

/// Writing and reading cold as two runs of one stream over the route between this machine and the one that
/// the folder lies on; only writing where reading was not cold. `hereIsFrom`: this machine stands at the
/// route's beginning.
[[nodiscard]] std::vector<benchmark::Run> runsOf(const CopyResult& result, bool hereIsFrom);

} // namespace metrodos::probe
