// An adapter's own status page, read over HTTP: JSON of format "metrodos-adapter-status", version 1, as
// docs/job-format.md describes it.
#pragma once

#include "house/fitted.h"
#include "quantity/problem.h"

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <string_view>

namespace metrodos::probe {

inline constexpr std::size_t maxStatusBytes = 65536;

/// Reads the page at an http:// address of this machine or of a private network, within three seconds. A
/// Problem where there is none, or none that can be read.
[[nodiscard]] quantity::Result<house::AdapterStatus> readAdapterStatus(const std::string& url);

/// The same of what such a page says.
[[nodiscard]] quantity::Result<house::AdapterStatus> adapterStatusIn(std::string_view page);
/// The same of a document, and the document of a status.
[[nodiscard]] quantity::Result<house::AdapterStatus> adapterStatusOf(const nlohmann::json& document);
[[nodiscard]] nlohmann::json toJson(const house::AdapterStatus& status);

} // namespace metrodos::probe
