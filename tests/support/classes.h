// The catalog of the source tree, read once.
#pragma once

#include "catalog/load.h"

namespace metrodos::testing {

inline const catalog::Catalog& classes() {
    static const catalog::Catalog catalog = catalog::load(METRODOS_DATA_DIR "/catalog").value();
    return catalog;
}

} // namespace metrodos::testing
