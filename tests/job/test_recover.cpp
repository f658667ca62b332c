// What recovery saves and what it leaves out, case by case.
#include "house/validate.h"
#include "job/file_format.h"
#include "job/house_json.h"
#include "job/open.h"
#include "job/store.h"
#include "support/houses.h"
#include "support/kept.h"
#include "support/paths.h"
#include "support/random_job.h"
#include "support/runs.h"

#include <QTemporaryDir>
#include <QTest>
#include <filesystem>
#include <set>

using namespace metrodos;
using job::Store;

class TestRecover : public QObject {
    Q_OBJECT

    QTemporaryDir m_folder;
    int m_count = 0;
    std::string fresh() { return m_folder.filePath(QString("r-%1.metrodos").arg(++m_count)).toStdString(); }
    /// A job with one run on which `sql` was let loose.
    std::string hurt(const std::string& sql) {
        const std::string file = fresh();
        const job::Document document{
            testing::coaxHouse(), {{"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 100)}}};
        if (!Store::create(file, document)) throw std::runtime_error("cannot create");
        SQLite::Database(file, SQLite::OPEN_READWRITE).exec(sql);
        return file;
    }

  private slots:
    void aSoundJobIsCopiedWhole() {
        const std::string copy = fresh();
        const auto report = job::recoverCopy(hurt("SELECT 1"), copy).value();
        QCOMPARE(report.lost, std::size_t(0));
        QCOMPARE(report.runs, std::size_t(1));
        const auto store = Store::open(copy).value();
        QCOMPARE(store.house(), testing::coaxHouse());
        QCOMPARE(store.runs().value().runs[0].run.samples.size(), std::size_t(100));
    }
    void aBrokenThingIsLeftOutWithWhatHangsOnIt() {
        const std::string copy = fresh();
        const auto report =
            job::recoverCopy(hurt("UPDATE item SET body='{\"id\":' WHERE id='coax-a'"), copy).value();
        QVERIFY(report.lost >= 2); // the adapter and its network
        const auto store = Store::open(copy).value();
        QVERIFY(store.house().device("coax-a") == nullptr);
        QVERIFY(store.house().connection("coax") == nullptr);
        QCOMPARE(store.house().connection("run-2")->ends.size(),
                 std::size_t(1)); // its lead, now with one end
        QVERIFY(store.house().device("coax-b") != nullptr);
        QCOMPARE(store.runs().value().runs.size(), std::size_t(1)); // its route still has both ends
    }
    // Every single thing of jobs that hold things of every kind, in each way that a body can be bad.
    void anyOneBadThingCostsNoOther() {
        std::set<std::string> kinds;
        std::size_t tried = 0;
        nlohmann::json
            left; // of the demo: bytes of what was recovered, which any reference too many or too few changes
        for (const unsigned seed : {0U, 1U, 2U}) {
            const std::string whole = fresh();
            // The demo has things of nearly every kind.
            const job::Document document =
                seed == 0 ? job::readJob(testing::dataPath("demo/quarry-house.json")).value()
                          : testing::RandomJob(seed).make();
            QVERIFY(Store::create(whole, document).has_value());
            const auto wasSound = house::validate(document.house).empty();
            struct Row {
                std::string kind;
                std::string id;
            };
            std::vector<Row> rows;
            {
                SQLite::Database database(whole);
                SQLite::Statement query(database, "SELECT kind, id FROM item");
                while (query.executeStep())
                    rows.push_back({query.getColumn(0).getString(), query.getColumn(1).getString()});
            }
            const char* bodies[] = {"{\"id\":",   "{}",   "[]",
                                    "{\"id\":7}", "null", "[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[["};
            for (std::size_t i = 0; i < rows.size(); ++i) {
                const std::string file = fresh();
                std::filesystem::copy_file(whole, file);
                {
                    SQLite::Database database(file, SQLite::OPEN_READWRITE);
                    SQLite::Statement hurt(database, "UPDATE item SET body=? WHERE kind=? AND id=?");
                    hurt.bind(1, bodies[i % std::size(bodies)]);
                    hurt.bind(2, rows[i].kind);
                    hurt.bind(3, rows[i].id);
                    QCOMPARE(hurt.exec(), 1);
                }
                const std::string name = rows[i].kind + " " + rows[i].id;
                const std::string copy = fresh();
                const auto report = job::recoverCopy(file, copy);
                QVERIFY2(report.has_value(),
                         (name + ": " + (report ? "" : report.error().sentence())).c_str());
                const auto store = Store::open(copy);
                QVERIFY2(store.has_value(), name.c_str());
                if (wasSound) QVERIFY2(house::validate(store->house()).empty(), name.c_str());
                // Nothing of another kind goes that does not hang on it.
                QVERIFY2(store->house().rooms.size() + 1 >= document.house.rooms.size(), name.c_str());
                if (rows[i].kind != "rooms" && rows[i].kind != "devices" && rows[i].kind != "jacks" &&
                    rows[i].kind != "coax_parts")
                    QVERIFY2(report->lost <=
                                 1 + (rows[i].kind == "endpoints" || rows[i].kind == "routes" ||
                                              rows[i].kind == "house"
                                          ? document.house.routes.size() + document.runs.size() +
                                                document.house.trials.size() + document.house.schedules.size()
                                          : 0),
                             (name + " cost " + std::to_string(report->lost)).c_str());
                kinds.insert(rows[i].kind);
                if (seed == 0) left[name] = job::toJson(store->house()).dump().size();
                ++tried;
                std::filesystem::remove(file);
                std::filesystem::remove(copy);
            }
        }
        QVERIFY2(kinds.size() >= 14, qPrintable(QString::number(kinds.size())));
        QVERIFY(tried > 100);
        QVERIFY_KEPT("recovered", left);
    }
    void aRunOfALostRouteIsLeftOut() {
        const std::string copy = fresh();
        const auto report = job::recoverCopy(hurt("DELETE FROM item WHERE kind='endpoints'"), copy).value();
        QCOMPARE(report.runs, std::size_t(0));
        QVERIFY(Store::open(copy).value().house().routes.empty());
    }
    void aBrokenRunDoesNotCostTheHouse() {
        const std::string copy = fresh();
        const auto report = job::recoverCopy(hurt("UPDATE run SET body='nonsense'"), copy).value();
        QCOMPARE(report.runs, std::size_t(0));
        QCOMPARE(report.lost, std::size_t(1));
        QCOMPARE(Store::open(copy).value().house(), testing::coaxHouse());
    }
    void lostSamplesLeaveTheFigures() {
        const std::string copy = fresh();
        const auto report = job::recoverCopy(hurt("UPDATE series SET body='nonsense'"), copy).value();
        QCOMPARE(report.runs, std::size_t(1));
        QCOMPARE(report.lost, std::size_t(1));
        const auto run = Store::open(copy).value().runs().value().runs[0].run;
        QVERIFY(run.samples.empty() && run.goodput.bps() > 0);
    }
    void samplesOfARunThatWasCutOffShortenIt() {
        const std::string copy = fresh();
        const std::string file =
            hurt("DELETE FROM series; UPDATE run SET ended=0;"
                 "INSERT INTO sample SELECT id, 1, '{\"t_s\":0.1,\"goodput_bps\":1e8}' FROM run");
        QVERIFY(job::recoverCopy(file, copy).has_value());
        QCOMPARE(Store::open(copy).value().runs().value().runs[0].run.samples.size(), std::size_t(1));
    }
    void aFileWithoutTablesGivesNothing() {
        const auto report = job::recoverCopy(hurt("DROP TABLE item"), fresh());
        QVERIFY(!report);
        QVERIFY(report.error().sentence().find("nothing could be read") != std::string::npos);
        QVERIFY(!job::recoverCopy("no-such-file", fresh()));
    }
    void anExistingCopyIsNotOverwritten() {
        const std::string copy = hurt("SELECT 1");
        QVERIFY(!job::recoverCopy(hurt("SELECT 1"), copy));
        QVERIFY(Store::open(copy).has_value());
    }
    void onlyDamageIsCalledDamage() {
        const std::string file = hurt("UPDATE item SET body='{' WHERE id='coax-a'");
        const auto damaged = Store::open(file);
        QVERIFY(!damaged && job::isDamage(damaged.error()));
        const auto missing = Store::open("no-such-file");
        QVERIFY(!missing && !job::isDamage(missing.error()));
        // Things that are each whole but do not fit together are damage as well.
        const auto torn = Store::open(hurt("DELETE FROM item WHERE id='switch'"));
        QVERIFY(!torn && job::isDamage(torn.error()));
    }
};

QTEST_GUILESS_MAIN(TestRecover)
#include "test_recover.moc"
