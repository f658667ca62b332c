// A file copied from machine to machine by the agents themselves: what the disks, their caches and the
// network each take, without a file protocol. The copy over a mounted folder is copy_report.h.
#pragma once

#include "benchmark/test_report.h"

namespace metrodos::benchmark {

/// Where the bytes of a transfer come from.
enum class TransferSource {
    memory,
    coldDisk, ///< a file of which the sender's memory holds nothing
    warmDisk, ///< the same file, read before
};
/// Where they go.
enum class TransferSink { memory, disk };

[[nodiscard]] std::string_view name(TransferSource source); ///< "memory", "cold_disk", "warm_disk"
[[nodiscard]] std::string_view name(TransferSink sink);     ///< "memory", "disk"

struct TransferPass {
    TransferSource source = TransferSource::memory;
    TransferSink sink = TransferSink::memory;
    BitRate rate;       ///< of the whole, from the first byte until the last one is where it should be
    double seconds = 0; ///< that it took, `syncSeconds` included
    double syncSeconds =
        0; ///< from the last byte until the file system said that it is on the disk (fdatasync)
    std::optional<double> cachedAtStart = {}; ///< share of the file that the sender's memory held (mincore)
};

struct TransferReport {
    ReportHead head;
    std::uint64_t bytes = 0;
    std::string from; ///< label of the machine that sent
    std::string to;
    std::vector<TransferPass> passes; ///< one of each kind that was made
};

/// {"format": "metrodos-transfer", "version": 1, "simulated", "started_at", "about", "route", "bytes",
/// "from", "to", "passes": [{"source", "sink", "bps", "bytes_per_second", "seconds", "sync_s",
/// "cached_at_start"}]}.
[[nodiscard]] nlohmann::json toJson(const TransferReport& report);
[[nodiscard]] quantity::Result<TransferReport> readTransferReport(const nlohmann::json& document);

/// What the whole copy carries and which part of it decides, as far as the passes tell; then what is not to
/// be relied on.
[[nodiscard]] std::vector<std::string> sentences(const TransferReport& report);

/// nullptr: it was not made.
[[nodiscard]] const TransferPass* passOf(const TransferReport& report, TransferSource source,
                                         TransferSink sink);

} // namespace metrodos::benchmark
