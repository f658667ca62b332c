// A digest of all that a job holds, by which a document and a job are known to belong together.
#pragma once

#include "job/document.h"

namespace metrodos::job {

/// SHA-256, 64 hexadecimal digits, over the interchange form (docs/job-format.md) as JSON without blanks,
/// keys in the order of their bytes, figures as nlohmann-json writes them. What a job looks like outside its
/// file does not matter, nor how its documents are arranged, nor those that were handed over; any other
/// record does.
[[nodiscard]] std::string recordDigest(const Document& document);

} // namespace metrodos::job
