// Makes a job's documents and files beside the window, from the job file: whoever checks them has no more
// than that.
#pragma once

#include "catalog/catalog.h"
#include "job/pseudonyms.h"
#include "report/data_package.h"
#include "weigh/objectives.h"

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace metrodos::desktop {

/// Whom a document is for.
enum class Reader { client, technician, offer };
[[nodiscard]] const char* name(Reader reader); ///< "client" …

struct DocumentQuestion {
    std::filesystem::path file;
    std::shared_ptr<const catalog::Catalog> catalog;
    weigh::PriceBook prices; ///< of an offer
    report::HandOverSettings settings;
    report::Paper paper = report::Paper::a4;
    Reader reader = Reader::client;
    bool isPrivate = false;
};

struct MadeDocument {
    report::Document whole; ///< with every chapter, as they come
    report::Document shown; ///< as the job has it arranged
    std::string pdf;        ///< of `shown`; empty where every chapter is left out
    job::KeptDocument kept;
    std::vector<job::PrivacyLine> privacy; ///< of a job without names
};
/// What was worked out for the last job that was asked about: a note or another firm changes nothing of it.
struct KnownWork {
    std::string records; ///< digest of the job's
    std::shared_ptr<const catalog::Catalog> catalog;
    std::shared_ptr<const report::Verdicts> verdicts = {};
    weigh::PriceBook prices = {}; ///< of what follows
    std::shared_ptr<const weigh::Options> options = {};
    weigh::Weighed weighed = {};
};
[[nodiscard]] quantity::Result<MadeDocument> makeDocument(const DocumentQuestion& question, KnownWork& known);

/// Everything else that a job can be written as, by the ending of the file: ".json", ".csv" (runs; samples
/// where the name says so), ".svg", ".png" (the section), ".zip" (all of it). Writes it.
[[nodiscard]] quantity::Result<void> writeFile(const DocumentQuestion& question,
                                               const std::filesystem::path& to);

} // namespace metrodos::desktop
