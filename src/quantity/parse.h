// Reads the numbers that people type: "1.2G", "940M", "113 MB/s", "30 ft".
#pragma once

#include "quantity/problem.h"
#include "quantity/quantity.h"

#include <chrono>
#include <optional>
#include <string_view>

namespace metrodos::quantity {

/// A rate above 0 and at most 1 Tbit/s. A bare number or k/M/G alone means bits; "B" means bytes, "b" or
/// "bit" bits; Ki/Mi/Gi are binary. "/s", "ps" and blanks are optional; the decimal mark is a point or a
/// comma.
[[nodiscard]] Result<BitRate> parseBitRate(std::string_view text);

/// A number of bytes, whole, at most 10¹⁸. A bare number means bytes; "k", "M", "G", "T" are decimal, "Ki",
/// "Mi", "Gi" binary, with or without "B".
[[nodiscard]] Result<ByteCount> parseByteCount(std::string_view text);

/// A length from 0 to 100 km. A bare number means metres; "m", "cm", "km", "ft", "'" and "in" are known.
[[nodiscard]] Result<Length> parseLength(std::string_view text);

/// A time above 0 and at most 30 days. A bare number means seconds; "ms", "s", "min", "h" are known.
[[nodiscard]] Result<std::chrono::duration<double>> parseDuration(std::string_view text);

/// A whole number written in decimal digits only, within [low, high]; nothing otherwise.
[[nodiscard]] std::optional<long long> parseWhole(std::string_view text, long long low, long long high);

} // namespace metrodos::quantity
