#include "job/store.h"

#include "benchmark/run_json.h"
#include "house/validate.h"
#include "job/house_json.h"
#include "job/sql.h"

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

namespace metrodos::job {
namespace {

using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::array<const char*, 12> kinds{"rooms",    "devices",    "connections", "endpoints",
                                            "routes",   "jacks",      "coax_parts",  "panels",
                                            "circuits", "appliances", "spots",       "trials"};
// Things of which a house has one: an object or null, kept under the kind "house" like its name.
constexpr std::array<const char*, 3> singles{"coax_use", "service", "weighing"};
constexpr int busyMilliseconds = 3000;
constexpr std::size_t samplesTogether = 5;
constexpr int stepsKept = 500;

// Runs `work` and turns what SQLite throws into a Problem.
template <typename Work>
auto guarded(const std::filesystem::path& file, Work work) -> decltype(work()) {
    try {
        return work();
    } catch (const SQLite::Exception& error) {
        return tl::unexpected(explain(error, file));
    } catch (const json::exception&) {
        return problem(damagedWords, file.string(), "let the program recover what can be read into a copy");
    }
}

std::unique_ptr<SQLite::Database> connect(const std::filesystem::path& file, int flags) {
    auto database = std::make_unique<SQLite::Database>(file.string(), flags, busyMilliseconds);
    // A rollback journal keeps the job one file between changes; FULL makes a change survive a pulled plug.
    database->exec("PRAGMA journal_mode=DELETE; PRAGMA synchronous=FULL; PRAGMA trusted_schema=OFF");
    return database;
}

int pragma(SQLite::Database& database, const char* name) {
    SQLite::Statement query(database, std::string("PRAGMA ") + name);
    return query.executeStep() ? query.getColumn(0).getInt() : 0;
}

void insertRun(SQLite::Database& database, const house::Id& route, const benchmark::Run& run, bool ended) {
    SQLite::Statement insert(database, "INSERT INTO run(id, route, body, ended) VALUES(?, ?, ?, ?)");
    insert.bind(1, run.id);
    insert.bind(2, route);
    insert.bind(3, headOf(run));
    insert.bind(4, ended ? 1 : 0);
    insert.exec();
}

void insertSample(SQLite::Database& database, const std::string& run, std::int64_t n,
                  const benchmark::Sample& sample) {
    SQLite::Statement insert(database, "INSERT OR REPLACE INTO sample(run, n, body) VALUES(?, ?, ?)");
    insert.bind(1, run);
    insert.bind(2, n);
    insert.bind(3, benchmark::toJson(sample).dump());
    insert.exec();
}

void insertReport(SQLite::Database& database, const Report& report) {
    database.exec(reportTable);
    SQLite::Statement insert(database, "INSERT INTO report(kind, body) VALUES(?, ?)");
    insert.bind(1, report.kind);
    insert.bind(2, report.body);
    insert.exec();
}

} // namespace

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

json houseOf(const std::vector<Item>& items, std::size_t& bad) {
    json house{{"name", ""}};
    for (const char* kind : kinds)
        house[kind] = json::array();
    std::vector<Item> sorted = items;
    std::stable_sort(sorted.begin(), sorted.end(),
                     [](const Item& a, const Item& b) { return a.position < b.position; });
    for (const Item& item : sorted) {
        json body = json::parse(item.body, nullptr, false);
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

std::string headOf(const benchmark::Run& run) {
    benchmark::Run head = run;
    head.samples.clear();
    return benchmark::toJson(head).dump();
}

Result<benchmark::Run> runOf(const std::string& head, const std::vector<std::string>& samples, bool ended) {
    json body = json::parse(head, nullptr, false);
    if (!body.is_object()) return problem(damagedWords);
    body["samples"] = json::array();
    for (const std::string& sample : samples)
        body["samples"].push_back(json::parse(sample, nullptr, false));
    auto run = benchmark::runFromJson(body);
    if (run && !ended) {
        run->complete = false;
        run->seconds = run->samples.empty() ? 0 : run->samples.back().t;
        benchmark::finish(*run);
    }
    return run;
}

Store::Store(std::filesystem::path file, std::unique_ptr<SQLite::Database> database)
    : m_file(std::move(file))
    , m_database(std::move(database)) {}

Result<Store> Store::create(const std::filesystem::path& file, const Document& content) {
    if (const auto faults = house::validate(content.house); !faults.empty())
        return tl::unexpected(faults.front());
    std::error_code error;
    if (std::filesystem::exists(file, error))
        return problem("a file of this name is there already", file.string(), "choose another name");
    auto made = guarded(file, [&]() -> Result<Store> {
        Store store(file, connect(file, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE));
        SQLite::Transaction transaction(*store.m_database);
        store.m_database->exec(tables);
        store.m_database->exec("PRAGMA application_id=" + std::to_string(applicationId) +
                               "; PRAGMA user_version=" + std::to_string(fileVersion));
        store.writeItems({}, content.house);
        for (const Report& r : content.reports)
            insertReport(*store.m_database, r);
        for (const RouteRun& r : content.runs) {
            insertRun(*store.m_database, r.route, r.run, true);
            std::int64_t n = 0;
            for (const benchmark::Sample& sample : r.run.samples)
                insertSample(*store.m_database, r.run.id, ++n, sample);
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
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error))
        return problem("there is no such file", file.string(), "check the name");
    return guarded(file, [&]() -> Result<Store> {
        std::unique_ptr<SQLite::Database> database;
        if (mode == Mode::readOnly) {
            database =
                std::make_unique<SQLite::Database>(file.string(), SQLite::OPEN_READONLY, busyMilliseconds);
        } else {
            // SQLite itself falls back to reading only, without a word.
            database = connect(file, SQLite::OPEN_READWRITE);
            if (sqlite3_db_readonly(database->getHandle(), "main") == 1)
                return problem("the job is read-only", file.string(),
                               "copy it to a folder that you may write to and open the copy");
        }
        if (pragma(*database, "application_id") != applicationId)
            return problem("this is not a job of Metrodos", file.string(),
                           "choose a file that ends in .metrodos");
        if (pragma(*database, "user_version") > fileVersion)
            return problem("the job was made by a newer version of Metrodos", file.string(),
                           "update the program");
        {
            SQLite::Statement check(*database, "PRAGMA quick_check(1)");
            if (!check.executeStep() || check.getColumn(0).getString() != "ok")
                return problem(damagedWords, file.string(),
                               "let the program recover what can be read into a copy");
        }
        Store store(file, std::move(database));
        store.load();
        if (const auto faults = house::validate(store.m_house); !faults.empty())
            return problem(std::string(damagedWords) + ": " + faults.front().sentence(), file.string(),
                           "let the program recover what can be read into a copy");
        return store;
    });
}

void Store::load() {
    std::vector<Item> items;
    SQLite::Statement query(*m_database, "SELECT kind, id, position, body FROM item ORDER BY position");
    while (query.executeStep())
        items.push_back({query.getColumn(0).getString(), query.getColumn(1).getString(),
                         query.getColumn(2).getInt64(), query.getColumn(3).getString()});
    std::size_t bad = 0;
    auto house = houseFromJson(houseOf(items, bad));
    if (!house || bad > 0) throw SQLite::Exception(damagedWords, SQLITE_CORRUPT);
    m_house = std::move(*house);
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

Result<void> Store::change(const std::string& label, const house::House& next) {
    if (next == m_house) return {};
    if (const auto faults = house::validate(next); !faults.empty()) return tl::unexpected(faults.front());
    return guarded(m_file, [&]() -> Result<void> {
        const json before = toJson(m_house);
        const json after = toJson(next);
        SQLite::Transaction transaction(*m_database);
        m_database->exec("DELETE FROM change WHERE undone=1");
        SQLite::Statement insert(*m_database, "INSERT INTO change(label, forward, backward) VALUES(?, ?, ?)");
        insert.bind(1, label);
        insert.bind(2, json::diff(before, after).dump());
        insert.bind(3, json::diff(after, before).dump());
        insert.exec();
        m_database->exec("DELETE FROM change WHERE seq <= (SELECT MAX(seq) FROM change) - " +
                         std::to_string(stepsKept));
        writeItems(m_house, next);
        transaction.commit();
        m_house = next;
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
Result<void> Store::undo() {
    return step(false);
}
Result<void> Store::redo() {
    return step(true);
}

Result<void> Store::step(bool forward) {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database);
        SQLite::Statement query(
            *m_database, forward
                             ? "SELECT seq, forward FROM change WHERE undone=1 ORDER BY seq LIMIT 1"
                             : "SELECT seq, backward FROM change WHERE undone=0 ORDER BY seq DESC LIMIT 1");
        if (!query.executeStep()) return {};
        const std::int64_t seq = query.getColumn(0).getInt64();
        const json patch = json::parse(query.getColumn(1).getString());
        query.reset();
        auto next = houseFromJson(toJson(m_house).patch(patch));
        if (!next) return tl::unexpected(next.error());
        writeItems(m_house, *next);
        SQLite::Statement mark(*m_database, "UPDATE change SET undone=? WHERE seq=?");
        mark.bind(1, forward ? 0 : 1);
        mark.bind(2, seq);
        mark.exec();
        transaction.commit();
        m_house = std::move(*next);
        return {};
    });
}

Result<std::vector<RouteRun>> Store::runs() const {
    return guarded(m_file, [&]() -> Result<std::vector<RouteRun>> {
        std::vector<RouteRun> out;
        SQLite::Statement query(*m_database, "SELECT id, route, body, ended FROM run ORDER BY seq");
        while (query.executeStep()) {
            std::vector<std::string> samples;
            SQLite::Statement rows(*m_database, "SELECT body FROM sample WHERE run=? ORDER BY n");
            rows.bind(1, query.getColumn(0).getString());
            while (rows.executeStep())
                samples.push_back(rows.getColumn(0).getString());
            auto run = runOf(query.getColumn(2).getString(), samples, query.getColumn(3).getInt() != 0);
            if (!run) return tl::unexpected(run.error());
            out.push_back({query.getColumn(1).getString(), std::move(*run)});
        }
        return out;
    });
}

Result<void> Store::removeRun(const std::string& id) {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database);
        for (const char* text : {"DELETE FROM run WHERE id=?", "DELETE FROM sample WHERE run=?"}) {
            SQLite::Statement drop(*m_database, text);
            drop.bind(1, id);
            drop.exec();
        }
        transaction.commit();
        return {};
    });
}

Result<void> Store::addRun(const RouteRun& r) {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database);
        insertRun(*m_database, r.route, r.run, true);
        std::int64_t n = 0;
        for (const benchmark::Sample& sample : r.run.samples)
            insertSample(*m_database, r.run.id, ++n, sample);
        transaction.commit();
        return {};
    });
}

