// Schedules as iCalendar (RFC 5545), so that a calendar shows when the house is being measured, and one that
// was made in a calendar can be taken over.
#pragma once

#include "house/house.h"
#include "quantity/problem.h"

#include <string>
#include <string_view>
#include <vector>

namespace metrodos::job {

/// One VEVENT each, as long as its runs take, repeated by a rule of minutes. What a calendar has no words for
/// (route, streams, seconds of a run) stands in properties of our own, X-METRODOS-…
[[nodiscard]] std::string schedulesToIcs(const std::vector<house::Schedule>& schedules);

inline constexpr std::size_t maxIcsBytes = 1024 * 1024;

/// The events of a calendar that repeat by minutes, hours or days; of those without our own properties the
/// runs go over `route`. Ids that the house has are given anew. A Problem names the event that does not fit,
/// or says that there is none.
[[nodiscard]] quantity::Result<std::vector<house::Schedule>>
schedulesFromIcs(std::string_view text, const house::House& house, const house::Id& route);

} // namespace metrodos::job
