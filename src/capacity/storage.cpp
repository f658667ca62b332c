#include "capacity/storage.h"

#include <algorithm>

namespace metrodos::capacity {

LayoutFactors layoutFactors(house::DiskLayout layout, int disks) {
    const double n = std::max(1, disks);
    switch (layout) {
    case house::DiskLayout::single:
        return {1, 1};
    case house::DiskLayout::stripe:
        return {n, n};
    case house::DiskLayout::mirror:
        return {1, 1}; // a copy reads from one of them; only several readers at once get more
    case house::DiskLayout::parity:
        return {std::max(1.0, n - 1), std::max(1.0, n - 1)};
    }
    return {1, 1};
}

StorageRates storageRates(const catalog::Catalog& catalog, const house::Storage& storage) {
    const LayoutFactors factors = layoutFactors(storage.layout, storage.disks);
    std::vector<Distribution::Part> read;
    std::vector<Distribution::Part> write;
    const auto scaled = [](const RateSpread& s, double by) {
        return RateSpread{s.p10 * by, s.p50 * by, s.p90 * by};
    };
    for (const catalog::DiskClass& disk : catalog.disks)
        if (storage.diskClass.empty() || storage.diskClass == disk.id) {
            read.push_back({1, scaled(disk.read, factors.read)});
            write.push_back({1, scaled(disk.write, factors.write)});
        }
    return {Distribution::mixture(std::move(read)), Distribution::mixture(std::move(write))};
}

} // namespace metrodos::capacity
