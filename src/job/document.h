// A job outside its file: the interchange form, format "metrodos-job", version 1.
#pragma once

#include "benchmark/route_runs.h"
#include "benchmark/watch_report.h"
#include "house/house.h"
#include "quantity/problem.h"

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::job {

/// What a test other than a run found, kept as the document that the test gives; or a document that was
/// handed over (kept_document.h).
struct Report {
    std::int64_t number = 0; ///< within the job; rising
    std::string kind; ///< its format without "metrodos-": "watch", "matrix", "search", "copy", "document"
    std::string body; ///< JSON

    friend bool operator==(const Report&, const Report&) = default;
};

/// A picture that the house names.
struct Photo {
    std::string digest; ///< of its bytes (photo.h)
    std::string body;   ///< a JPEG file

    friend bool operator==(const Photo&, const Photo&) = default;
};

/// All of a job as values.
struct Document {
    house::House house;
    benchmark::RouteRuns runs;
    std::vector<Report> reports = {};
    std::vector<Photo> photos = {};
    std::vector<std::string> unreadable = {}; ///< ids of runs that are in the file and could not be read
};

inline constexpr std::size_t maxDocumentBytes = 256U * 1024 * 1024; ///< bytes of JSON

[[nodiscard]] nlohmann::json toJson(const Document& document);
/// A report of one of the known formats; nothing for anything else.
[[nodiscard]] std::optional<Report> reportOf(const nlohmann::json& document);
/// The watches among reports, those that can be read.
[[nodiscard]] std::vector<benchmark::WatchReport> watchesOf(const std::vector<Report>& reports);
inline constexpr std::size_t maxReportBytes = 4U * 1024 * 1024; ///< bytes

/// Reads a document that the schema accepts; further checks references and figures. Fails with the first
/// fault.
[[nodiscard]] quantity::Result<Document> documentFromJson(const nlohmann::json& value);

/// Every fault of a document: what the schema says, each with its JSON pointer, then what does not fit
/// together.
[[nodiscard]] std::vector<quantity::Problem> faultsOf(const nlohmann::json& value);

/// Parses text of at most largestDocument bytes.
[[nodiscard]] quantity::Result<nlohmann::json> parseJson(const std::filesystem::path& file);

/// Writes the interchange form through a temporary file, so that no half file stays.
[[nodiscard]] quantity::Result<void> writeJson(const std::filesystem::path& file,
                                               const nlohmann::json& value);

/// The same for any bytes: written beside it under a name of its own, flushed to the disk, and only then put
/// in its place. A link that stands there is replaced, never followed. A file that was there keeps its
/// rights.
[[nodiscard]] quantity::Result<void> writeText(const std::filesystem::path& file, std::string_view text);

} // namespace metrodos::job
