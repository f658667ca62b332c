// A plan for the client's table: what is needed, what is fitted where, what it carries and costs, parts, and
// the work in order. Markdown (CommonMark with tables).
#pragma once

#include "fit/steps.h"
#include "weigh/plan.h"

namespace metrodos::report {

/// `title`: the name of the house. Steps may be empty.
[[nodiscard]] std::string planMarkdown(const std::string& title, const weigh::Options& options,
                                       const weigh::Prices& prices, const weigh::Plan& plan,
                                       const std::vector<fit::Step>& steps);

} // namespace metrodos::report
