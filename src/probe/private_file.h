// Files that an agent keeps for itself.
#pragma once

#include "quantity/problem.h"

#include <filesystem>
#include <string>

namespace metrodos::probe {

/// Writes a file that only its owner may read, whole or not at all.
[[nodiscard]] quantity::Result<void> writePrivately(const std::filesystem::path& file,
                                                    const std::string& text);

} // namespace metrodos::probe
