#include "job/open.h"

#include "job/json_text.h"
#include "job/photo.h"
#include "job/store.h"
#include "job/zip_archive.h"

#include <algorithm>
#include <fstream>
#include <nlohmann/json.hpp>

namespace metrodos::job {
namespace {

std::string headOf(const std::filesystem::path& file, std::size_t bytes) {
    std::ifstream stream(file, std::ios::binary);
    std::string head(bytes, '\0');
    stream.read(head.data(), static_cast<std::streamsize>(bytes));
    head.resize(static_cast<std::size_t>(std::max<std::streamsize>(stream.gcount(), 0)));
    return head;
}

bool isDatabase(const std::filesystem::path& file) {
    return headOf(file, 16) == std::string("SQLite format 3\0", 16) || file.extension() == ".metrodos";
}

// The job out of a package of everything (docs/data-package.md): its bytes must be those that the manifest
// names.
quantity::Result<nlohmann::json> parsePackage(const std::filesystem::path& file) {
    std::error_code error;
    const auto size = std::filesystem::file_size(file, error);
    if (error || size > maxDocumentBytes)
        return quantity::problem("the package cannot be read or is larger than 256 MB", file.string(),
                                 "check that it holds a job");
    const std::string bytes = headOf(file, static_cast<std::size_t>(size));
    constexpr std::size_t maxManifestBytes = 1024 * 1024;
    const auto text = zipEntry(bytes, "datapackage.json", maxManifestBytes);
    if (!text) return tl::unexpected(text.error());
    const nlohmann::json manifest = readJson(*text);
    const auto body = zipEntry(bytes, "job.json", maxDocumentBytes);
    if (!body) return tl::unexpected(body.error());
    const std::string digest = "sha256:" + digestOf(*body);
    bool isNamed = false;
    if (manifest.is_object() && manifest.contains("resources") && manifest.at("resources").is_array())
        for (const nlohmann::json& r : manifest.at("resources"))
            isNamed = isNamed || (r.is_object() && r.value("path", nlohmann::json()) == "job.json" &&
                                  r.value("hash", nlohmann::json()) == digest);
    if (!isNamed)
        return quantity::problem("the job in the package is not the one that its manifest names",
                                 file.string(), "ask for the package again");
    nlohmann::json value = readJson(*body);
    if (value.is_discarded())
        return quantity::problem("the job in the package is not JSON", file.string(),
                                 "ask for the package again");
    return value;
}

quantity::Result<nlohmann::json> parse(const std::filesystem::path& file) {
    return isZip(headOf(file, 4)) ? parsePackage(file) : parseJson(file);
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
    return parse(file).and_then([&](const nlohmann::json& value) {
        return documentFromJson(value).map_error(
            [&](const quantity::Problem& fault) { return placed(fault, file); });
    });
}

std::vector<quantity::Problem> checkJob(const std::filesystem::path& file) {
    if (isDatabase(file)) {
        const auto document = readJob(file);
        return document ? std::vector<quantity::Problem>{} : std::vector{document.error()};
    }
    const auto value = parse(file);
    if (!value) return {value.error()};
    std::vector<quantity::Problem> faults;
    for (const quantity::Problem& fault : faultsOf(*value))
        faults.push_back(placed(fault, file));
    return faults;
}

} // namespace metrodos::job
