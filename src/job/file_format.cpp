#include "job/file_format.h"

#include "benchmark/run_json.h"
#include "benchmark/summary.h"
#include "job/house_json.h"
#include "job/json_text.h"
#include "quantity/text.h"

#include <algorithm>
#include <fstream>
#include <map>

namespace metrodos::job {
namespace {

using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::array<const char*, 16> kinds{
    "rooms",    "devices",    "connections", "endpoints", "routes",    "jacks",     "coax_parts", "panels",
    "circuits", "appliances", "spots",       "trials",    "set_aside", "schedules", "changes",    "chapters"};
// Things of which a house has one: an object or null, kept under the kind "house" like its name.
constexpr std::array<const char*, 7> singles{"coax_use",  "service", "weighing",  "measuring",
                                             "practices", "fitting", "addressing"};

constexpr int maxRowBytes = 64 * 1024 * 1024; // the largest body that a job has: an hour's samples, a picture
constexpr int maxSqlBytes = 100'000;

constexpr const char* otherFile = "choose a file that ends in .metrodos";

// As SQLite keeps it: one blank where there are several, or a line break.
std::string normalised(const std::string& sql) {
    std::string out;
    for (const char c : sql) {
        const bool blank = c == ' ' || c == '\n' || c == '\t' || c == '\r';
        if (!blank)
            out += c;
        else if (!out.empty() && out.back() != ' ')
            out += ' ';
    }
    return out;
}

std::uint32_t bigEndian(const std::string& bytes, std::size_t at) {
    std::uint32_t out = 0;
    for (std::size_t i = 0; i < 4; ++i)
        out = out << 8U | static_cast<std::uint8_t>(bytes[at + i]);
    return out;
}

} // namespace

// The database header: magic at 0, user version at 60, application id at 68
// (https://www.sqlite.org/fileformat2.html, 1.3).
Result<void> checkHeader(const std::filesystem::path& file) {
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error))
        return problem("there is no such file", file.string(), "check the name");
    std::ifstream stream(file, std::ios::binary);
    if (!stream)
        return problem("the job cannot be opened", file.string(),
                       "check that it exists and that you may read it");
    std::string head(100, '\0');
    stream.read(head.data(), static_cast<std::streamsize>(head.size()));
    if (stream.gcount() < 100 || !head.starts_with(std::string("SQLite format 3\0", 16)) ||
        bigEndian(head, 68) != applicationId)
        return problem("this is not a job of Metrodos", file.string(), otherFile);
    if (bigEndian(head, 60) > static_cast<std::uint32_t>(fileVersion))
        return problem("the job was made by a newer version of Metrodos", file.string(),
                       "update the program");
    return {};
}

Result<void> checkTables(SQLite::Database& database, const std::filesystem::path& file) {
    SQLite::Statement query(database, "SELECT type, name, coalesce(sql, '') FROM sqlite_master");
    std::size_t needed = 0;
    while (query.executeStep()) {
        const std::string type = query.getColumn(0).getString();
        const std::string name = query.getColumn(1).getString();
        if (name.starts_with("sqlite_")) continue; // no one can make these but SQLite
        const auto known = std::find_if(tables.begin(), tables.end(),
                                        [&](const Table& table) { return name == table.name; });
        if (type != "table" || known == tables.end() ||
            normalised(query.getColumn(2).getString()) != normalised(known->create))
            return problem(quantity::inQuotes(name) + " in it is not a part of a job", file.string(),
                           otherFile);
        if (name != "series" && name != "report" && name != "photo") ++needed; // of later versions
    }
    if (needed != 5) return tl::unexpected(damaged(file));
    return {};
}

void makeTables(SQLite::Database& database) {
    for (const Table& table : tables)
        if (!database.tableExists(table.name)) database.exec(table.create);
    database.exec("PRAGMA application_id=" + std::to_string(applicationId) +
                  "; PRAGMA user_version=" + std::to_string(fileVersion));
}

quantity::Problem damaged(const std::filesystem::path& file) {
    return {damagedWords, file.string(), "let the program recover what can be read into a copy"};
}

