// The plan that is looked at as a file for others.
#pragma once

#include "quantity/problem.h"

#include <QString>

namespace metrodos::desktop {

class WeighModel;

/// By its ending: .pdf, .html and .md are the report of this plan, as Hand over makes its offer; .json is the
/// document of all plans.
[[nodiscard]] quantity::Result<void> savePlan(const WeighModel& model, const QString& file);

} // namespace metrodos::desktop
