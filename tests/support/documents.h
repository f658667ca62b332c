// Small documents for tests.
#pragma once

#include "report/document.h"

namespace metrodos::testing {

/// A document of one chapter with this block.
inline report::Document withBlock(report::Block block) {
    report::Document d;
    d.title = "House";
    d.date = "2026-11-05";
    d.digest = std::string(64, '0');
    d.chapters = {{"one", "One", {std::move(block)}}};
    return d;
}

} // namespace metrodos::testing