quantity::Problem explain(const SQLite::Exception& error, const std::filesystem::path& file) {
    // The file itself was taken away under an open job: what is written now would be lost with it.
    if (error.getExtendedErrorCode() == SQLITE_READONLY_DBMOVED)
        return {"the job file was moved or deleted while it was open", file.string(),
                "open it where it is now"};
    std::error_code none;
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
        return {"this is not a job of Metrodos", file.string(), otherFile};
    case SQLITE_INTERRUPT:
        return {"reading the job took too long", file.string(),
                "check the disk; a job of this program is read within seconds"};
    case SQLITE_TOOBIG:
        return {"something in the job is larger than a job can hold", file.string(), otherFile};
    case SQLITE_CORRUPT:
        return damaged(file);
    case SQLITE_CANTOPEN:
        // The journal is made beside the job.
        if (std::filesystem::is_regular_file(file, none))
            return {"nothing can be written in the folder of the job", file.string(),
                    "give yourself the right to write there, or copy the job to another folder"};
        return {"the job cannot be opened", file.string(), "check that it exists and that you may read it"};
    case SQLITE_IOERR:
        return {"the disk failed while the job was read or written", file.string(),
                "check the disk and its free space"};
    default:
        return {std::string("the job file could not be used: ") + error.what(), file.string(),
                "try again with a copy"};
    }
}

