// The command of metrodos-cli that plans a house.
#pragma once

#include "programs/cli_files.h"
#include "weigh/objectives.h"

namespace metrodos::programs {

/// What the command line asks to be weighed.
struct WeighRequest {
    job::Document document;
    weigh::Options options;
    weigh::Prices prices;
    weigh::Objective objective = weigh::Objective::cheapest;
};
[[nodiscard]] quantity::Result<WeighRequest> requestOf(const Arguments& a, const catalog::Catalog& catalog,
                                                       job::Document job);

/// Returns the program's exit code.
[[nodiscard]] int weighHouse(const Arguments& a, const catalog::Catalog& catalog);

} // namespace metrodos::programs