Result<std::vector<Report>> Store::reports() const {
    return guarded(m_file, [&]() -> Result<std::vector<Report>> {
        std::vector<Report> out;
        if (!m_database->tableExists("report")) return out;
        SQLite::Statement query(*m_database, "SELECT seq, kind, body FROM report ORDER BY seq");
        while (query.executeStep())
            out.push_back({query.getColumn(0).getInt64(), query.getColumn(1).getString(),
                           query.getColumn(2).getString()});
        return out;
    });
}

Result<void> Store::addReport(const Report& report) {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database);
        insertReport(*m_database, report);
        transaction.commit();
        return {};
    });
}

Result<void> Store::removeReport(std::int64_t number) {
    return guarded(m_file, [&]() -> Result<void> {
        if (!m_database->tableExists("report")) return {};
        SQLite::Statement drop(*m_database, "DELETE FROM report WHERE seq=?");
        drop.bind(1, number);
        drop.exec();
        return {};
    });
}

Result<Document> Store::document() const {
    auto all = runs();
    if (!all) return tl::unexpected(all.error());
    auto found = reports();
    if (!found) return tl::unexpected(found.error());
    return Document{m_house, std::move(*all), std::move(*found)};
}

RunRecorder::RunRecorder(std::unique_ptr<SQLite::Database> database, std::string run)
    : m_database(std::move(database))
    , m_run(std::move(run)) {}

