// Where the tests find the programs, the shipped data and the sources. Only paths.cpp depends on the folder
// that all lies in, so that everything else is found in the compiler's cache from any folder.
#pragma once

#include <string>
#include <vector>

namespace metrodos::testing {

/// `name` in the folder of the programs.
[[nodiscard]] std::string programPath(const std::string& name);
/// `path` below data/.
[[nodiscard]] std::string dataPath(const std::string& path);
/// `path` below the project's folder.
[[nodiscard]] std::string sourcePath(const std::string& path);
/// The lines of tests/houses/NAME.txt, a survey as somebody types it.
[[nodiscard]] std::vector<std::string> typedLines(const std::string& name);

} // namespace metrodos::testing
