// A job that several programs have open at once, and files that only look like jobs.
#include "benchmark/run_json.h"
#include "job/file_format.h"
#include "job/open.h"
#include "job/store.h"
#include "support/houses.h"
#include "support/job_files.h"
#include "support/runs.h"

#include <QCryptographicHash>
#include <QFile>
#include <QTest>

using namespace metrodos;
using job::Store;

namespace {

house::House named(house::House h, const std::string& device, const std::string& label) {
    h.device(device)->label = label;
    return h;
}

QByteArray fingerprint(const std::string& file) {
    QFile content(QString::fromStdString(file));
    if (!content.open(QIODevice::ReadOnly)) return {};
    QCryptographicHash hash(QCryptographicHash::Sha256);
    hash.addData(&content);
    return hash.result();
}

} // namespace

class TestSharedJob : public QObject {
    Q_OBJECT

    testing::JobFiles m_files;
    // A database that somebody else made.
    std::string foreign(const char* sql) {
        const std::string file = m_files.fresh();
        SQLite::Database(file, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE).exec(sql);
        return file;
    }

  private slots:
    void twoProgramsKeepEachOthersChanges() {
        const std::string file = m_files.made();
        auto window = Store::open(file).value();
        auto commandLine = Store::open(file).value();
        QVERIFY(commandLine.change("rename", named(commandLine.house(), "shelf", "Store")).has_value());
        QVERIFY(window.changedElsewhere().value().house);
        // Made from what the window last knew.
        QVERIFY(window.change("rename", named(window.house(), "desk", "Table")).has_value());
        QCOMPARE(window.house().device("shelf")->label, std::string("Store"));
        QCOMPARE(window.house().device("desk")->label, std::string("Table"));
        QVERIFY(!window.changedElsewhere().value().house);
        QVERIFY(commandLine.changedElsewhere().value().house);
        QVERIFY(commandLine.reload().has_value());
        QCOMPARE(commandLine.house(), window.house());
        QCOMPARE(Store::open(file).value().house(), window.house());
    }
    void manyTurnsLeaveASoundJob() {
        const std::string file = m_files.made();
        auto a = Store::open(file).value();
        auto b = Store::open(file).value();
        for (int i = 0; i < 20; ++i) {
            Store& one = i % 2 == 0 ? a : b;
            house::House next = one.house();
            next.rooms.push_back({next.freeId("room-" + std::to_string(i)), "Room " + std::to_string(i), 0});
            QVERIFY(one.change("add", next).has_value());
        }
        const auto whole = Store::open(file);
        QVERIFY2(whole.has_value(), whole ? "" : whole.error().sentence().c_str());
        QCOMPARE(whole->house().rooms.size(), std::size_t(21)); // with the one that was there
    }
    void whatBothChangedIsSaidAndTheOthersStands() {
        const std::string file = m_files.made();
        auto mine = Store::open(file).value();
        auto theirs = Store::open(file).value();
        QVERIFY(theirs.change("rename", named(theirs.house(), "desk", "Theirs")).has_value());
        const auto refused = mine.change("rename", named(mine.house(), "desk", "Mine"));
        QVERIFY(!refused);
        QVERIFY2(refused.error().sentence().find("Theirs") != std::string::npos,
                 refused.error().sentence().c_str());
        QCOMPARE(mine.house().device("desk")->label, std::string("Theirs")); // loaded first
        QVERIFY(mine.change("rename", named(mine.house(), "desk", "Mine")).has_value());
    }
    void whatWasRemovedElsewhereIsNotPutBackInPart() {
        const std::string file = m_files.made();
        auto mine = Store::open(file).value();
        auto theirs = Store::open(file).value();
        house::House without = theirs.house();
        without.routes.clear();
        without.endpoints.clear();
        without.connections.clear();
        std::erase_if(without.devices, [](const house::Device& d) { return d.id == "shelf"; });
        QVERIFY(theirs.change("remove", without).has_value());
        // A new lead to the machine that is gone there.
        house::House next = mine.house();
        next.device("switch")->ports.push_back({"p3", "3", house::PortKind::ethernet, "1000base-t"});
        next.device("shelf")->ports.push_back({"lan2", "LAN 2", house::PortKind::ethernet, "1000base-t"});
        QVERIFY(!mine.change("add a port", next));
        QCOMPARE(mine.house(), without);
        QVERIFY(Store::open(file).has_value());
    }
    void undoTakesBackTheNewestStepOfAnyProgram() {
        const std::string file = m_files.made();
        auto a = Store::open(file).value();
        auto b = Store::open(file).value();
        QVERIFY(a.change("one", named(a.house(), "desk", "One")).has_value());
        QVERIFY(b.reload().has_value());
        QVERIFY(b.change("two", named(b.house(), "shelf", "Two")).has_value());
        QVERIFY(a.undo().has_value());
        QCOMPARE(a.house().device("desk")->label, std::string("One"));
        QCOMPARE(a.house().device("shelf")->label, std::string("Shelf computer"));
        QVERIFY(a.undo().has_value());
        QCOMPARE(a.house(), testing::wiredHouse());
        QCOMPARE(Store::open(file).value().house(), testing::wiredHouse());
    }
    void anUndoThatDoesNotFitChangesNothing() {
        const std::string file = m_files.made();
        auto store = Store::open(file).value();
        QVERIFY(store.change("rename", named(store.house(), "desk", "Table")).has_value());
        const house::House before = store.house();
        for (const char* patch : {R"([{"op":"remove","path":"/devices/77"}])",   // not there
                                  R"([{"op":"remove","path":"/devices/0"}])"}) { // what the routes need
            {
                SQLite::Database other(file, SQLite::OPEN_READWRITE);
                SQLite::Statement put(other, "UPDATE change SET backward=?");
                put.bind(1, patch);
                put.exec();
            }
            const auto undone = store.undo();
            QVERIFY(!undone);
            QVERIFY2(undone.error().sentence().find("cannot be undone") != std::string::npos,
                     undone.error().sentence().c_str());
            QCOMPARE(Store::open(file).value().house(), before);
        }
    }
    void aRunThatCannotBeReadHidesNoOther() {
        std::vector<benchmark::RouteRun> runs;
        for (int i = 0; i < 5; ++i) {
            runs.push_back({"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 100 + i)});
            runs.back().run.id = "run-" + std::to_string(i);
        }
        const std::string file = m_files.made({testing::wiredHouse(), runs});
        SQLite::Database(file, SQLite::OPEN_READWRITE)
            .exec("UPDATE run SET body=replace(body, '\"streams\":4', '\"streams\":4000') WHERE id='run-2'");
        const auto list = Store::open(file).value().runs().value();
        QCOMPARE(list.runs.size(), std::size_t(4));
        QCOMPARE(list.unreadable, std::vector<std::string>{"run-2"});
        const auto document = job::readJob(file).value();
        QCOMPARE(document.runs.size(), std::size_t(4));
        QCOMPARE(document.unreadable, std::vector<std::string>{"run-2"});
    }
    void aRunThatCouldNotBeReadAgainIsNotKept() {
        const std::string file = m_files.made();
        auto run = testing::steadyRun(benchmark::Direction::forward, 100);
        run.config.streams = benchmark::maxStreams + 1;
        QVERIFY(!job::keepRun(file, "desk-shelf", run));
        auto store = Store::open(file).value();
        QVERIFY(!store.addRun({"desk-shelf", run}));
        run.config.streams = benchmark::maxStreams;
        run.id = "run-2"; // the first was begun, and is there as one that was cut off
        QVERIFY(store.addRun({"desk-shelf", run}).has_value());
    }
    void samplesAreReadWhenTheyAreLookedAt() {
        const auto run = testing::steadyRun(benchmark::Direction::forward, 311);
        const std::string file = m_files.made({testing::wiredHouse(), {{"desk-shelf", run}}});
        auto store = Store::open(file).value();
        const auto list = store.runs().value();
        const benchmark::Run copy = list.runs[0].run;
        QCOMPARE(copy.samples.size(), run.samples.size());
        for (std::size_t i = 0; i < run.samples.size(); ++i)
            QVERIFY(copy.samples[i] == run.samples[i]);
        QCOMPARE(&copy.samples.all(), &list.runs[0].run.samples.all()); // shared
        // Where they cannot be read there are none, and the figures of the run stand.
        SQLite::Database(file, SQLite::OPEN_READWRITE)
            .exec("UPDATE series SET body='{\"t_s\":[1],\"goodput_bps\":[]}'");
        const auto spoilt = store.runs().value();
        QVERIFY(spoilt.runs[0].run.samples.empty());
        QCOMPARE(spoilt.runs[0].run.goodput.bps(), run.goodput.bps());
    }
    void columnsHoldEverySample() {
        std::vector<benchmark::Sample> samples(3);
        for (std::size_t i = 0; i < 3; ++i) {
            samples[i].t = 0.1 * static_cast<double>(i + 1);
            samples[i].goodputBps = 1e9 / 3;
        }
        samples[1].rttUs = 300;
        samples[2].retransmits = 7;
        samples[0].streamBps = {1, 2};
        samples[2].lossRatio = 0.25;
        const auto again = benchmark::seriesFromJson(benchmark::seriesToJson(samples));
        QVERIFY(again.has_value());
        QVERIFY(*again == samples);
        auto json = benchmark::seriesToJson(samples);
        json["rtt_us"].push_back(1);
        QVERIFY(!benchmark::seriesFromJson(json)); // one too many
        json = benchmark::seriesToJson(samples);
        json["goodput_bps"][1] = -1;
        QVERIFY(!benchmark::seriesFromJson(json));
    }
    void aWatchIsKeptInItsPlace() {
        const std::string file = m_files.made();
        auto store = Store::open(file).value();
        const auto number = store.addReport({0, "watch", R"({"format":"metrodos-watch","seconds":60})"});
        QVERIFY(number.has_value());
        QVERIFY(store.replaceReport(*number, {0, "watch", R"({"format":"metrodos-watch","seconds":120})"})
                    .has_value());
        QCOMPARE(store.reports().value().size(), std::size_t(1));
        QVERIFY(store.reports().value()[0].body.find("120") != std::string::npos);
        QVERIFY(store.removeReport(*number).has_value());
        QVERIFY(!store.replaceReport(*number, {0, "watch", "{}"}));
    }
    void aJobOfTheFirstVersionIsReadAndBroughtUp() {
        const auto run = testing::steadyRun(benchmark::Direction::forward, 311);
        const std::string file = m_files.made({testing::wiredHouse(), {{"desk-shelf", run}}});
        {
            // As it was: samples one by one, no reports yet.
            SQLite::Database old(file, SQLite::OPEN_READWRITE);
            old.exec("DROP TABLE series; DROP TABLE report; DELETE FROM meta; PRAGMA user_version=1");
            std::int64_t n = 0;
            for (const benchmark::Sample& sample : run.samples)
                job::insertSample(old, run.id, ++n, sample);
        }
        const QByteArray before = fingerprint(file);
        {
            const auto reader = Store::open(file, Store::Mode::readOnly).value();
            QCOMPARE(reader.runs().value().runs[0].run.samples.size(), run.samples.size());
            QVERIFY(reader.reports().value().empty());
        }
        QCOMPARE(fingerprint(file), before); // reading changes nothing
        auto store = Store::open(file).value();
        QCOMPARE(store.runs().value().runs[0].run.samples.size(), run.samples.size());
        QVERIFY(store.addReport({0, "watch", "{}"}).has_value());
    }
    void looksAreNoJob_data() {
        QTest::addColumn<QString>("sql");
        QTest::addColumn<QString>("words");
        const QString id = QString("PRAGMA application_id=%1; ").arg(job::applicationId);
        QTest::newRow("another program's")
            << "PRAGMA journal_mode=WAL; CREATE TABLE t(a); INSERT INTO t VALUES(1)"
            << "not a job";
        QTest::newRow("newer") << id + "PRAGMA user_version=99; PRAGMA journal_mode=WAL; CREATE TABLE t(a)"
                               << "newer version";
        QString views = id + "PRAGMA user_version=2;";
        for (const job::Table& table : job::tables)
            views += QString("CREATE VIEW %1 AS WITH RECURSIVE r(kind, id, position, body) AS (SELECT 1, 1, "
                             "1, 1 UNION "
                             "ALL SELECT kind, id, position + 1, body FROM r) SELECT * FROM r;")
                         .arg(table.name);
        QTest::newRow("endless views") << views << "is not a part of a job";
        QTest::newRow("a trigger")
            << id + "PRAGMA user_version=2; CREATE TABLE meta(key TEXT PRIMARY KEY, value TEXT "
                    "NOT NULL) WITHOUT ROWID; CREATE TRIGGER x AFTER INSERT ON meta BEGIN "
                    "SELECT 1; END"
            << "is not a part of a job";
        QTest::newRow("another table")
            << id + "PRAGMA user_version=2; CREATE TABLE item(kind, id, position, body)"
            << "is not a part of a job";
        QTest::newRow("nothing in it") << id + "PRAGMA user_version=2"
                                       << "damaged";
    }
    void looksAreNoJob() {
        QFETCH(QString, sql);
        QFETCH(QString, words);
        const std::string file = foreign(sql.toUtf8().constData());
        const QByteArray before = fingerprint(file);
        for (const auto mode : {Store::Mode::readOnly, Store::Mode::readWrite}) {
            const auto opened = Store::open(file, mode);
            QVERIFY(!opened);
            QVERIFY2(opened.error().sentence().find(words.toStdString()) != std::string::npos,
                     opened.error().sentence().c_str());
        }
        QVERIFY(!job::readJob(file));
        QVERIFY(!job::recoverCopy(file, m_files.fresh()));
        QCOMPARE(fingerprint(file), before);
    }
};

QTEST_GUILESS_MAIN(TestSharedJob)
#include "test_shared_job.moc"
