#include "job/store.h"

#include "house/dated_changes.h"
#include "house/validate.h"
#include "job/file_format.h"
#include "job/house_json.h"
#include "job/json_text.h"
#include "quantity/moment.h"

#include <map>

namespace metrodos::job {
namespace {

using nlohmann::json;
using quantity::problem;
using quantity::Result;
using SQLite::TransactionBehavior;

constexpr int maxSteps = 500; // that can be undone

std::int64_t figure(SQLite::Database& database, const char* sql) {
    SQLite::Statement query(database, sql);
    return query.executeStep() ? query.getColumn(0).getInt64() : 0;
}

} // namespace

Store::Store(std::filesystem::path file, std::unique_ptr<SQLite::Database> database)
    : m_file(std::move(file))
    , m_database(std::move(database)) {}
Store::Store(Store&&) noexcept = default;
Store& Store::operator=(Store&&) noexcept = default;
Store::~Store() = default;

Result<Store> Store::create(const std::filesystem::path& file, const Document& content) {
    if (const auto faults = house::validate(content.house); !faults.empty())
        return tl::unexpected(faults.front());
    std::error_code error;
    if (std::filesystem::exists(file, error))
        return problem("a file of this name is there already", file.string(), "choose another name");
    auto made = guarded(file, [&]() -> Result<Store> {
        Store store(file, openWriter(file, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE));
        SQLite::Transaction transaction(*store.m_database);
        makeTables(*store.m_database);
        store.writeItems({}, content.house);
        store.nextGeneration();
        for (const Report& r : content.reports)
            insertReport(*store.m_database, r);
        for (const Photo& p : content.photos)
            insertPhoto(*store.m_database, p);
        for (const benchmark::RouteRun& r : content.runs) {
            insertRun(*store.m_database, r.route, r.run, true);
            writeSeries(*store.m_database, r.run);
        }
        transaction.commit();
        store.m_house = content.house;
        return store;
    });
    if (!made) { // neither was there before
        std::filesystem::remove(file, error);
        std::filesystem::remove(file.string() + "-journal", error);
    }
    return made;
}

Result<Store> Store::open(const std::filesystem::path& file, Mode mode) {
    if (const auto ours = checkHeader(file); !ours) return tl::unexpected(ours.error());
    return guarded(file, [&]() -> Result<Store> {
        // A journal is left by a change that was cut off, which only a writer can take back.
        std::error_code none;
        if (mode == Mode::readOnly || !std::filesystem::exists(file.string() + "-journal", none)) {
            const auto reader = openReader(file);
            const Deadline deadline(*reader);
            if (const auto whole = checkTables(*reader, file); !whole) return tl::unexpected(whole.error());
        }
        std::unique_ptr<SQLite::Database> database;
        if (mode == Mode::readOnly) {
            database = openReader(file);
        } else {
            // SQLite itself falls back to reading only, without a word.
            database = openWriter(file, SQLite::OPEN_READWRITE);
            if (sqlite3_db_readonly(database->getHandle(), "main") == 1)
                return problem("the job is read-only", file.string(),
                               "copy it to a folder that you may write to and open the copy");
        }
        {
            const Deadline deadline(*database);
            if (const auto whole = checkTables(*database, file); !whole) return tl::unexpected(whole.error());
            SQLite::Statement check(*database, "PRAGMA quick_check(1)");
            if (!check.executeStep() || check.getColumn(0).getString() != "ok")
                return tl::unexpected(damaged(file));
        }
        if (mode == Mode::readWrite && figure(*database, "PRAGMA user_version") < fileVersion) {
            SQLite::Transaction transaction(*database, TransactionBehavior::IMMEDIATE);
            makeTables(*database);
            transaction.commit();
        }
        Store store(file, std::move(database));
        {
            const Deadline deadline(*store.m_database);
            store.load();
        }
        if (const auto faults = house::validate(store.m_house); !faults.empty()) {
            quantity::Problem out = damaged(file);
            out.what += ": " + faults.front().sentence();
            return tl::unexpected(out);
        }
        return store;
    });
}

void Store::load() {
    std::size_t bad = 0;
    m_generation = generation();
    auto house = houseFromJson(houseOf(readItems(*m_database), bad));
    if (!house || bad > 0) throw SQLite::Exception(damagedWords, SQLITE_CORRUPT);
    m_house = std::move(*house);
}

std::int64_t Store::generation() const {
    return figure(*m_database, "SELECT CAST(value AS INTEGER) FROM meta WHERE key='generation'");
}

void Store::nextGeneration() {
    m_generation = generation() + 1;
    SQLite::Statement put(*m_database, "INSERT OR REPLACE INTO meta(key, value) VALUES('generation', ?)");
    put.bind(1, std::to_string(m_generation));
    put.exec();
}

Result<void> Store::reload() {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database); // what is read belongs together
        load();
        return {};
    });
}

