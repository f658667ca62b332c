#include "job/open.h"

#include "job/store.h"

#include <fstream>
#include <nlohmann/json.hpp>

namespace metrodos::job {
namespace {

bool isDatabase(const std::filesystem::path& file) {
    std::ifstream stream(file, std::ios::binary);
    std::string head(16, '\0');
    stream.read(head.data(), static_cast<std::streamsize>(head.size()));
    return head == std::string("SQLite format 3\0", 16) || file.extension() == ".metrodos";
}

quantity::Problem placed(quantity::Problem fault, const std::filesystem::path& file) {
    fault.where = fault.where.empty() ? file.string() : file.string() + " " + fault.where;
    return fault;
}

} // namespace

quantity::Result<Document> readJob(const std::filesystem::path& file) {
    if (isDatabase(file)) {
        auto store = Store::open(file, Store::Mode::readOnly);
        // A change that was cut off must be rolled back first, which only a writer may do.
        if (!store && !isDamage(store.error()))
            if (auto writer = Store::open(file)) return writer->document();
        return store.and_then([](const Store& s) { return s.document(); });
    }
    return parseJson(file).and_then([&](const nlohmann::json& value) {
        return documentFromJson(value).map_error(
            [&](const quantity::Problem& fault) { return placed(fault, file); });
    });
}

std::vector<quantity::Problem> checkJob(const std::filesystem::path& file) {
    if (isDatabase(file)) {
        const auto document = readJob(file);
        return document ? std::vector<quantity::Problem>{} : std::vector{document.error()};
    }
    const auto value = parseJson(file);
    if (!value) return {value.error()};
    std::vector<quantity::Problem> faults;
    for (const quantity::Problem& fault : faultsOf(*value))
        faults.push_back(placed(fault, file));
    return faults;
}

} // namespace metrodos::job
