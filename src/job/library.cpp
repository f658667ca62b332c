#include "job/library.h"

#include "benchmark/statistics.h"
#include "job/file_format.h"
#include "job/json_text.h"
#include "job/open.h"
#include "job/photo.h"
#include "quantity/fields.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <functional>
#include <map>
#include <set>
#include <sqlite3.h>

namespace metrodos::job {
namespace {

namespace fs = std::filesystem;
namespace fields = quantity::fields;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr int indexVersion = 1; // raised whenever a digest or its tables become others
constexpr std::uintmax_t maxFileBytes = 500'000'000;
constexpr std::size_t maxFiles = 10'000;
constexpr int snippetWords = 12;

constexpr const char* indexTables = R"(
CREATE TABLE job(path TEXT PRIMARY KEY, time INTEGER, size INTEGER, label TEXT, places TEXT, first_day TEXT,
                 last_day TEXT, runs INTEGER, limits TEXT, open TEXT, problem TEXT);
CREATE VIRTUAL TABLE word USING fts5(path UNINDEXED, label, places, classes, findings, notes,
                                     tokenize='unicode61 remove_diacritics 2');
CREATE TABLE pair(path TEXT, medium TEXT, class TEXT, situation TEXT, bps REAL, at_least INTEGER);
CREATE INDEX pair_path ON pair(path);
CREATE TABLE statement(path TEXT, body TEXT);
CREATE INDEX statement_path ON statement(path);
)";

constexpr const char* columns = "job.path, job.label, job.places, job.first_day, job.last_day, job.runs, "
                                "job.limits, job.open, job.problem";

Result<std::unique_ptr<SQLite::Database>> openIndex(const fs::path& file) {
    const auto open = [&] {
        auto database = std::make_unique<SQLite::Database>(
            file.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE, busyMilliseconds);
        database->exec("PRAGMA trusted_schema=OFF; PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL");
        SQLite::Statement version(*database, "PRAGMA user_version");
        const int found = version.executeStep() ? version.getColumn(0).getInt() : 0;
        version.reset();
        if (found != 0 && found != indexVersion) throw SQLite::Exception("of another version");
        if (found == 0) {
            SQLite::Transaction transaction(*database, SQLite::TransactionBehavior::IMMEDIATE);
            database->exec(indexTables);
            database->exec("PRAGMA user_version=" + std::to_string(indexVersion));
            transaction.commit();
        }
        database->exec("SELECT count(*) FROM job"); // whether it is one
        return database;
    };
    std::error_code failed;
    fs::create_directories(file.parent_path(), failed);
    for (const bool isLast : {false, true}) {
        try {
            return open();
        } catch (const SQLite::Exception& error) {
            if (isLast)
                return problem(std::string("the index of the library cannot be used: ") + error.what(),
                               file.string(), "remove the file, or check the disk");
            for (const char* part : {"", "-wal", "-shm"})
                fs::remove(file.string() + part, failed);
        }
    }
    return problem("the index of the library cannot be used", file.string());
}

json toJson(const benchmark::Statement& s) {
    return {{"text", s.text},        {"at", s.at},       {"route", s.route},
            {"said", s.said},        {"plan", s.isPlan}, {"fate", static_cast<int>(s.fate)},
            {"sentence", s.sentence}};
}

benchmark::Statement readStatement(const json& v) {
    benchmark::Statement s;
    s.text = fields::text(v, "text", 4000);
    s.at = fields::text(v, "at", 40);
    s.route = fields::text(v, "route", 64);
    s.said = fields::neededNumber(v, "said", 0, 1);
    s.isPlan = fields::flag(v, "plan").value_or(false);
    s.fate = static_cast<benchmark::Fate>(static_cast<int>(fields::neededNumber(v, "fate", 0, 2)));
    s.sentence = fields::text(v, "sentence", 4000);
    return s;
}

// Every word in quotes, so that none of it is a query's own word, and each may go on.
std::string queryOf(const std::string& words) {
    std::string out;
    std::string word;
    const auto close = [&] {
        if (word.empty()) return;
        out += (out.empty() ? "\"" : " \"") + word + "\"*";
        word.clear();
    };
    for (const char c : words.substr(0, 500))
        if (std::isspace(static_cast<unsigned char>(c)) != 0)
            close();
        else if (c != '"' && c != '\0')
            word += c;
    close();
    return out;
}

LibraryEntry entryOf(SQLite::Statement& row) {
    LibraryEntry e;
    e.file = row.getColumn(0).getString();
    e.digest.label = row.getColumn(1).getString();
    e.digest.places = row.getColumn(2).getString();
    e.digest.firstDay = row.getColumn(3).getString();
    e.digest.lastDay = row.getColumn(4).getString();
    e.digest.runs = row.getColumn(5).getInt();
    e.digest.limit = row.getColumn(6).getString();
    e.digest.open = row.getColumn(7).getString();
    e.problem = row.getColumn(8).getString();
    return e;
}

struct Found {
    std::string path;
    std::int64_t time = 0;
    std::int64_t size = 0;
};

std::vector<Found> filesIn(const fs::path& folder) {
    std::vector<Found> out;
    std::error_code failed;
    const auto options = fs::directory_options::skip_permission_denied;
    for (fs::recursive_directory_iterator it(folder, options, failed), end;
         !failed && it != end && out.size() < maxFiles; it.increment(failed)) {
        std::error_code none;
        if (it->path().extension() != ".metrodos" || !it->is_regular_file(none)) continue;
        const auto time = it->last_write_time(none).time_since_epoch().count();
        out.push_back({it->path().string(), static_cast<std::int64_t>(time),
                       static_cast<std::int64_t>(it->file_size(none))});
    }
    std::ranges::sort(out, {}, &Found::path);
    return out;
}

// What SQLite says is no fault of the caller.
template <typename Do>
auto reading(Do act) -> Result<decltype(act())> {
    try {
        return act();
    } catch (const SQLite::Exception& error) {
        return problem(std::string("the index of the library cannot be read: ") + error.what(), "",
                       "make it anew");
    }
}

} // namespace

