// The store of a job: edits and their undo, runs, reports, photos, damage.
#include "job/document.h"
#include "job/file_format.h"
#include "job/open.h"
#include "job/photo.h"
#include "job/store.h"
#include "support/houses.h"
#include "support/job_files.h"
#include "support/runs.h"

#include <QTemporaryDir>
#include <QTest>
#include <SQLiteCpp/SQLiteCpp.h>
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

// What begins as a JPEG file does.
std::string picture(const std::string& tail) {
    return "\xff\xd8\xff\xe0" + tail + std::string("\0\x01\xfe", 3);
}

house::House naming(house::House h, const std::string& digest) {
    h.fitting.records = {{"bench-coax", house::StepState::done, "2026-05-04T10:00:00Z"}};
    h.fitting.records[0].photos = {{digest, "2026-05-04T10:00:00Z", "splitter"}};
    return h;
}

} // namespace

class TestStore : public QObject {
    Q_OBJECT

    testing::JobFiles m_files;
    QTemporaryDir m_folder;
    int m_next = 0;
    std::filesystem::path file() {
        return m_folder.filePath(QStringLiteral("job-%1.metrodos").arg(++m_next)).toStdString();
    }

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
    void whereThereIsNoFileThereIsNoJob() {
        const std::string file = m_files.fresh();
        QVERIFY(Store::open(file).error().sentence().find("no such file") != std::string::npos);
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
    // FIPS 180-4's own example, and RFC 4648's.
    void digestsAndBase64AreStandard() {
        QCOMPARE(job::digestOf("abc"),
                 std::string("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"));
        for (const auto& [plain, coded] : {std::pair("", ""), std::pair("f", "Zg=="), std::pair("fo", "Zm8="),
                                           std::pair("foo", "Zm9v"), std::pair("foob", "Zm9vYg==")}) {
            QCOMPARE(job::base64(plain), std::string(coded));
            QCOMPARE(job::fromBase64(coded).value(), std::string(plain));
        }
        for (const char* bad : {"Zg=", "Z", "Zg==Zg", "!!!!"})
            QVERIFY2(!job::fromBase64(bad), bad);
    }
    void aPictureIsKept() {
        const auto at = file();
        auto store = job::Store::create(at, {testing::wiredHouse(), {}}).value();
        const std::string digest = store.addPhoto(picture("one")).value();
        QCOMPARE(digest, job::digestOf(picture("one")));
        QVERIFY(store.change("photo", naming(store.house(), digest)).has_value());
        QCOMPARE(store.photo(digest).value(), picture("one"));
        auto again = job::Store::open(at).value();
        QCOMPARE(again.photo(digest).value(), picture("one"));
        QCOMPARE(again.house().fitting.records[0].photos[0].caption, std::string("splitter"));
        QVERIFY(!again.photo(std::string(64, '0')));
        for (const std::string& bad : {std::string(), std::string("GIF89a"), std::string("\xff\xd8"),
                                       picture(std::string(job::maxPhotoBytes, 'x'))})
            QVERIFY(!again.addPhoto(bad));
    }
    void undoBringsItBackAndWhatNothingNamesGoes() {
        auto store = job::Store::create(file(), {testing::wiredHouse(), {}}).value();
        const std::string kept = store.addPhoto(picture("kept")).value();
        QVERIFY(store.change("photo", naming(store.house(), kept)).has_value());
        QVERIFY(store.undo().has_value());
        const std::string stray = store.addPhoto(picture("stray")).value();
        const std::string third = store.addPhoto(picture("third")).value(); // sweeps before it comes
        QVERIFY(!store.photo(stray));                                       // nothing ever named it
        QVERIFY(store.photo(kept).has_value());                             // redo may want it
        QVERIFY(store.photo(third).has_value());
        QVERIFY(store.redo().has_value());
        QCOMPARE(store.photo(kept).value(), picture("kept"));
    }
    void itGoesAlongInTheInterchangeForm() {
        auto store = job::Store::create(file(), {testing::wiredHouse(), {}}).value();
        const std::string digest = store.addPhoto(picture("one")).value();
        QVERIFY(store.change("photo", naming(store.house(), digest)).has_value());
        const nlohmann::json out = job::toJson(store.document().value());
        QVERIFY(job::faultsOf(out).empty());
        const auto back = job::documentFromJson(out).value();
        QCOMPARE(back.photos.size(), std::size_t(1));
        const auto other = file();
        auto copy = job::Store::create(other, back).value();
        QCOMPARE(copy.photo(digest).value(), picture("one"));
        // One that is not what its digest says is refused.
        nlohmann::json changed = out;
        changed["photos"][0]["jpeg"] = job::base64(picture("two"));
        QVERIFY(!job::documentFromJson(changed));
        changed["photos"][0]["jpeg"] = "no base 64!!";
        QVERIFY(!job::documentFromJson(changed));
    }
    void aDamagedPictureIsSaidAndRecovered() {
        const auto at = file();
        std::string digest;
        std::string spoilt;
        {
            auto store = job::Store::create(at, {testing::wiredHouse(), {}}).value();
            digest = store.addPhoto(picture("one")).value();
            QVERIFY(store.change("photo", naming(store.house(), digest)).has_value());
            spoilt = store.addPhoto(picture("two")).value();
        }
        SQLite::Database(at.string(), SQLite::OPEN_READWRITE)
            .exec("UPDATE photo SET body=X'ffd8ff00' WHERE digest='" + spoilt + "'");
        auto store = job::Store::open(at).value();
        QVERIFY(store.photo(spoilt).error().what.find("damaged") != std::string::npos);
        QVERIFY(store.photo(digest).has_value());
        QCOMPARE(store.document().value().photos.size(), std::size_t(1));
        const auto copy = file();
        QVERIFY(job::recoverCopy(at, copy).has_value());
        QCOMPARE(job::Store::open(copy).value().photo(digest).value(), picture("one"));
    }
    void aJobOfAnEarlierVersionGetsTheTable() {
        const auto at = file();
        (void)job::Store::create(at, {testing::wiredHouse(), {}});
        SQLite::Database(at.string(), SQLite::OPEN_READWRITE).exec("DROP TABLE photo; PRAGMA user_version=2");
        {
            const auto readOnly = job::Store::open(at, job::Store::Mode::readOnly).value();
            QVERIFY(!readOnly.photo(std::string(64, '0')));
            QVERIFY(readOnly.document().value().photos.empty());
        }
        auto store = job::Store::open(at).value();
        QVERIFY(store.addPhoto(picture("one")).has_value());
    }
};

QTEST_GUILESS_MAIN(TestStore)
#include "test_store.moc"
