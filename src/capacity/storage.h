// What disks and a file protocol carry.
#pragma once

#include "capacity/distribution.h"
#include "house/survey.h"

namespace metrodos::capacity {

/// Reading and writing, sequential. Striping multiplies by the members; a mirror reads and writes
/// once, since one copy reads at one disk's rate; one parity disk leaves n − 1 of both. An unknown class is
/// any of the catalog's.
struct StorageRates {
    Distribution read = Distribution::certain(BitRate::bitsPerSecond(1));
    Distribution write = Distribution::certain(BitRate::bitsPerSecond(1));
};
[[nodiscard]] StorageRates storageRates(const catalog::Catalog& catalog, const house::Storage& storage);

/// How many times one disk's rate a layout gives: {read, write}.
struct LayoutFactors {
    double read = 1;
    double write = 1;
};
[[nodiscard]] LayoutFactors layoutFactors(house::DiskLayout layout, int disks);

} // namespace metrodos::capacity