Library::Library(fs::path folder, std::unique_ptr<SQLite::Database> database)
    : m_folder(std::move(folder))
    , m_database(std::move(database)) {}
Library::Library(Library&&) noexcept = default;
Library& Library::operator=(Library&&) noexcept = default;
Library::~Library() = default;

Result<Library> Library::open(fs::path folder, const fs::path& index) {
    std::error_code none;
    if (!fs::is_directory(folder, none))
        return problem("there is no such folder", folder.string(), "choose the folder with the jobs");
    auto database = openIndex(index);
    if (!database) return tl::unexpected(database.error());
    return Library(std::move(folder), std::move(*database));
}

void Library::keep(const std::string& path, std::int64_t time, std::int64_t size, const Digest* digest,
                   const std::string& trouble) {
    SQLite::Database& db = *m_database;
    SQLite::Transaction transaction(db, SQLite::TransactionBehavior::IMMEDIATE);
    for (const char* table : {"job", "word", "pair", "statement"}) {
        SQLite::Statement drop(db, std::string("DELETE FROM ") + table + " WHERE path=?");
        drop.bind(1, path);
        drop.exec();
    }
    const Digest none;
    const Digest& d = digest == nullptr ? none : *digest;
    SQLite::Statement job(db, "INSERT INTO job VALUES(?,?,?,?,?,?,?,?,?,?,?)");
    int n = 0;
    job.bind(++n, path);
    job.bind(++n, time);
    job.bind(++n, size);
    for (const std::string& text : {d.label, d.places, d.firstDay, d.lastDay})
        job.bind(++n, text);
    job.bind(++n, d.runs);
    for (const std::string& text : {d.limit, d.open, trouble})
        job.bind(++n, text);
    job.exec();
    SQLite::Statement word(db, "INSERT INTO word VALUES(?,?,?,?,?,?)");
    n = 0;
    for (const std::string& text : {path, d.label, d.places, d.classes, d.findings, d.notes})
        word.bind(++n, text);
    word.exec();
    for (const MeasuredPair& p : d.pairs) {
        SQLite::Statement pair(db, "INSERT INTO pair VALUES(?,?,?,?,?,?)");
        pair.bind(1, path);
        pair.bind(2, std::string(house::name(p.medium)));
        pair.bind(3, p.deviceClass);
        pair.bind(4, p.situation);
        pair.bind(5, p.goodput.bps());
        pair.bind(6, p.isAtLeast ? 1 : 0);
        pair.exec();
    }
    for (const benchmark::Statement& s : d.statements) {
        SQLite::Statement statement(db, "INSERT INTO statement VALUES(?,?)");
        statement.bind(1, path);
        statement.bind(2, toJson(s).dump(-1, ' ', false, json::error_handler_t::replace));
        statement.exec();
    }
    transaction.commit();
}

