#include "job/document.h"

#include "benchmark/run_json.h"
#include "house/validate.h"
#include "job/house_json.h"
#include "job/json_text.h"
#include "job/photo.h"
#include "job/schema.h"

#include <cerrno>
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>

namespace metrodos::job {

using nlohmann::json;
using quantity::Problem;
using quantity::problem;

json toJson(const Document& document) {
    json runs = json::array();
    for (const benchmark::RouteRun& r : document.runs) {
        json run = benchmark::toJson(r.run);
        run["route"] = r.route;
        runs.push_back(std::move(run));
    }
    json reports = json::array();
    for (const Report& r : document.reports)
        if (json body = readJson(r.body); body.is_object()) reports.push_back(std::move(body));
    json photos = json::array();
    for (const Photo& p : document.photos)
        photos.push_back({{"digest", p.digest}, {"jpeg", base64(p.body)}});
    return {{"format", "metrodos-job"},        {"version", 1},
            {"house", toJson(document.house)}, {"runs", std::move(runs)},
            {"reports", std::move(reports)},   {"photos", std::move(photos)}};
}

std::optional<Report> reportOf(const json& document) {
    constexpr std::string_view prefix = "metrodos-";
    if (!document.is_object() || !document.contains("format") || !document.at("format").is_string())
        return std::nullopt;
    const auto format = document.at("format").get<std::string>();
    for (const std::string kind : {"watch", "matrix", "search", "copy", "transfer", "document"}) {
        if (format != std::string(prefix) + kind) continue;
        std::string body = document.dump(-1, ' ', false, json::error_handler_t::replace);
        if (body.size() > maxReportBytes) return std::nullopt;
        return Report{0, kind, std::move(body)};
    }
    return std::nullopt;
}

std::vector<benchmark::WatchReport> watchesOf(const std::vector<Report>& reports) {
    std::vector<benchmark::WatchReport> out;
    for (const Report& report : reports) {
        if (report.kind != "watch") continue;
        if (auto watch = benchmark::readWatchReport(readJson(report.body))) out.push_back(std::move(*watch));
    }
    return out;
}

namespace {

quantity::Result<Document> read(const json& value) {
    Document out;
    auto house = houseFromJson(value.at("house"));
    if (!house) return tl::unexpected(house.error());
    out.house = std::move(*house);
    std::size_t index = 0;
    for (const json& item : value.value("runs", json::array())) {
        auto run = benchmark::runFromJson(item);
        if (!run) {
            Problem fault = run.error();
            fault.where = "/runs/" + std::to_string(index);
            return tl::unexpected(fault);
        }
        ++index;
        out.runs.push_back({item.value("route", ""), std::move(*run)});
    }
    for (const json& item : value.value("reports", json::array()))
        if (auto report = reportOf(item)) {
            report->number = static_cast<std::int64_t>(out.reports.size()) + 1;
            out.reports.push_back(std::move(*report));
        }
    index = 0;
    for (const json& item : value.value("photos", json::array())) {
        auto body = fromBase64(item.value("jpeg", ""));
        if (!body || !isPhoto(*body) || digestOf(*body) != item.value("digest", ""))
            return problem("this is not the picture that its digest names",
                           "/photos/" + std::to_string(index), "leave it out");
        ++index;
        out.photos.push_back({item.value("digest", ""), std::move(*body)});
    }
    return out;
}

// The document, or `faults` has why not. Reads it once: samples are most of it.
std::optional<Document> sound(const json& value, std::vector<Problem>& faults) {
    faults = schemaFaults(value);
    if (!faults.empty()) return std::nullopt;
    auto document = read(value);
    if (!document) {
        faults = {document.error()};
        return std::nullopt;
    }
    faults = house::validate(document->house);
    for (const benchmark::RouteRun& r : document->runs)
        if (document->house.route(r.route) == nullptr)
            faults.push_back({"its route “" + r.route + "” does not exist", "run " + r.run.id,
                              "add the route or leave the run out"});
    if (!faults.empty()) return std::nullopt;
    return std::move(*document);
}

} // namespace

std::vector<Problem> faultsOf(const json& value) {
    std::vector<Problem> faults;
    (void)sound(value, faults);
    return faults;
}

quantity::Result<Document> documentFromJson(const json& value) {
    std::vector<Problem> faults;
    auto document = sound(value, faults);
    if (!document) {
        Problem first = faults.front();
        if (faults.size() > 1)
            first.what +=
                " (and " + std::to_string(faults.size() - 1) + " more; metrodos-cli check lists them)";
        return tl::unexpected(first);
    }
    return std::move(*document);
}

quantity::Result<json> parseJson(const std::filesystem::path& file) {
    std::error_code error;
    const auto size = std::filesystem::file_size(file, error);
    if (!error && size > maxDocumentBytes)
        return problem("the file is larger than 256 MB", file.string(), "check that it is a job");
    std::ifstream stream(file, std::ios::binary);
    if (!stream)
        return problem("the file cannot be read: " + std::string(std::strerror(errno)), file.string(),
                       "check its name and rights");
    std::string text(error ? maxDocumentBytes : static_cast<std::size_t>(size), '\0'); // a pipe has no size
    stream.read(text.data(), static_cast<std::streamsize>(text.size()));
    text.resize(static_cast<std::size_t>(stream.gcount()));
    json value = readJson(text);
    if (value.is_discarded())
        return problem("the file is not JSON", file.string(),
                       "check that it is a job, whole and not cut off");
    return value;
}

quantity::Result<void> writeJson(const std::filesystem::path& file, const json& value) {
    return writeText(file, value.dump(2, ' ', false, json::error_handler_t::replace) + "\n");
}

} // namespace metrodos::job
