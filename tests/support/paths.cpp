#include "support/paths.h"

#include <fstream>

namespace metrodos::testing {

std::string programPath(const std::string& name) {
    return METRODOS_BIN "/" + name;
}
std::string dataPath(const std::string& path) {
    return METRODOS_SOURCE_DIR "/data/" + path;
}
std::string sourcePath(const std::string& path) {
    return METRODOS_SOURCE_DIR "/" + path;
}
std::vector<std::string> typedLines(const std::string& name) {
    std::ifstream file(sourcePath("tests/houses/" + name + ".txt"));
    std::vector<std::string> out;
    for (std::string line; std::getline(file, line);)
        out.push_back(line);
    return out;
}

} // namespace metrodos::testing
