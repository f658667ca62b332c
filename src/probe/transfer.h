// Copies a file from one machine to another by their agents, each part by itself and all together: what the
// network carries, what reading the disk gives with its cache dropped and with it warm, what writing takes
// until it is on the disk.
#pragma once

#include "benchmark/transfer_report.h"
#include "probe/conduct.h"

namespace metrodos::probe {

struct TransferSettings {
    std::uint64_t bytes = 1'000'000'000;                            ///< 1 MB to 1 TB
    benchmark::Direction direction = benchmark::Direction::forward; ///< from → to, or back
};

/// Tells which pass goes on, what there is so far, and the share of the work that is done, 0–1.
using TransferTold = std::function<void(const benchmark::TransferPass& doing,
                                        const benchmark::TransferReport& soFar, double done)>;

/// Five passes: memory to memory, cold disk to memory, warm disk to memory, memory to disk, cold disk to
/// disk. A Problem where one end has no folder, no room, or falls silent; where it is stopped.
[[nodiscard]] quantity::Result<benchmark::TransferReport> transfer(EndpointLink& from, EndpointLink& to,
                                                                   const TransferSettings& settings,
                                                                   const TransferTold& told,
                                                                   const std::stop_token& stop);

} // namespace metrodos::probe
