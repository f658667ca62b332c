// Places that were tried, side by side, as rows of ranges.
#pragma once

#include "desktop/model/job_model.h"
#include "desktop/widgets/range_list.h"
#include "fit/place_trial.h"

namespace metrodos::desktop {

/// By `tried`; the best one is marked.
[[nodiscard]] std::vector<RangeRow> triedRows(const std::vector<fit::TriedPlace>& tried);
/// What follows: which to keep, and by how much; or what is still to be measured.
[[nodiscard]] QString triedText(const std::vector<fit::TriedPlace>& tried);

/// The house gets the thing at the best of the places of a trial; the sentence says what to do now.
[[nodiscard]] quantity::Result<QString> keepBest(JobModel& job, const house::Trial& trial);

} // namespace metrodos::desktop
