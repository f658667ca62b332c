// The survey's part of a house as JSON: jacks, coax parts, panels, circuits, appliances, service, spots.
#pragma once

#include "job/json_fields.h"

namespace metrodos::job {

/// Adds "jacks", "coax_parts", "coax_use", "panels", "circuits", "appliances", "service", "spots" and
/// "trials" to `out`.
void addSurvey(json& out, const house::House& house);

/// Reads those of them that are there. Throws Wrong.
void readSurvey(const json& value, house::House& out);

} // namespace metrodos::job
