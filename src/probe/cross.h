// Measures every endpoint against every other, and chosen pairs at once.
#pragma once

#include "benchmark/matrix.h"
#include "probe/conduct.h"

namespace metrodos::probe {

struct MatrixConfig {
    /// Opens a link to each endpoint; called again for the pairs that run at once.
    std::vector<OpenLink> ends;
    std::vector<std::string> names; ///< empty: as the endpoints call themselves
    benchmark::RunConfig run;       ///< its direction is forward
    int repeats = 1;                ///< runs a pair
    benchmark::Rule rule = benchmark::Rule::trimmed;
    std::vector<benchmark::Pair> atOnce;
    bool onlyThose = false; ///< leave out the pairs that are not in atOnce
};

/// `done` is called after every pair with what there is so far, from the calling thread. A stop is a Problem:
/// half a matrix says nothing of what pairs share.
[[nodiscard]] quantity::Result<benchmark::Matrix>
measureMatrix(const MatrixConfig& config, const std::function<void(const benchmark::Matrix&)>& done,
              const std::stop_token& stop);

} // namespace metrodos::probe
