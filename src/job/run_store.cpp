// The runs and reports of a job file.
#include "benchmark/run_json.h"
#include "job/file_format.h"
#include "job/json_text.h"
#include "job/store.h"

#include <mutex>

namespace metrodos::job {
namespace {

using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::size_t samplesTogether = 5; // reach the disk: half a second

std::vector<std::string> sampleBodies(SQLite::Database& database, const std::string& run) {
    std::vector<std::string> out;
    SQLite::Statement rows(database, "SELECT body FROM sample WHERE run=? ORDER BY n");
    rows.bind(1, run);
    while (rows.executeStep())
        out.push_back(rows.getColumn(0).getString());
    return out;
}

// Reads samples for whoever looks at them, in whichever thread: one connection of its own for all runs of a
// job, opened when the first are wanted.
class SampleReader {
  public:
    explicit SampleReader(std::filesystem::path file)
        : m_file(std::move(file)) {}

    std::vector<benchmark::Sample> read(const std::string& run) {
        const std::lock_guard lock(m_mutex);
        try {
            if (m_database == nullptr) open();
            if (m_series != nullptr) {
                m_series->bind(1, run);
                std::optional<std::string> body;
                if (m_series->executeStep()) body = m_series->getColumn(0).getString();
                m_series->reset(); // a statement that is not at its end keeps writers out
                if (body) return seriesOf(*body).value_or(Read{});
            }
            // A job of the first version.
            Read out;
            for (const std::string& body : sampleBodies(*m_database, run)) {
                auto sample = benchmark::sampleFromJson(readJson(body));
                if (!sample) return {};
                out.push_back(std::move(*sample));
            }
            return out;
        } catch (const SQLite::Exception&) {
            m_series.reset();
            m_database.reset();
            return {}; // the file has gone: the figures of the run are still there
        }
    }

  private:
    using Read = std::vector<benchmark::Sample>;
    std::filesystem::path m_file;
    std::mutex m_mutex;
    std::unique_ptr<SQLite::Database> m_database;
    std::unique_ptr<SQLite::Statement> m_series; // prepared once for all runs; nullptr: a job of version 1

    void open() {
        m_database = openReader(m_file);
        if (m_database->tableExists("series"))
            m_series =
                std::make_unique<SQLite::Statement>(*m_database, "SELECT body FROM series WHERE run=?");
    }
};

} // namespace

// Tells whether anything was added, removed or ended, without reading the bodies.
std::string Store::runState() const {
    std::string out;
    for (const char* sql :
         {"SELECT count(*) || ' ' || coalesce(max(seq), 0) || ' ' || coalesce(sum(ended), 0) FROM run",
          "SELECT count(*) || ' ' || coalesce(max(seq), 0) FROM report"}) {
        if (!m_database->tableExists("report") && std::string_view(sql).ends_with("report")) continue;
        SQLite::Statement query(*m_database, sql);
        if (query.executeStep()) out += query.getColumn(0).getString() + ";";
    }
    SQLite::Statement noted(*m_database, "SELECT value FROM meta WHERE key='conditions_noted'");
    if (noted.executeStep()) out += noted.getColumn(0).getString();
    return out;
}

Result<Store::Elsewhere> Store::changedElsewhere() {
    return guarded(m_file, [&]() -> Result<Elsewhere> {
        return Elsewhere{generation() != m_generation, runState() != m_runState};
    });
}

Result<RunList> Store::runs() const {
    return guarded(m_file, [&]() -> Result<RunList> {
        SQLite::Transaction transaction(*m_database);
        RunList out;
        const auto reader = std::make_shared<SampleReader>(m_file);
        SQLite::Statement query(*m_database, "SELECT id, route, body, ended FROM run ORDER BY seq");
        while (query.executeStep()) {
            const std::string id = query.getColumn(0).getString();
            const bool ended = query.getColumn(3).getInt() != 0;
            auto run = runOf(query.getColumn(2).getString(),
                             ended ? std::vector<std::string>() : sampleBodies(*m_database, id), ended);
            if (!run || run->id != id) {
                out.unreadable.push_back(id);
                continue;
            }
            if (ended) run->samples = benchmark::Samples::later([reader, id] { return reader->read(id); });
            out.runs.push_back({query.getColumn(1).getString(), std::move(*run)});
        }
        m_runState = runState();
        return out;
    });
}

Result<void> Store::removeRun(const std::string& id) {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database);
        for (const char* text : {"DELETE FROM run WHERE id=?", "DELETE FROM sample WHERE run=?",
                                 "DELETE FROM series WHERE run=?"}) {
            SQLite::Statement drop(*m_database, text);
            drop.bind(1, id);
            drop.exec();
        }
        transaction.commit();
        return {};
    });
}

Result<std::optional<std::int64_t>> Store::placeOfRun(const std::string& id) const {
    return guarded(m_file, [&]() -> Result<std::optional<std::int64_t>> {
        SQLite::Statement query(*m_database, "SELECT seq FROM run WHERE id=?");
        query.bind(1, id);
        if (!query.executeStep()) return std::nullopt;
        return query.getColumn(0).getInt64();
    });
}

