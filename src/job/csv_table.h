// Comma-separated values (RFC 4180) as rows of fields.
#pragma once

#include "quantity/problem.h"

#include <string>
#include <string_view>
#include <vector>

namespace metrodos::job {

/// The field as it is written: in quotation marks where it needs them, and with an apostrophe before what a
/// spreadsheet would take for a formula ("=", "+", "-", "@" at its beginning, but for numbers). rowsOf takes
/// that away again.
[[nodiscard]] std::string inQuotes(const std::string& text);

/// A row with its end.
[[nodiscard]] std::string csvRow(const std::vector<std::string>& fields);

/// Splits a text into rows of fields, empty rows left out; the divider is the commonest of comma, semicolon
/// and tab in the first line. A Problem for a quotation mark that is not closed, and for more than 20,000
/// rows.
[[nodiscard]] quantity::Result<std::vector<std::vector<std::string>>> rowsOf(std::string_view csv);

} // namespace metrodos::job
