// Zip archives in memory (libzip), as far as jobs need them.
#pragma once

#include "quantity/problem.h"

#include <string>
#include <string_view>
#include <vector>

namespace metrodos::job {

struct ZipEntry {
    std::string name; ///< path within the archive, with '/'
    std::string body;
};

[[nodiscard]] quantity::Result<std::string> zipOf(const std::vector<ZipEntry>& entries);

/// Whether the bytes begin like an archive that has something in it.
[[nodiscard]] bool isZip(std::string_view bytes);

/// One entry of an archive, of at most so many bytes when it is unpacked. Fails for what is no archive, is
/// damaged, or has no such entry.
[[nodiscard]] quantity::Result<std::string> zipEntry(std::string_view archive, const std::string& name,
                                                     std::size_t most);

} // namespace metrodos::job