Result<void> Store::restoreRun(const benchmark::RouteRun& r, std::int64_t place) {
    if (auto sound = checkRun(r.run); !sound) return sound;
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database);
        insertRun(*m_database, r.route, r.run, true);
        SQLite::Statement move(*m_database, "UPDATE run SET seq=? WHERE id=?");
        move.bind(1, place);
        move.bind(2, r.run.id);
        move.exec();
        writeSeries(*m_database, r.run);
        transaction.commit();
        return {};
    });
}

Result<void> Store::noteConditions(const std::string& id, const benchmark::Conditions& conditions) {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database, SQLite::TransactionBehavior::IMMEDIATE);
        SQLite::Statement query(*m_database, "SELECT body, ended FROM run WHERE id=?");
        query.bind(1, id);
        if (!query.executeStep() || query.getColumn(1).getInt() == 0)
            return problem("the run is not in the job any more, or still goes on", m_file.string(),
                           "choose one that has ended");
        benchmark::Run noted;
        noted.conditions = conditions;
        json body = readJson(query.getColumn(0).getString());
        body["conditions"] = benchmark::headToJson(noted).at("conditions");
        // What would not be read again is not written.
        const std::string text = body.dump();
        if (auto sound = runOf(text, {}, true); !sound) return tl::unexpected(sound.error());
        SQLite::Statement update(*m_database, "UPDATE run SET body=? WHERE id=?");
        update.bind(1, text);
        update.bind(2, id);
        update.exec();
        // Windows that have the job open see by it that the runs are to be read again.
        m_database->exec(
            "INSERT INTO meta(key, value) VALUES('conditions_noted', '1') ON CONFLICT(key) DO UPDATE SET "
            "value = CAST(CAST(value AS INTEGER) + 1 AS TEXT)");
        transaction.commit();
        m_runState = runState();
        return {};
    });
}

Result<void> Store::addRun(const benchmark::RouteRun& r) {
    if (auto sound = checkRun(r.run); !sound) return sound;
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Transaction transaction(*m_database);
        insertRun(*m_database, r.route, r.run, true);
        writeSeries(*m_database, r.run);
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
        m_runState = runState();
        return out;
    });
}

Result<std::int64_t> Store::addReport(const Report& report) {
    return guarded(m_file, [&]() -> Result<std::int64_t> {
        SQLite::Transaction transaction(*m_database);
        insertReport(*m_database, report);
        const std::int64_t number = m_database->getLastInsertRowid();
        transaction.commit();
        return number;
    });
}

Result<void> Store::replaceReport(std::int64_t number, const Report& report) {
    return guarded(m_file, [&]() -> Result<void> {
        SQLite::Statement update(*m_database, "UPDATE report SET body=? WHERE seq=? AND kind=?");
        update.bind(1, report.body);
        update.bind(2, number);
        update.bind(3, report.kind);
        if (update.exec() == 1) return {};
        return problem("the report is not in the job any more", m_file.string(), "it is kept as a new one");
    });
}

Result<void> Store::removeReport(std::int64_t number) {
    return guarded(m_file, [&]() -> Result<void> {
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
    return guarded(m_file, [&]() -> Result<Document> {
        return Document{m_house, std::move(all->runs), std::move(*found), readPhotos(*m_database),
                        std::move(all->unreadable)};
    });
}

RunRecorder::RunRecorder(std::unique_ptr<SQLite::Database> database, std::string run)
    : m_database(std::move(database))
    , m_run(std::move(run)) {}
RunRecorder::RunRecorder(RunRecorder&&) noexcept = default;
RunRecorder::~RunRecorder() = default;

Result<RunRecorder> RunRecorder::begin(const std::filesystem::path& file, const house::Id& route,
                                       const benchmark::Run& run) {
    if (const auto ours = checkHeader(file); !ours) return tl::unexpected(ours.error());
    return guarded(file, [&]() -> Result<RunRecorder> {
        RunRecorder recorder(openWriter(file, SQLite::OPEN_READWRITE), run.id);
        insertRun(*recorder.m_database, route, run, false);
        return recorder;
    });
}

Result<void> RunRecorder::append(const benchmark::Sample& sample) {
    return guarded(m_database->getFilename(), [&]() -> Result<void> {
        m_waiting.push_back(sample);
        if (m_waiting.size() < samplesTogether) return {};
        SQLite::Transaction transaction(*m_database);
        std::int64_t n = m_next;
        for (const benchmark::Sample& waiting : m_waiting)
            insertSample(*m_database, m_run, n++, waiting);
        transaction.commit();
        m_next = n;
        m_waiting.clear();
        return {};
    });
}

Result<void> RunRecorder::finish(const benchmark::Run& run) {
    if (auto sound = checkRun(run); !sound) return sound;
    return guarded(m_database->getFilename(), [&]() -> Result<void> {
        // The figures that arrived late are in the whole run's samples: these replace what was kept on the
        // way.
        SQLite::Transaction transaction(*m_database);
        writeSeries(*m_database, run);
        SQLite::Statement update(*m_database, "UPDATE run SET body=?, ended=1 WHERE id=?");
        update.bind(1, benchmark::headToJson(run).dump());
        update.bind(2, m_run);
        update.exec();
        transaction.commit();
        return {};
    });
}

Result<void> keepRun(const std::filesystem::path& file, const house::Id& route, const benchmark::Run& run) {
    auto recorder = RunRecorder::begin(file, route, run);
    if (!recorder) return tl::unexpected(recorder.error());
    return recorder->finish(run);
}

} // namespace metrodos::job