// Only what differs is written.
void Store::writeItems(const house::House& before, const house::House& after) {
    std::map<std::pair<std::string, std::string>, Item> old;
    for (Item& item : itemsOf(before))
        old.emplace(std::pair(item.kind, item.id), item);
    SQLite::Statement put(*m_database,
                          "INSERT OR REPLACE INTO item(kind, id, position, body) VALUES(?, ?, ?, ?)");
    const bool isNew = before == house::House{};
    for (const Item& item : itemsOf(after)) {
        const auto hit = old.find({item.kind, item.id});
        const bool same =
            hit != old.end() && hit->second.body == item.body && hit->second.position == item.position;
        if (hit != old.end()) old.erase(hit);
        if (same && !isNew) continue;
        put.bind(1, item.kind);
        put.bind(2, item.id);
        put.bind(3, item.position);
        put.bind(4, item.body);
        put.exec();
        put.reset();
    }
    SQLite::Statement drop(*m_database, "DELETE FROM item WHERE kind=? AND id=?");
    for (const auto& [key, item] : old) {
        drop.bind(1, key.first);
        drop.bind(2, key.second);
        drop.exec();
        drop.reset();
    }
}

Result<void> Store::change(const std::string& label, const house::House& wanted, bool corrected) {
    if (wanted == m_house) return {};
    if (const auto faults = house::validate(wanted); !faults.empty()) return tl::unexpected(faults.front());
    return guarded(m_file, [&]() -> Result<void> {
        // Nobody else writes between the look at the generation and the commit.
        SQLite::Transaction transaction(*m_database, TransactionBehavior::IMMEDIATE);
        house::House next = wanted;
        if (generation() != m_generation) {
            const house::House base = m_house;
            load();
            auto merged = merge(base, m_house, wanted);
            if (!merged) return tl::unexpected(merged.error());
            if (const auto faults = house::validate(*merged); !faults.empty())
                return problem("another program has changed the job, and this does not fit any more: " +
                                   faults.front().what,
                               faults.front().where, "look at what it is now, then change it again");
            next = std::move(*merged);
            if (next == m_house) return {};
        }
        if (!corrected) next = house::withChangesNoted(m_house, std::move(next), quantity::utcNow());
        const json before = toJson(m_house);
        const json after = toJson(next);
        m_database->exec("DELETE FROM change WHERE undone=1");
        SQLite::Statement insert(*m_database, "INSERT INTO change(label, forward, backward) VALUES(?, ?, ?)");
        insert.bind(1, label);
        insert.bind(2, json::diff(before, after).dump());
        insert.bind(3, json::diff(after, before).dump());
        insert.exec();
        m_database->exec("DELETE FROM change WHERE seq <= (SELECT MAX(seq) FROM change) - " +
                         std::to_string(maxSteps));
        writeItems(m_house, next);
        const std::int64_t known = m_generation;
        nextGeneration();
        try {
            transaction.commit();
        } catch (const SQLite::Exception&) {
            m_generation = known;
            throw;
        }
        m_house = std::move(next);
        return {};
    });
}

std::string Store::stepLabel(bool forward) const {
    try {
        SQLite::Statement query(
            *m_database, forward ? "SELECT label FROM change WHERE undone=1 ORDER BY seq LIMIT 1"
                                 : "SELECT label FROM change WHERE undone=0 ORDER BY seq DESC LIMIT 1");
        return query.executeStep() ? query.getColumn(0).getString() : "";
    } catch (const SQLite::Exception&) {
        return {};
    }
}

std::string Store::undoLabel() const {
    return stepLabel(false);
}
std::string Store::redoLabel() const {
    return stepLabel(true);
}
std::int64_t Store::undoStep() const {
    return guarded(m_file,
                   [&]() -> Result<std::int64_t> {
                       SQLite::Statement query(*m_database,
                                               "SELECT coalesce(max(seq), 0) FROM change WHERE undone=0");
                       query.executeStep();
                       return query.getColumn(0).getInt64();
                   })
        .value_or(0);
}

Result<void> Store::undo() {
    return step(false);
}
Result<void> Store::redo() {
    return step(true);
}

Result<void> Store::step(bool forward) {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database, TransactionBehavior::IMMEDIATE);
        if (generation() != m_generation) load();
        SQLite::Statement query(
            *m_database, forward
                             ? "SELECT seq, forward FROM change WHERE undone=1 ORDER BY seq LIMIT 1"
                             : "SELECT seq, backward FROM change WHERE undone=0 ORDER BY seq DESC LIMIT 1");
        if (!query.executeStep()) return {};
        const std::int64_t seq = query.getColumn(0).getInt64();
        const json patch = readJson(query.getColumn(1).getString());
        query.reset();
        const auto impossible = [&](const std::string& why) {
            return problem(std::string("this step cannot be ") + (forward ? "done again: " : "undone: ") +
                               why,
                           "", "change it by hand");
        };
        Result<house::House> next = problem("");
        try {
            next = houseFromJson(toJson(m_house).patch(patch));
        } catch (const json::exception&) {
            return impossible("the house is not as it was after it");
        }
        if (!next) return impossible(next.error().what);
        if (const auto faults = house::validate(*next); !faults.empty())
            return impossible(faults.front().what);
        writeItems(m_house, *next);
        SQLite::Statement mark(*m_database, "UPDATE change SET undone=? WHERE seq=?");
        mark.bind(1, forward ? 0 : 1);
        mark.bind(2, seq);
        mark.exec();
        nextGeneration();
        transaction.commit();
        m_house = std::move(*next);
        return {};
    });
}

} // namespace metrodos::job
