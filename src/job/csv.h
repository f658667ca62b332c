// Rooms, jacks, runs and devices as comma-separated values (RFC 4180), out and in.
#pragma once

#include "house/house.h"
#include "quantity/problem.h"

#include <string>
#include <string_view>

namespace metrodos::job {

/// One table with a first row of column names: kind, id, those of the survey's fields that have a column
/// (job/survey_fields.h), from, to, ports. An end is "jack:ID", "room:ID", "part:ID.PORT" or
/// "device:ID.PORT"; ports are "ID:KIND:PHY" with blanks between.
[[nodiscard]] std::string toCsv(const house::House& house);

inline constexpr std::size_t maxCsvBytes = 16U * 1024 * 1024;

/// Adds the rows to a house; a row whose id is there already replaces it. Columns may come in any order,
/// commas may be semicolons or tabs, unknown columns are left alone, what a table has no column for stays as
/// it is, an empty id is made of the label. Fails with the number of the row that is wrong; then nothing is
/// added.
[[nodiscard]] quantity::Result<house::House> withCsv(const house::House& house, std::string_view csv);

} // namespace metrodos::job