Result<RunRecorder> RunRecorder::begin(const std::filesystem::path& file, const house::Id& route,
                                       const benchmark::Run& run) {
    return guarded(file, [&]() -> Result<RunRecorder> {
        RunRecorder recorder(connect(file, SQLite::OPEN_READWRITE), run.id);
        insertRun(*recorder.m_database, route, run, false);
        return recorder;
    });
}

void RunRecorder::flush() {
    SQLite::Transaction transaction(*m_database);
    std::int64_t n = m_next;
    for (const benchmark::Sample& sample : m_waiting)
        insertSample(*m_database, m_run, n++, sample);
    transaction.commit();
    m_next = n;
    m_waiting.clear();
}

Result<void> RunRecorder::append(const benchmark::Sample& sample) {
    return guarded(m_database->getFilename(), [&]() -> Result<void> {
        m_waiting.push_back(sample);
        if (m_waiting.size() >= samplesTogether) flush();
        return {};
    });
}

Result<void> RunRecorder::finish(const benchmark::Run& run) {
    return guarded(m_database->getFilename(), [&]() -> Result<void> {
        // The figures that arrived late are in the whole run's samples: these replace what was kept on the
        // way.
        m_waiting = run.samples;
        m_next = 1;
        flush();
        SQLite::Statement update(*m_database, "UPDATE run SET body=?, ended=1 WHERE id=?");
        update.bind(1, headOf(run));
        update.bind(2, m_run);
        update.exec();
        return {};
    });
}

Result<void> keepRun(const std::filesystem::path& file, const house::Id& route, const benchmark::Run& run) {
    auto recorder = RunRecorder::begin(file, route, run);
    if (!recorder) return tl::unexpected(recorder.error());
    return recorder->finish(run);
}

} // namespace metrodos::job