void harden(SQLite::Database& database) {
    sqlite3* handle = database.getHandle();
    sqlite3_db_config(handle, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
    sqlite3_db_config(handle, SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0, nullptr);
    sqlite3_db_config(handle, SQLITE_DBCONFIG_ENABLE_TRIGGER, 0, nullptr);
    sqlite3_db_config(handle, SQLITE_DBCONFIG_ENABLE_VIEW, 0, nullptr);
    sqlite3_limit(handle, SQLITE_LIMIT_LENGTH, maxRowBytes);
    sqlite3_limit(handle, SQLITE_LIMIT_SQL_LENGTH, maxSqlBytes);
    sqlite3_limit(handle, SQLITE_LIMIT_ATTACHED, 0);
    sqlite3_limit(handle, SQLITE_LIMIT_TRIGGER_DEPTH, 1);
    database.exec("PRAGMA cell_size_check=ON; PRAGMA mmap_size=0");
}

Deadline::Deadline(SQLite::Database& database, std::chrono::seconds most)
    : m_database(database.getHandle())
    , m_until(std::chrono::steady_clock::now() + most) {
    constexpr int everySteps = 100'000; // of SQLite's machine: some milliseconds
    sqlite3_progress_handler(
        m_database, everySteps,
        [](void* self) {
            return std::chrono::steady_clock::now() > static_cast<const Deadline*>(self)->m_until ? 1 : 0;
        },
        this);
}

Deadline::~Deadline() {
    sqlite3_progress_handler(m_database, 0, nullptr, nullptr);
}

std::unique_ptr<SQLite::Database> openReader(const std::filesystem::path& file) {
    auto database =
        std::make_unique<SQLite::Database>(file.string(), SQLite::OPEN_READONLY, busyMilliseconds);
    harden(*database);
    return database;
}

std::unique_ptr<SQLite::Database> openWriter(const std::filesystem::path& file, int flags) {
    auto database = std::make_unique<SQLite::Database>(file.string(), flags, busyMilliseconds);
    harden(*database);
    // A rollback journal keeps the job one file between changes. EXTRA flushes the folder as well when the
    // journal goes: without that a change that was confirmed could be rolled back by a journal that comes
    // back after a cut (https://www.sqlite.org/pragma.html#pragma_synchronous).
    database->exec("PRAGMA journal_mode=DELETE; PRAGMA synchronous=EXTRA");
    return database;
}

std::vector<Item> itemsOf(const house::House& house) {
    const json all = toJson(house);
    std::vector<Item> items{{"house", "name", 0, all.at("name").dump()}};
    for (const char* single : singles)
        items.push_back({"house", single, 0, all.at(single).dump()});
    for (const char* kind : kinds) {
        std::int64_t position = 0;
        for (const json& body : all.at(kind))
            items.push_back({kind, body.at("id").get<std::string>(), position++, body.dump()});
    }
    return items;
}

std::vector<Item> readItems(SQLite::Database& database) {
    std::vector<Item> items;
    SQLite::Statement query(database, "SELECT kind, id, position, body FROM item ORDER BY position");
    while (query.executeStep())
        items.push_back({query.getColumn(0).getString(), query.getColumn(1).getString(),
                         query.getColumn(2).getInt64(), query.getColumn(3).getString()});
    return items;
}

json houseOf(const std::vector<Item>& items, std::size_t& bad) {
    json house{{"name", ""}};
    for (const char* kind : kinds)
        house[kind] = json::array();
    std::vector<Item> sorted = items;
    std::ranges::stable_sort(sorted, {}, &Item::position);
    for (const Item& item : sorted) {
        json body = readJson(item.body);
        const bool known = std::find(kinds.begin(), kinds.end(), item.kind) != kinds.end();
        const bool isSingle = std::find(singles.begin(), singles.end(), item.id) != singles.end();
        if (item.kind == "house" && body.is_string())
            house["name"] = std::move(body);
        else if (item.kind == "house" && isSingle && (body.is_object() || body.is_null()))
            house[item.id] = std::move(body);
        else if (known && body.is_object())
            house[item.kind].push_back(std::move(body));
        else
            ++bad;
    }
    return house;
}

Result<house::House> merge(const house::House& base, const house::House& theirs, const house::House& ours) {
    using Key = std::pair<std::string, std::string>;
    const auto byKey = [](const house::House& house) {
        std::map<Key, Item> out;
        for (Item& item : itemsOf(house))
            out.emplace(Key(item.kind, item.id), std::move(item));
        return out;
    };
    const auto before = byKey(base);
    const auto wanted = byKey(ours);
    auto merged = byKey(theirs);
    // The body that a thing has there; empty: it is not there.
    const auto bodyIn = [](const std::map<Key, Item>& items, const Key& key) {
        const auto it = items.find(key);
        return it == items.end() ? std::string() : it->second.body;
    };
    std::map<Key, Item> touched = before;
    touched.insert(wanted.begin(), wanted.end());
    for (const auto& [key, item] : touched) {
        const std::string old = bodyIn(before, key);
        const std::string mine = bodyIn(wanted, key);
        const std::string other = bodyIn(merged, key);
        if (mine == old || mine == other) continue;
        if (other != old) {
            const json named = readJson(other.empty() ? item.body : other);
            const std::string label = named.is_object() ? named.value("label", key.second) : key.second;
            return problem("“" + label + "” was changed by another program at the same time", "",
                           "look at what it is now, then change it again");
        }
        if (mine.empty())
            merged.erase(key);
        else
            merged.insert_or_assign(key, wanted.at(key));
    }
    std::vector<Item> items;
    for (auto& [key, item] : merged)
        items.push_back(std::move(item));
    std::size_t bad = 0;
    return houseFromJson(houseOf(items, bad));
}

Result<benchmark::Run> runOf(const std::string& head, const std::vector<std::string>& samples, bool ended) {
    const json body = readJson(head);
    if (!body.is_object()) return problem(damagedWords);
    auto run = benchmark::headFromJson(body);
    if (!run) return run;
    std::vector<benchmark::Sample> read;
    for (const std::string& text : samples) {
        auto sample = benchmark::sampleFromJson(readJson(text));
        if (!sample) return tl::unexpected(sample.error());
        read.push_back(std::move(*sample));
    }
    run->samples = std::move(read);
    if (!ended) {
        run->complete = false;
        run->seconds = run->samples.empty() ? 0 : run->samples.back().t;
        benchmark::finish(*run);
    }
    return run;
}

Result<std::vector<benchmark::Sample>> seriesOf(const std::string& body) {
    const json value = readJson(body);
    if (!value.is_object()) return problem(damagedWords);
    return benchmark::seriesFromJson(value);
}

void insertRun(SQLite::Database& database, const house::Id& route, const benchmark::Run& run, bool ended) {
    SQLite::Statement insert(database, "INSERT INTO run(id, route, body, ended) VALUES(?, ?, ?, ?)");
    insert.bind(1, run.id);
    insert.bind(2, route);
    insert.bind(3, benchmark::headToJson(run).dump());
    insert.bind(4, ended ? 1 : 0);
    insert.exec();
}

void insertSample(SQLite::Database& database, const std::string& run, std::int64_t number,
                  const benchmark::Sample& sample) {
    SQLite::Statement insert(database, "INSERT OR REPLACE INTO sample(run, n, body) VALUES(?, ?, ?)");
    insert.bind(1, run);
    insert.bind(2, number);
    insert.bind(3, benchmark::toJson(sample).dump());
    insert.exec();
}

void writeSeries(SQLite::Database& database, const benchmark::Run& run) {
    SQLite::Statement insert(database, "INSERT OR REPLACE INTO series(run, body) VALUES(?, ?)");
    insert.bind(1, run.id);
    insert.bind(2, benchmark::seriesToJson(run.samples.all()).dump());
    insert.exec();
    SQLite::Statement drop(database, "DELETE FROM sample WHERE run=?");
    drop.bind(1, run.id);
    drop.exec();
}

void insertReport(SQLite::Database& database, const Report& report) {
    SQLite::Statement insert(database, "INSERT INTO report(kind, body) VALUES(?, ?)");
    insert.bind(1, report.kind);
    insert.bind(2, report.body);
    insert.exec();
}

Result<void> checkRun(const benchmark::Run& run) {
    const auto head = benchmark::headFromJson(benchmark::headToJson(run));
    if (!head) return tl::unexpected(head.error());
    const auto series = benchmark::seriesFromJson(benchmark::seriesToJson(run.samples.all()));
    if (!series) return tl::unexpected(series.error());
    return {};
}

} // namespace metrodos::job
