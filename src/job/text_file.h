// Text of files that other programs wrote, in whatever they write it.
#pragma once

#include "quantity/problem.h"

#include <filesystem>
#include <string>
#include <string_view>

namespace metrodos::job {

struct PlainText {
    std::string text; ///< UTF-8, without a byte order mark
    std::string note; ///< what it was taken for where it was not UTF-8, in one sentence; empty: it was
};

/// UTF-8; UTF-16 of either order with a byte order mark; and everything else as Latin-1 (ISO 8859-1), which
/// is said. Fails for bytes that are no text in any of them: with control characters other than tabulators
/// and ends of lines.
[[nodiscard]] quantity::Result<PlainText> plainText(std::string_view bytes);

/// The same of a file of at most so many bytes.
[[nodiscard]] quantity::Result<PlainText> readTextFile(const std::filesystem::path& file, std::size_t most);

} // namespace metrodos::job
