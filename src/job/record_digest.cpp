#include "job/record_digest.h"

#include "job/photo.h"

#include <nlohmann/json.hpp>

namespace metrodos::job {

std::string recordDigest(const Document& document) {
    return digestOf(toJson(document).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
}

} // namespace metrodos::job
