// What the job files of this layer share: tables, and SQLite's errors in plain words.
#pragma once

#include "job/document.h"
#include "quantity/problem.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <nlohmann/json_fwd.hpp>
#include <sqlite3.h>

namespace metrodos::job {

inline constexpr const char* tables = R"(
CREATE TABLE meta(key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE item(kind TEXT NOT NULL, id TEXT NOT NULL, position INTEGER NOT NULL, body TEXT NOT NULL,
                  PRIMARY KEY(kind, id)) WITHOUT ROWID;
CREATE TABLE change(seq INTEGER PRIMARY KEY, label TEXT NOT NULL, forward TEXT NOT NULL, backward TEXT NOT NULL,
                    undone INTEGER NOT NULL DEFAULT 0);
CREATE TABLE run(seq INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE, route TEXT NOT NULL, body TEXT NOT NULL,
                 ended INTEGER NOT NULL DEFAULT 0);
CREATE TABLE sample(run TEXT NOT NULL, n INTEGER NOT NULL, body TEXT NOT NULL, PRIMARY KEY(run, n)) WITHOUT ROWID;
)";

/// Added to a file of before when the first report is kept.
inline constexpr const char* reportTable = R"(
CREATE TABLE IF NOT EXISTS report(seq INTEGER PRIMARY KEY AUTOINCREMENT, kind TEXT NOT NULL, body TEXT NOT NULL);
)";

inline constexpr const char* damagedWords = "the job file is damaged";

/// SQLite's error as a Problem that says what to do.
[[nodiscard]] inline quantity::Problem explain(const SQLite::Exception& error,
                                               const std::filesystem::path& file) {
    switch (error.getErrorCode()) {
    case SQLITE_FULL:
        return {"the disk is full", file.string(), "free some space; what was saved before is safe"};
    case SQLITE_READONLY:
    case SQLITE_PERM:
        return {"the job is read-only", file.string(),
                "copy it to a folder that you may write to and open the copy"};
    case SQLITE_BUSY:
    case SQLITE_LOCKED:
        return {"another program has the job open and busy", file.string(), "close it there and try again"};
    case SQLITE_NOTADB:
        return {"this is not a job of Metrodos", file.string(), "choose a file that ends in .metrodos"};
    case SQLITE_CORRUPT:
        return {damagedWords, file.string(), "let the program recover what can be read into a copy"};
    case SQLITE_CANTOPEN:
        return {"the job cannot be opened", file.string(), "check that it exists and that you may read it"};
    case SQLITE_IOERR:
        return {"the disk failed while the job was read or written", file.string(),
                "check the disk and its free space"};
    default:
        return {std::string("the job file could not be used: ") + error.what(), file.string(),
                "try again with a copy"};
    }
}

/// The items of a house as (kind, id, position, body).
struct Item {
    std::string kind;
    std::string id;
    std::int64_t position = 0;
    std::string body;
};
[[nodiscard]] std::vector<Item> itemsOf(const house::House& house);
/// The house as JSON from its items; what is not JSON is counted in `bad` and left out.
[[nodiscard]] nlohmann::json houseOf(const std::vector<Item>& items, std::size_t& bad);

/// Run bodies in the table have no samples.
[[nodiscard]] std::string headOf(const benchmark::Run& run);
/// A run of its head and samples. `ended` false: it was cut off, and its figures are taken from the samples.
[[nodiscard]] quantity::Result<benchmark::Run> runOf(const std::string& head,
                                                     const std::vector<std::string>& samples, bool ended);

} // namespace metrodos::job
