// What the lists of Weigh say of a spot and of a way to it.
#pragma once

#include "desktop/widgets/range_list.h"
#include "weigh/plan.h"

namespace metrodos::desktop {

/// "45 min", "2 h 25 min".
[[nodiscard]] QString timeText(double minutes);
/// "1 hole", "3 holes".
[[nodiscard]] QString holesText(int holes);

/// A spot with the way that a plan takes to it; nullptr: no plan has one.
[[nodiscard]] RangeRow spotRow(const weigh::SpotOptions& spot, const weigh::SpotResult* result,
                               const catalog::Catalog& catalog);
/// A way to a spot, with what it takes by itself; with the class of its adapter where it is one of several.
[[nodiscard]] RangeRow wayRow(const weigh::SpotOptions& spot, const weigh::SpotWay& way, bool inPlan,
                              const weigh::Options& options, const weigh::Prices& prices,
                              bool isOneOfSeveral);
/// What no bar can show: who could listen, what it is in the way of, what to watch for, the other adapters.
[[nodiscard]] QString wayWords(const weigh::SpotOptions& spot, const weigh::SpotWay& way,
                               const weigh::Prices& prices);

} // namespace metrodos::desktop
