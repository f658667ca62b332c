#include "catalog/load.h"

#include <array>
#include <cstdlib>

namespace metrodos::catalog {

quantity::Result<std::filesystem::path> dataFolder() {
    namespace fs = std::filesystem;
    std::error_code error;
    const auto usable = [&](const fs::path& folder) { return fs::is_directory(folder / "catalog", error); };
    if (const char* named = std::getenv("METRODOS_DATA"); named != nullptr && *named != '\0') {
        if (usable(named)) return fs::path(named);
        return quantity::problem("METRODOS_DATA does not name a folder with catalog/ in it", named,
                                 "correct or unset the variable");
    }
    const fs::path self = fs::read_symlink("/proc/self/exe", error);
    for (const fs::path& folder : std::array<fs::path, 3>{self.parent_path().parent_path() / "share/metrodos",
                                                          METRODOS_INSTALL_DATA, METRODOS_SOURCE_DATA})
        if (usable(folder)) return folder;
    return quantity::problem("the program's data folder is missing", "",
                             "install the program whole or set METRODOS_DATA to its data folder");
}

quantity::Result<Catalog> loadDefault() {
    return dataFolder().and_then(
        [](const std::filesystem::path& folder) { return load(folder / "catalog"); });
}

} // namespace metrodos::catalog
