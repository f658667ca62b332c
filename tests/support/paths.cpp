#include "support/paths.h"

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

} // namespace metrodos::testing
