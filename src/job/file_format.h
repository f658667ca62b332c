// What a job file is inside: its tables, how things of the house and runs stand in them, and SQLite's errors
// in plain words. Internal to the layer; docs/job-format.md describes it for others.
#pragma once

#include "job/document.h"
#include "quantity/problem.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <chrono>
#include <nlohmann/json.hpp>
#include <sqlite3.h>

namespace metrodos::job {

inline constexpr int applicationId = 0x4d545244; ///< "MTRD", in the header of every job file
/// 1: samples as rows of their own; 2: those of an ended run as one row of "series"; 3: pictures.
inline constexpr int fileVersion = 3;

/// Everything that a job file may hold, but for indices that SQLite makes itself. A file with anything else
/// in it, a view or a trigger, is not read: it could do anything when it is looked at.
struct Table {
    const char* name;
    const char* create;
};
inline constexpr std::array<Table, 8> tables{{
    {"meta", "CREATE TABLE meta(key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID"},
    {"item",
     "CREATE TABLE item(kind TEXT NOT NULL, id TEXT NOT NULL, position INTEGER NOT NULL, body TEXT NOT NULL, "
     "PRIMARY KEY(kind, id)) WITHOUT ROWID"},
    {"change", "CREATE TABLE change(seq INTEGER PRIMARY KEY, label TEXT NOT NULL, forward TEXT NOT NULL, "
               "backward TEXT NOT NULL, undone INTEGER NOT NULL DEFAULT 0)"},
    {"run", "CREATE TABLE run(seq INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE, route TEXT NOT NULL, body "
            "TEXT NOT NULL, "
            "ended INTEGER NOT NULL DEFAULT 0)"},
    {"sample",
     "CREATE TABLE sample(run TEXT NOT NULL, n INTEGER NOT NULL, body TEXT NOT NULL, PRIMARY KEY(run, n)) "
     "WITHOUT ROWID"},
    {"series", "CREATE TABLE series(run TEXT PRIMARY KEY, body TEXT NOT NULL)"},
    {"report",
     "CREATE TABLE report(seq INTEGER PRIMARY KEY AUTOINCREMENT, kind TEXT NOT NULL, body TEXT NOT NULL)"},
    {"photo", "CREATE TABLE photo(digest TEXT PRIMARY KEY, body BLOB NOT NULL) WITHOUT ROWID"},
}};

/// Whether this is a job of a version that can be read, told by its first 100 bytes and without SQLite, which
/// might write to a file that it opens.
[[nodiscard]] quantity::Result<void> checkHeader(const std::filesystem::path& file);
/// Whether the file holds a job's own tables and nothing else; before anything is read from them.
[[nodiscard]] quantity::Result<void> checkTables(SQLite::Database& database,
                                                 const std::filesystem::path& file);
/// Makes the tables that are missing, in a new file or one of an earlier version.
void makeTables(SQLite::Database& database);

inline constexpr const char* damagedWords = "the job file is damaged";
[[nodiscard]] quantity::Problem damaged(const std::filesystem::path& file);
/// SQLite's error as a Problem that says what to do.
[[nodiscard]] quantity::Problem explain(const SQLite::Exception& error, const std::filesystem::path& file);

/// Runs `work` and turns what SQLite and the JSON library throw into a Problem.
template <typename Work>
auto guarded(const std::filesystem::path& file, Work work) -> decltype(work()) {
    try {
        return work();
    } catch (const SQLite::Exception& error) {
        return tl::unexpected(explain(error, file));
    } catch (const nlohmann::json::exception&) {
        return tl::unexpected(damaged(file));
    }
}

inline constexpr int busyMilliseconds = 3000; ///< that another program's write is waited for

/// A connection on which a hostile file can do nothing but be read or refused: no schema of it is run, no
/// body is larger than a job's.
void harden(SQLite::Database& database);
[[nodiscard]] std::unique_ptr<SQLite::Database> openReader(const std::filesystem::path& file);

/// Ends what is asked of a connection when it takes too long: a file can be made so that a look at it never
/// ends. Until it goes.
class Deadline {
  public:
    explicit Deadline(SQLite::Database& database, std::chrono::seconds most = std::chrono::seconds(30));
    ~Deadline();
    Deadline(const Deadline&) = delete;
    Deadline& operator=(const Deadline&) = delete;
    Deadline(Deadline&&) = delete;
    Deadline& operator=(Deadline&&) = delete;

  private:
    sqlite3* m_database;
    std::chrono::steady_clock::time_point m_until;
};

/// A connection that writes: what it committed survives a pulled plug.
[[nodiscard]] std::unique_ptr<SQLite::Database> openWriter(const std::filesystem::path& file, int flags);

/// The items of a house as (kind, id, position, body).
struct Item {
    std::string kind;
    std::string id;
    std::int64_t position = 0;
    std::string body;
};
[[nodiscard]] std::vector<Item> itemsOf(const house::House& house);
[[nodiscard]] std::vector<Item> readItems(SQLite::Database& database);
/// The house as JSON from its items; what is not JSON is counted in `bad` and left out.
[[nodiscard]] nlohmann::json houseOf(const std::vector<Item>& items, std::size_t& bad);

/// What `ours` made of `base`, done to `theirs`, thing by thing. A Problem names the first thing that both
/// have changed.
[[nodiscard]] quantity::Result<house::House> merge(const house::House& base, const house::House& theirs,
                                                   const house::House& ours);

/// A run of its head and the bodies of its samples. `ended` false: it was cut off, and its figures are taken
/// from the samples.
[[nodiscard]] quantity::Result<benchmark::Run> runOf(const std::string& head,
                                                     const std::vector<std::string>& samples, bool ended);
/// Samples of a "series" row.
[[nodiscard]] quantity::Result<std::vector<benchmark::Sample>> seriesOf(const std::string& body);

void insertRun(SQLite::Database& database, const house::Id& route, const benchmark::Run& run, bool ended);
void insertSample(SQLite::Database& database, const std::string& run, std::int64_t number,
                  const benchmark::Sample& sample);
/// In place of the samples that were kept one by one.
void writeSeries(SQLite::Database& database, const benchmark::Run& run);
void insertReport(SQLite::Database& database, const Report& report);
void insertPhoto(SQLite::Database& database, const Photo& photo);
/// Those that are whole.
[[nodiscard]] std::vector<Photo> readPhotos(SQLite::Database& database);
/// A Problem where a run could be written but not read again.
[[nodiscard]] quantity::Result<void> checkRun(const benchmark::Run& run);

} // namespace metrodos::job
