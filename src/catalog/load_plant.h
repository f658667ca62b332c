// Reads the figures of the channel models. Internal to the layer: throws Problem.
#pragma once

#include "catalog/plant.h"

#include <filesystem>

namespace metrodos::catalog {

[[nodiscard]] CoaxModel readCoax(const std::filesystem::path& file);
[[nodiscard]] MainsModel readMains(const std::filesystem::path& file);
[[nodiscard]] AirModel readAir(const std::filesystem::path& file);
void readStorage(const std::filesystem::path& file, std::vector<DiskClass>& disks,
                 std::vector<FileProtocol>& protocols);

} // namespace metrodos::catalog
