// Checks a document against data/schema/job.json (JSON Schema, draft 7).
#pragma once

#include "quantity/problem.h"

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

namespace metrodos::job {

/// The schema with what the survey's fields say of themselves (job/survey_fields.h). The shipped file has it
/// all as well, for others to read; a test holds the two together.
[[nodiscard]] nlohmann::json completed(nlohmann::json schema);

/// The file as it is shipped; empty where it is not there.
[[nodiscard]] std::string schemaText();

/// At most twenty faults, each with the place in the document; empty when the schema accepts it.
[[nodiscard]] std::vector<quantity::Problem> schemaFaults(const nlohmann::json& value);

} // namespace metrodos::job
