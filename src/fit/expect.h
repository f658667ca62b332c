// What a run of a step is expected to show, and what it showed.
#pragma once

#include "benchmark/route_runs.h"
#include "fit/steps.h"

#include <optional>

namespace metrodos::fit {

using quantity::BitRate;

/// Goodput of the slower direction.
struct Expected {
    BitRate low;      ///< p10
    BitRate high;     ///< p90
    std::string from; ///< what it rests on, a part of a sentence
};

/// Of a step that a run can prove; nothing for the others, and where no way is found. A way is expected to
/// carry no more than its pair of adapters did on the bench, and nothing more than the machines did on one
/// cable.
[[nodiscard]] std::optional<Expected> expectedOf(const Step& step, const house::House& house,
                                                 const catalog::Catalog& catalog,
                                                 const benchmark::RouteRuns& runs);

/// What the latest runs of this step's set-up on its route showed, of the slower direction; nothing while one
/// of the directions has none. Looks at no samples.
[[nodiscard]] std::optional<BitRate> measuredOf(const Step& step, const benchmark::RouteRuns& runs);

/// What a measured step comes to: done where it is not below what is expected, else failed; nothing while it
/// is not measured.
[[nodiscard]] std::optional<house::StepState> provenBy(const std::optional<BitRate>& measured,
                                                       const std::optional<Expected>& expected);

} // namespace metrodos::fit
