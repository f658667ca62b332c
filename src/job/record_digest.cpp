#include "job/record_digest.h"

#include "job/photo.h"

#include <nlohmann/json.hpp>

namespace metrodos::job {

std::string recordDigest(const Document& document) {
    Document records = document; // shares the samples
    std::erase_if(records.reports, [](const Report& r) { return r.kind == "document"; });
    records.house.chapters.clear();
    return digestOf(toJson(records).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
}

} // namespace metrodos::job
