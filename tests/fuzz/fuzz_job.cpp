// A job's interchange form from anywhere.
#include "job/document.h"

#include <nlohmann/json.hpp>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const auto value = nlohmann::json::parse(data, data + size, nullptr, false);
    if (value.is_discarded()) return 0;
    const auto document = metrodos::job::documentFromJson(value);
    if (document)
        (void)metrodos::job::toJson(*document).dump();
    else
        (void)document.error().sentence();
    return 0;
}
