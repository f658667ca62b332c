// Reads the catalog and finds the program's data.
#pragma once

#include "catalog/catalog.h"
#include "quantity/problem.h"

#include <filesystem>

namespace metrodos::catalog {

/// Reads every file of `folder` that the program knows: phys.json, cables.json … faults.json. A Problem names
/// the file and the entry that is wrong: missing, not JSON, a figure out of range, an id used twice, no
/// source.
[[nodiscard]] quantity::Result<Catalog> load(const std::filesystem::path& folder);

/// The folder that holds catalog/, schema/ and demo/: METRODOS_DATA if set, else beside the program
/// (../share/metrodos), else where it was installed, else the source tree.
[[nodiscard]] quantity::Result<std::filesystem::path> dataFolder();

/// load(dataFolder() / "catalog").
[[nodiscard]] quantity::Result<Catalog> loadDefault();

} // namespace metrodos::catalog