Result<std::size_t> Library::refresh(const catalog::Catalog& catalog, const Progress& progress,
                                     const std::stop_token& stop, bool again) {
    return reading([&]() -> std::size_t {
        const std::vector<Found> files = filesIn(m_folder);
        std::map<std::string, std::pair<std::int64_t, std::int64_t>> known;
        {
            SQLite::Statement query(*m_database, "SELECT path, time, size FROM job");
            while (query.executeStep())
                known[query.getColumn(0).getString()] = {query.getColumn(1).getInt64(),
                                                         query.getColumn(2).getInt64()};
        }
        std::vector<const Found*> wanted;
        for (const Found& f : files) {
            const auto it = known.find(f.path);
            const bool isSame =
                !again && it != known.end() && it->second.first == f.time && it->second.second == f.size;
            if (it != known.end()) known.erase(it);
            if (!isSame) wanted.push_back(&f);
        }
        // What is left was there and is gone.
        for (const auto& [path, when] : known)
            for (const char* table : {"job", "word", "pair", "statement"}) {
                SQLite::Statement drop(*m_database, std::string("DELETE FROM ") + table + " WHERE path=?");
                drop.bind(1, path);
                drop.exec();
            }
        std::size_t done = 0;
        for (const Found* f : wanted) {
            if (stop.stop_requested()) break;
            if (progress) progress(done, wanted.size());
            if (static_cast<std::uintmax_t>(f->size) > maxFileBytes) {
                keep(f->path, f->time, f->size, nullptr, "the file is larger than 500 MB");
            } else if (const auto document = readJob(f->path)) {
                const Digest digest = digestOf(*document, catalog);
                keep(f->path, f->time, f->size, &digest, "");
            } else {
                keep(f->path, f->time, f->size, nullptr, document.error().what);
            }
            ++done;
        }
        if (progress) progress(done, wanted.size());
        return done;
    });
}

Result<std::vector<LibraryEntry>> Library::list() const {
    return reading([&] {
        std::vector<LibraryEntry> out;
        SQLite::Statement query(*m_database,
                                std::string("SELECT ") + columns +
                                    " FROM job ORDER BY problem<>'', last_day DESC, label, path");
        while (query.executeStep())
            out.push_back(entryOf(query));
        return out;
    });
}

Result<std::vector<LibraryEntry>> Library::search(const std::string& words) const {
    const std::string query = queryOf(words);
    if (query.empty()) return list();
    return reading([&] {
        std::vector<LibraryEntry> out;
        // A label says more than a note.
        SQLite::Statement rows(*m_database,
                               std::string("SELECT ") + columns + ", snippet(word, -1, '', '', '…', " +
                                   std::to_string(snippetWords) +
                                   ") FROM word JOIN job ON job.path=word.path WHERE word MATCH ? ORDER BY "
                                   "bm25(word, 0, 10, 5, 3, 1, 2), last_day DESC");
        rows.bind(1, query);
        while (rows.executeStep()) {
            LibraryEntry e = entryOf(rows);
            e.snippet = rows.getColumn(9).getString();
            out.push_back(std::move(e));
        }
        return out;
    });
}

