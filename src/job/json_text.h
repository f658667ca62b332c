// JSON as text into values, for job files and documents: 180 MB of them are read while somebody waits.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string_view>

namespace metrodos::job {

/// How deep arrays and objects may stand in one another; a document of ours has 9.
inline constexpr int maxJsonDepth = 32;

/// The value, or a discarded one where the text is not JSON (RFC 8259) in UTF-8, is deeper than that or has
/// a number that no double holds. Never throws. Of a key that stands twice the last counts.
[[nodiscard]] nlohmann::json readJson(std::string_view text);

} // namespace metrodos::job
