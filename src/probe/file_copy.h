// Writes and reads one real file over a mounted path: what disk and file protocol add to the bare network.
#pragma once

#include "benchmark/copy_report.h"
#include "quantity/problem.h"
#include "quantity/quantity.h"

#include <filesystem>
#include <functional>
#include <optional>
#include <stop_token>
#include <vector>

namespace metrodos::probe {

struct CopySettings {
    std::filesystem::path folder;
    std::uint64_t bytes = 1'000'000'000; ///< 1 MB to 1 TB
};

/// Makes a file of its own in the folder and removes it again, whatever happens. A Problem when the folder
/// cannot be written, is too full, or the stop was requested.
/// `told`: which share of the three passes is done, 0–1.
[[nodiscard]] quantity::Result<benchmark::CopyReport> copyFile(const CopySettings& settings,
                                                               const std::stop_token& stop,
                                                               const std::function<void(double)>& told = {});

/// Writing and reading cold as two runs of one stream over the route between this machine and the one that
/// the folder lies on; only writing where reading was not cold. `hereIsFrom`: this machine stands at the
/// route's beginning.
[[nodiscard]] std::vector<benchmark::Run> copyRuns(const benchmark::CopyReport& copy, bool hereIsFrom);

} // namespace metrodos::probe