Result<catalog::Experience> Library::experience() const {
    return reading([&] {
        catalog::Experience out;
        // One house after the other; within it the pairs of a class and situation are one figure.
        SQLite::Statement rows(
            *m_database, "SELECT path, medium, class, situation, bps, at_least FROM pair ORDER BY medium, "
                         "class, situation, path");
        std::string path;
        double sum = 0;
        int exact = 0;
        std::vector<double> bounds;
        catalog::ClassExperience* current = nullptr;
        const auto close = [&] {
            if (current == nullptr) return;
            // Where one pair was limited by the medium, that speaks for the house.
            if (exact > 0)
                current->houses.push_back({sum / exact, exact, false});
            else if (!bounds.empty())
                current->houses.push_back(
                    {*std::max_element(bounds.begin(), bounds.end()), static_cast<int>(bounds.size()), true});
            sum = 0;
            exact = 0;
            bounds.clear();
        };
        while (rows.executeStep()) {
            const auto medium = house::medium(rows.getColumn(1).getString());
            const double bps = rows.getColumn(4).getDouble();
            if (!medium || !(bps > 0)) continue;
            const std::string cls = rows.getColumn(2).getString();
            const std::string situation = rows.getColumn(3).getString();
            const bool isNew = current == nullptr || current->medium != *medium ||
                               current->deviceClass != cls || current->situation != situation;
            if (isNew || rows.getColumn(0).getString() != path) close();
            if (isNew) {
                out.push_back({*medium, cls, situation, {}});
                current = &out.back();
            }
            path = rows.getColumn(0).getString();
            if (rows.getColumn(5).getInt() != 0) {
                bounds.push_back(std::log(bps));
            } else {
                sum += std::log(bps);
                ++exact;
            }
        }
        close();
        return out;
    });
}

Result<std::vector<benchmark::Statement>> Library::statements() const {
    return reading([&] {
        std::vector<benchmark::Statement> out;
        SQLite::Statement rows(*m_database, "SELECT body FROM statement ORDER BY path, rowid");
        while (rows.executeStep())
            if (auto s =
                    fields::ifSound([&] { return readStatement(readJson(rows.getColumn(0).getString())); }))
                out.push_back(std::move(*s));
        return out;
    });
}

fs::path usualIndex(const fs::path& folder) {
    const auto variable = [](const char* name) {
        const char* value = std::getenv(name); // NOLINT(concurrency-mt-unsafe): nothing sets it
        return fs::path(value == nullptr ? "" : value);
    };
    fs::path cache = variable("XDG_CACHE_HOME");
    if (!cache.is_absolute()) cache = variable("HOME") / ".cache";
    std::error_code none;
    const fs::path whole = fs::weakly_canonical(folder, none);
    constexpr std::size_t enough = 16;
    return cache / "metrodos" /
           ("library-" + digestOf((none ? folder : whole).string()).substr(0, enough) + ".sqlite");
}

std::vector<ClassFigures> figuresOf(const catalog::Experience& experience, const catalog::Catalog& catalog) {
    std::vector<ClassFigures> out;
    for (const catalog::ClassExperience& e : experience) {
        const auto refined = catalog::refined(catalog, e);
        const catalog::DeviceClass* cls = catalog.device(e.deviceClass);
        if (!refined || cls == nullptr) continue;
        ClassFigures f;
        f.experience = e;
        f.label = cls->label;
        if (const catalog::MediumClass* medium = catalog.medium(e.medium))
            for (const catalog::Situation& s : medium->situations)
                if (s.id == e.situation) f.label += ", " + s.label;
        std::vector<double> rates;
        for (const catalog::HouseFigure& h : e.houses) {
            (h.isAtLeast ? f.atLeast : f.pairs) += h.pairs;
            if (!h.isAtLeast) rates.push_back(std::exp(h.meanLog));
        }
        if (!rates.empty()) {
            f.median = quantity::BitRate::bitsPerSecond(benchmark::quantile(rates, 0.5));
            f.tenth = quantity::BitRate::bitsPerSecond(benchmark::quantile(rates, 0.1));
        }
        f.catalogue = cls->medium.at(e.situation);
        f.refined = *refined;
        out.push_back(std::move(f));
    }
    std::ranges::stable_sort(out, std::ranges::greater(),
                             [](const ClassFigures& f) { return f.experience.houses.size(); });
    return out;
}

} // namespace metrodos::job
