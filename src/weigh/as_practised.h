// What the job's practices (house/practices.h) leave of the ways that there are. Each way that they forbid
// stays in its list, ruled out with the reason, so that it can be seen what they cost.
#pragma once

#include "weigh/options.h"

namespace metrodos::weigh {

/// The survey with only those outlets that a pair may sit in for a way to this room: all, or those of
/// circuits that have an outlet in the hub's room as well.
[[nodiscard]] house::House withAllowedOutlets(const house::House& house, const house::Id& hubRoom,
                                              const house::Id& room);

/// Rules out the ways to one spot that the practices forbid.
void applyPractices(const house::House& house, const catalog::Catalog& catalog, SpotOptions& spot);

} // namespace metrodos::weigh
