// Runs and their samples as comma-separated values (RFC 4180), one row each; docs/data-package.md describes
// the columns.
#pragma once

#include "job/document.h"

#include <string>
#include <string_view>
#include <vector>

namespace metrodos::job {

/// What a column holds, for who reads the table (type as in Table Schema: "string", "number", "integer",
/// "boolean"; units are part of the name). An empty field: not known.
struct CsvColumn {
    std::string_view name;
    std::string_view type;
    std::string_view what;
};

[[nodiscard]] const std::vector<CsvColumn>& runColumns();
[[nodiscard]] std::string runsToCsv(const Document& document);

[[nodiscard]] const std::vector<CsvColumn>& sampleColumns();
[[nodiscard]] std::string samplesToCsv(const Document& document);

} // namespace metrodos::job
