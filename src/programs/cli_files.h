// The commands of metrodos-cli that read files: check, import, verify; and what all commands may be given.
#pragma once

#include "catalog/catalog.h"
#include "programs/cli_options.h"

#include <cstdint>
#include <string>
#include <vector>

namespace metrodos::programs {

/// All that the command line may hold.
struct Arguments {
    std::string job;
    std::string keyFile;
    std::string from;
    std::string to;
    std::string file;
    std::string newKey;
    bool onlyTakesPart = false;     ///< key new: its right
    bool retires = false;           ///< key move: the shared key
    std::vector<std::string> words; ///< of a meeting
    std::vector<std::string> endpoints;
    std::uint64_t seed = 1;
    std::vector<std::string> flows;
    RunOptions run;
    std::string high = "1G"; ///< search: where it begins
    double loss = 0.001;
    std::vector<std::string> atOnce; ///< matrix: pairs like "0-1"
    std::string folder;              ///< copy
    std::string size = "1GB";
    std::string url;         ///< service
    std::string guestListen; ///< guest: numeric address and port
    std::string guestFor = "1 h";
    std::string guestAt;         ///< an agent that serves the page; empty: this process
    std::string lasting = "1 h"; ///< watch
    std::string looking = "3 s"; ///< find
    std::string prices;          ///< weigh
    std::string objective;
    std::string paper = "a4"; ///< labels
    std::string first;        ///< compare, log: which runs
    std::string second;
    std::string library;            ///< a folder of jobs
    std::string forWhom = "client"; ///< export of a document
    std::string firm;
    std::string logo; ///< a PNG file
    std::string colour;
    std::string table = "survey"; ///< export as CSV
    std::string drawing = "section";
    bool isPrivate = false;
    bool keep = false;            ///< the document in the job
    std::string syntax = "lines"; ///< addresses: of reservations
};

/// The job with every class known and with the runs that it is judged by, for the commands that compute on
/// it.
[[nodiscard]] quantity::Result<job::Document> soundJob(const Arguments& a, const catalog::Catalog& catalog);

/// The same of a job that was read already.
[[nodiscard]] quantity::Result<job::Document> soundForm(const Arguments& a, const catalog::Catalog& catalog,
                                                        job::Document job);

/// The job as it is, with a word on stderr where not all of it can be read.
[[nodiscard]] quantity::Result<job::Document> readDocument(const std::filesystem::path& file);
[[nodiscard]] quantity::Problem unknownForm(const std::string& file, const char* forms);

/// Each returns the program's exit code.
[[nodiscard]] int check(const Arguments& a, const catalog::Catalog& catalog);
[[nodiscard]] int importFile(const Arguments& a);
/// Whether a document belongs to the job.
[[nodiscard]] int verifyDocument(const Arguments& a);

} // namespace metrodos::programs
