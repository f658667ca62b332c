// The job file: changes, undo, runs as they go, and files that are newer, foreign, read-only or damaged.
#include "job/file_format.h"
#include "job/open.h"
#include "job/store.h"
#include "support/houses.h"
#include "support/job_files.h"
#include "support/runs.h"

#include <QTest>
#include <csignal>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>
#include <sys/wait.h>
#include <unistd.h>

using namespace metrodos;
using job::Store;

namespace {

house::House withLength(house::House h, double metres) {
    h.connection("run-1")->length = quantity::Length::metres(metres);
    return h;
}

} // namespace

class TestStore : public QObject {
    Q_OBJECT

    testing::JobFiles m_files;

  private slots:
    void whatIsSavedIsFoundAgain() {
        const std::string file =
            m_files.made({testing::coaxHouse("usb2"),
                          {{"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 311)}}});
        const auto store = Store::open(file).value();
        QCOMPARE(store.house(), testing::coaxHouse("usb2"));
        QCOMPARE(store.runs().value().runs.size(), std::size_t(1));
        QCOMPARE(store.runs().value().runs[0].run.samples.size(), std::size_t(100));
        QVERIFY(!Store::create(file, {testing::wiredHouse(), {}})); // an existing file is left alone
    }
    void changesCanBeUndoneEvenAfterAReopening() {
        const std::string file = m_files.made();
        {
            auto store = Store::open(file).value();
            QVERIFY(store.undoLabel().empty());
            QCOMPARE(store.undoStep(), std::int64_t(0));
            for (int i = 1; i <= 5; ++i)
                QVERIFY(store.change("step " + std::to_string(i), withLength(store.house(), i)).has_value());
            QCOMPARE(store.undoLabel(), std::string("step 5"));
        }
        auto store = Store::open(file).value();
        const std::int64_t newest = store.undoStep();
        auto wrong = store.house();
        wrong.connections[0].ends[0].port = "none";
        QVERIFY(!store.change("cut", wrong));
        QCOMPARE(store.undoStep(), newest); // a change that is refused is no step
        QVERIFY(store.undo().has_value());
        QVERIFY(store.undoStep() < newest && store.undoStep() > 0);
        QVERIFY(store.undo().has_value());
        QCOMPARE(store.house(), withLength(testing::wiredHouse(), 3));
        QCOMPARE(store.redoLabel(), std::string("step 4"));
        QVERIFY(store.redo().has_value());
        QCOMPARE(store.house(), withLength(testing::wiredHouse(), 4));
        QVERIFY(store.change("another", withLength(store.house(), 9)).has_value());
        QVERIFY(store.redoLabel().empty()); // a new step drops what was undone
        for (int i = 0; i < 9; ++i)
            QVERIFY(store.undo().has_value());
        QCOMPARE(store.house(), testing::wiredHouse());
        QCOMPARE(Store::open(file).value().house(), testing::wiredHouse());
    }
    void editsThatMakeNoSenseAreRefused() {
        auto store = Store::open(m_files.made()).value();
        auto next = store.house();
        next.connections[0].ends[0].port = "none";
        QVERIFY(!store.change("cut", next));
        QCOMPARE(store.house(), testing::wiredHouse());
        QVERIFY(store.undoLabel().empty());
    }
    void structureSurvivesUndo() {
        auto store = Store::open(m_files.made({testing::coaxHouse(), {}})).value();
        auto next = store.house();
        next.devices.erase(next.devices.begin() + 1);
        next.connections.clear();
        QVERIFY(store.change("clear out", next).has_value());
        QVERIFY(store.undo().has_value());
        QCOMPARE(store.house(), testing::coaxHouse());
    }
    void aRunIsKeptAsItGoes() {
        const std::string file = m_files.made();
        const auto run = testing::steadyRun(benchmark::Direction::forward, 100);
        auto recorder = job::RunRecorder::begin(file, "desk-shelf", run).value();
        for (int i = 0; i < 50; ++i)
            QVERIFY(recorder.append(run.samples[static_cast<std::size_t>(i)]).has_value());
        // Another connection sees it in the middle, as one that was cut off would be.
        const auto half = Store::open(file).value().runs().value().runs;
        QCOMPARE(half.size(), std::size_t(1));
        QCOMPARE(half[0].run.samples.size(), std::size_t(50));
        QVERIFY(!half[0].run.complete);
        QVERIFY(std::abs(half[0].run.goodput.inMegabits() - 100) < 1);
        QVERIFY(recorder.finish(run).has_value());
        const auto whole = Store::open(file).value().runs().value().runs;
        QCOMPARE(whole[0].run.samples.size(), std::size_t(100));
        QVERIFY(whole[0].run.complete);
    }
    void aKilledProcessLosesAtMostASecond() {
        const std::string file = m_files.made();
        const auto run = testing::steadyRun(benchmark::Direction::forward, 100);
        int pipe[2];
        QCOMPARE(::pipe(pipe), 0);
        const pid_t child = ::fork();
        if (child == 0) {
            auto recorder = job::RunRecorder::begin(file, "desk-shelf", run);
            for (std::size_t i = 0; i < 73; ++i)
                (void)recorder->append(run.samples[i]);
            (void)!::write(pipe[1], "x", 1);
            ::pause();
            ::_exit(0);
        }
        char byte = 0;
        QCOMPARE(::read(pipe[0], &byte, 1), ssize_t(1));
        ::kill(child, SIGKILL);
        ::waitpid(child, nullptr, 0);
        const auto store = Store::open(file).value();
        QCOMPARE(store.house(), testing::wiredHouse());
        const auto runs = store.runs().value().runs;
        QCOMPARE(runs.size(), std::size_t(1));
        QVERIFY(runs[0].run.samples.size() >= 63);
        QVERIFY(!runs[0].run.complete);
    }
    void conditionsAreNotedOfARunThatHasEnded() {
        const std::string file = m_files.made(
            {testing::coaxHouse(),
             {{"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 311, 4, 0.01, "a")},
              {"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 290, 4, 0.01, "b")}}});
        auto store = Store::open(file).value();
        auto other = Store::open(file).value();
        QVERIFY(other.runs().has_value());
        benchmark::Conditions noted;
        noted.appliances = {"oven"};
        noted.othersActive = true;
        noted.hour = 20;
        QVERIFY(store.noteConditions("a", noted).has_value());
        const auto runs = other.runs().value().runs;
        QCOMPARE(runs.size(), std::size_t(2));
        QVERIFY(runs[0].run.conditions == noted);
        QVERIFY(runs[1].run.conditions == benchmark::Conditions());
        QCOMPARE(runs[0].run.samples.size(), std::size_t(100));
        QCOMPARE(runs[0].run.goodput.bps(),
                 testing::steadyRun(benchmark::Direction::forward, 311, 4, 0.01).goodput.bps());
        // What could not be read again, and what is not there, are refused; nothing is changed by it.
        benchmark::Conditions wrong;
        wrong.hour = 24;
        QVERIFY(!store.noteConditions("b", wrong));
        QVERIFY(!store.noteConditions("c", noted));
        benchmark::Run going = testing::steadyRun(benchmark::Direction::forward, 100, 4, 0.01, "going");
        const auto recorder = job::RunRecorder::begin(file, "desk-shelf", going);
        QVERIFY(recorder.has_value());
        const auto early = store.noteConditions("going", noted);
        QVERIFY(!early && early.error().sentence().find("still goes on") != std::string::npos);
        QVERIFY(Store::open(file)->runs().value().runs[1].run.conditions == benchmark::Conditions());
    }
    void reportsAreKeptChangedAndRemoved() {
        const std::string file = m_files.made();
        auto store = Store::open(file).value();
        const auto report = [](const std::string& name) {
            return job::Report{0, "document", nlohmann::json{{"name", name}}.dump()};
        };
        const std::int64_t first = store.addReport(report("one")).value();
        const std::int64_t second = store.addReport(report("two")).value();
        QVERIFY(second > first && first > 0);
        QVERIFY(store.replaceReport(second, report("three")).has_value());
        job::Report otherKind = report("four");
        otherKind.kind = "watch";
        QVERIFY(!store.replaceReport(second, otherKind));
        QVERIFY(!store.replaceReport(second + 1, report("five")));
        auto kept = Store::open(file)->reports().value();
        QCOMPARE(kept.size(), std::size_t(2));
        QCOMPARE(kept[0].number, first);
        QCOMPARE(kept[0].body, report("one").body);
        QCOMPARE(kept[1].body, report("three").body);
        QVERIFY(store.removeReport(first).has_value());
        kept = Store::open(file)->reports().value();
        QCOMPARE(kept.size(), std::size_t(1));
        QCOMPARE(kept[0].number, second);
    }
    void runsCanBeRemoved() {
        const std::string file = m_files.made(
            {testing::wiredHouse(), {{"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 1)}}});
        auto store = Store::open(file).value();
        QVERIFY(store.removeRun("run-1").has_value());
        QVERIFY(store.runs().value().runs.empty());
    }
    void aRunThatWasRemovedComesBackWhereItWas() {
        benchmark::RouteRuns runs;
        for (const char* id : {"a", "b", "c"})
            runs.push_back({"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 100, 4, 0, id)});
        auto store = Store::open(m_files.made({testing::wiredHouse(), runs})).value();
        const auto ids = [&] {
            std::string out;
            const auto listed = store.runs().value();
            for (const auto& r : listed.runs)
                out += r.run.id;
            return out;
        };
        const auto place = store.placeOfRun("b").value();
        QVERIFY(place.has_value() && !store.placeOfRun("nobody").value());
        QVERIFY(store.removeRun("b").has_value());
        QCOMPARE(ids(), std::string("ac"));
        QVERIFY(!store.placeOfRun("b").value());
        QVERIFY(store.restoreRun(runs[1], *place).has_value());
        QCOMPARE(ids(), std::string("abc"));
        QCOMPARE(store.runs().value().runs[1].run.samples.size(), runs[1].run.samples.size());
        // Where something stands already nothing changes.
        QVERIFY(!store.restoreRun(runs[1], *place).has_value());
        benchmark::RouteRun other = runs[1];
        other.run.id = "d";
        QVERIFY(!store.restoreRun(other, *place).has_value());
        QCOMPARE(ids(), std::string("abc"));
    }
    void aNewerFileIsLeftAlone() {
        const std::string file = m_files.made();
        SQLite::Database(file, SQLite::OPEN_READWRITE).exec("PRAGMA user_version=99");
        QVERIFY(Store::open(file).error().sentence().find("newer version") != std::string::npos);
    }
    void aForeignDatabaseIsNoJob() {
        const std::string file = m_files.fresh();
        SQLite::Database(file, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE).exec("CREATE TABLE t(a)");
        QVERIFY(Store::open(file).error().sentence().find("not a job") != std::string::npos);
        QVERIFY(Store::open(m_files.fresh()).error().sentence().find("no such file") != std::string::npos);
        QVERIFY(!Store::open(std::filesystem::path(file).parent_path()));
    }
    void aReadOnlyFileIsSaidToBeOne() {
        if (::geteuid() == 0) {
            // Rights do not stop root; a read-only connection does.
            const std::string file = m_files.made();
            auto store = Store::open(file, Store::Mode::readOnly).value();
            const auto refused = store.change("length", withLength(store.house(), 3));
            QVERIFY(refused.error().sentence().find("read-only") != std::string::npos);
            QCOMPARE(store.house(), testing::wiredHouse());
            return;
        }
        const std::string file = m_files.made();
        std::filesystem::permissions(file, std::filesystem::perms::owner_read);
        QVERIFY(Store::open(file).error().sentence().find("read-only") != std::string::npos);
        QVERIFY(Store::open(file, Store::Mode::readOnly).has_value());
        std::filesystem::permissions(file, std::filesystem::perms::owner_all);
    }
    void aJobLeftInTheMiddleOfAChangeCanStillBeRead() {
        // A process that dies inside a transaction leaves a hot journal; reading must cope with it.
        const std::string file = m_files.made();
        const pid_t child = ::fork();
        if (child == 0) {
            SQLite::Database database(file, SQLite::OPEN_READWRITE);
            database.exec("PRAGMA cache_size=1; PRAGMA journal_mode=TRUNCATE; BEGIN IMMEDIATE");
            for (int i = 0; i < 2000; ++i)
                database.exec("INSERT INTO sample VALUES('x', " + std::to_string(i) + ", '" +
                              std::string(200, 'y') + "')");
            ::kill(::getpid(), SIGKILL);
        }
        ::waitpid(child, nullptr, 0);
        QCOMPARE(job::readJob(file).value().house, testing::wiredHouse());
    }
    void damageIsSeenAndWhatIsLeftIsSaved() {
        job::Document document{testing::coaxHouse(), {}};
        for (int i = 0; i < 6; ++i)
            document.runs.push_back({"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 100 + i,
                                                                      4, 0.002, "run-" + std::to_string(i))});
        int recovered = 0;
        for (unsigned seed = 1; seed <= 30; ++seed) {
            const std::string file = m_files.made(document);
            {
                std::fstream stream(file, std::ios::in | std::ios::out | std::ios::binary);
                std::mt19937 random(seed);
                const auto size = std::filesystem::file_size(file);
                stream.seekp(static_cast<std::streamoff>(4096 + random() % (size - 8192)));
                stream << std::string(2000, static_cast<char>(random()));
            }
            const auto before = std::filesystem::last_write_time(file);
            const auto opened = Store::open(file);
            if (opened && opened->runs()) continue; // the blow fell on free space
            const std::string copy = m_files.fresh();
            const auto report = job::recoverCopy(file, copy);
            QVERIFY(std::filesystem::last_write_time(file) == before); // never the original
            if (!report) {
                QVERIFY(!report.error().sentence().empty());
                continue;
            }
            ++recovered;
            QVERIFY(Store::open(copy).has_value());
            QVERIFY(Store::open(copy).value().runs().has_value());
        }
        QVERIFY2(recovered >= 10, qPrintable(QString::number(recovered)));
    }
    void anythingAtAllInTheHeaderIsHandled() {
        const std::string good = m_files.made();
        std::ifstream in(good, std::ios::binary);
        const std::string bytes((std::istreambuf_iterator<char>(in)), {});
        std::mt19937 random(9);
        for (int i = 0; i < 60; ++i) {
            const std::string file = m_files.fresh();
            std::string mutant = bytes;
            for (int k = 0; k < 1 + i % 8; ++k)
                mutant[random() % (i % 2 == 0 ? 100 : mutant.size())] = static_cast<char>(random());
            if (i % 5 == 0) mutant.resize(random() % mutant.size());
            std::ofstream(file, std::ios::binary) << mutant;
            const auto opened = Store::open(file);
            if (!opened) QVERIFY(!opened.error().advice.empty());
        }
    }
};

QTEST_GUILESS_MAIN(TestStore)
#include "test_store.moc"
