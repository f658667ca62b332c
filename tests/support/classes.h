// The catalog of the source tree, read once.
#pragma once

#include "catalog/load.h"
#include "support/paths.h"

namespace metrodos::testing {

inline const catalog::Catalog& classes() {
    static const catalog::Catalog catalog = catalog::load(dataPath("catalog")).value();
    return catalog;
}

} // namespace metrodos::testing
