// Log, pages Library and Own houses, in the real window.
#include "benchmark/revisit.h"
#include "desktop/log/library_page.h"
#include "desktop/log/log_pages.h"
#include "desktop/log/own_houses_page.h"
#include "desktop/model/demo.h"
#include "desktop/route/route_strip.h"
#include "desktop/widgets/range_list.h"
#include "house/dated_changes.h"
#include "support/runs.h"
#include "support/tested_window.h"

#include <QCheckBox>
#include <QFile>
#include <QLineEdit>
#include <QTableWidget>

using namespace metrodos;
using namespace metrodos::desktop;
using testing::TestedWindow;

namespace {

job::Document demoRun(const std::string& name, double mbps) {
    job::Document d = job::readJob(testing::dataPath("demo/library/mill-end.json")).value();
    d.house.name = name;
    d.house.changes.clear();
    int n = 0;
    for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward})
        for (int i = 0; i < 3; ++i) {
            benchmark::Run run = testing::steadyRun(direction, mbps, 4, 0.12, "run-" + std::to_string(++n));
            run.startedAt = "2026-05-0" + std::to_string(i + 1) + "T10:00:00Z";
            d.runs.push_back({"hall-office", run});
        }
    return d;
}

struct ShelfWindow : TestedWindow {
    QTemporaryDir shelf;
    explicit ShelfWindow(Page page) {
        for (const auto& [name, mbps] :
             {std::pair("Larch Hall", 60.0), std::pair("Birch Hall", 40.0), std::pair("Oak Hall", 45.0)})
            (void)job::Store::create(shelf.filePath(QString::fromLatin1(name) + ".metrodos").toStdString(),
                                     demoRun(name, mbps))
                .value();
        create(testing::demoHouse());
        open(Stage::log);
        child<LogPages>("log-pages")->showLibrary(shelf.path().toStdString());
        window.setPage(page);
        QTRY_VERIFY_WITH_TIMEOUT(window.isSettled(), 20'000);
    }
    [[nodiscard]] QString line() { return child<QLabel>("status")->text(); }
    [[nodiscard]] QTableWidget* list() { return child<QTableWidget>("library-list"); }
};

} // namespace

class TestOwnHouses : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void allJobsAreListedFoundAndOpened() {
        ShelfWindow w(Page::library);
        QTRY_COMPARE(w.list()->rowCount(), 3);
        QTRY_VERIFY2(w.line().startsWith("3 jobs; Enter opens"), qPrintable(w.line()));
        QVERIFY2(w.list()->item(0, 3)->text().startsWith("mains, hall to office ("),
                 qPrintable(w.list()->item(0, 3)->text()));
        QCOMPARE(w.list()->item(0, 2)->text(), QString("6"));
        w.picture("library");
        w.list()->setFocus();
        QTest::keyClick(w.list(), Qt::Key_Slash);
        auto* words = w.child<QLineEdit>("library-words");
        QVERIFY(words->hasFocus());
        QTest::keyClicks(words, "birch office");
        QTRY_COMPARE(w.list()->rowCount(), 1);
        QTRY_VERIFY(w.window.isSettled());
        QCOMPARE(w.list()->item(0, 0)->text(), QString("Birch Hall"));
        QTest::keyClicks(words, " zebra");
        QTRY_COMPARE(w.list()->rowCount(), 0);
        QTRY_VERIFY2(w.line().startsWith("No job has all of these words"), qPrintable(w.line()));
        words->setText("birch");
        QTRY_COMPARE(w.list()->rowCount(), 1);
        QTest::keyClick(words, Qt::Key_Return);
        QVERIFY(w.list()->hasFocus());
        QTest::keyClick(w.list(), Qt::Key_Return);
        QTRY_COMPARE(w.child<QLineEdit>("house-name")->text(), QString("Birch Hall"));
    }
    // A job with markup for a name is shown as it is written, and another that cannot be read does no harm.
    void hostileJobsAreText() {
        ShelfWindow w(Page::library);
        (void)job::Store::create(w.shelf.filePath("bad.metrodos").toStdString(),
                                 demoRun("<img src='file:///dev/zero'><b>x", 50))
            .value();
        QFile junk(w.shelf.filePath("junk.metrodos"));
        QVERIFY(junk.open(QIODevice::WriteOnly));
        junk.write("<h1>junk</h1>");
        junk.close();
        QTest::keyClick(w.list(), Qt::Key_R);
        QTRY_COMPARE(w.list()->rowCount(), 5);
        QTRY_VERIFY(w.window.isSettled());
        bool found = false;
        for (int row = 0; row < 5; ++row) {
            w.list()->setCurrentCell(row, 0);
            found = found || w.list()->item(row, 0)->text().startsWith("<img src=");
            QVERIFY(w.child<QLabel>("library-detail")->textFormat() == Qt::PlainText);
        }
        QVERIFY(found);
        QVERIFY(w.list()->item(4, 3)->text() == "cannot be read");
    }
    void predictionsUseThemOnRequestAndSaySo() {
        ShelfWindow w(Page::houses);
        auto* figures = w.child<RangeList>("houses-figures");
        QTRY_COMPARE(figures->rows().size(), std::size_t(1));
        const RangeRow row = figures->rows().front();
        QCOMPARE(row.title, QString("mains adapter, 1000–1300 class, other circuit, same panel"));
        QVERIFY2(row.detail.startsWith("3 pairs in 3 houses, median 45"), qPrintable(row.detail));
        QVERIFY(row.backward->p50 < row.forward->p50); // slower than the catalog has it
        QVERIFY2(w.line().startsWith("Predictions use the catalog alone; U has them use 1 range"),
                 qPrintable(w.line()));
        w.picture("own-houses");
        // A house with such a pair.
        const QString other = w.shelf.filePath("Oak Hall.metrodos");
        QVERIFY(w.window.openJob(other.toStdString()));
        w.window.setStage(Stage::log);
        w.window.setPage(Page::houses);
        const auto predicted = [&] {
            const auto house = job::readJob(other.toStdString()).value().house;
            const auto catalog = catalog::loadDefault().value();
            return catalog.device("mains-1200")->medium.at("same_panel").p50;
        };
        QVERIFY(predicted() == row.forward->p50);
        figures->setFocus();
        QTest::keyClick(figures, Qt::Key_U);
        QVERIFY(w.child<QCheckBox>("houses-used")->isChecked());
        QTRY_VERIFY2(w.line().startsWith("Predictions use 1 range of your own houses"), qPrintable(w.line()));
        // The sheet of the medium says what its figure rests on.
        w.window.setStage(Stage::trace);
        QVERIFY(w.settle());
        auto* strip = w.window.findChild<RouteStrip*>();
        strip->setFocus();
        bool said = false;
        for (int i = 0; i < 20 && !said; ++i) {
            QTest::keyClick(strip, Qt::Key_Right);
            for (const QLabel* label : w.window.findChildren<QLabel*>())
                said = said ||
                       (label->isVisible() && label->text().contains("refined by 3 houses of one's own"));
        }
        QVERIFY(said);
        w.window.setStage(Stage::log);
        QTest::keyClick(figures, Qt::Key_U);
        QVERIFY(!w.child<QCheckBox>("houses-used")->isChecked());
    }
    // Figures of others come as a file, and go as one that says nothing of whose houses they are.
    void figuresGoOutAndComeIn() {
        ShelfWindow w(Page::houses);
        auto* page = w.child<OwnHousesPage>("houses");
        auto* figures = w.child<RangeList>("houses-figures");
        QTRY_COMPARE(figures->rows().size(), std::size_t(1));
        const QString file = w.folder.filePath("houses.json");
        page->exportTo(file);
        QFile kept(file);
        QVERIFY(kept.open(QIODevice::ReadOnly));
        const QByteArray text = kept.readAll();
        for (const char* name : {"Larch", "Birch", "Oak", "office", "hall"})
            QVERIFY2(!text.contains(name), name);
        // The same houses once more are no more houses.
        page->importFrom(file);
        QVERIFY2(figures->rows().front().detail.contains("in 3 houses"),
                 qPrintable(figures->rows().front().detail));
        QByteArray others = text;
        others.replace("same_panel", "same_circuit");
        QFile more(w.folder.filePath("others.json"));
        QVERIFY(more.open(QIODevice::WriteOnly));
        more.write(others);
        more.close();
        page->importFrom(more.fileName());
        QCOMPARE(figures->rows().size(), std::size_t(2));
        QFile junk(w.folder.filePath("junk.json"));
        QVERIFY(junk.open(QIODevice::WriteOnly));
        junk.write("{}");
        junk.close();
        page->importFrom(junk.fileName());
        QVERIFY2(w.line().startsWith("Not done: "), qPrintable(w.line()));
        QCOMPARE(figures->rows().size(), std::size_t(2));
    }
    // Two visits, a week of hours, and a shelf of other houses; every run says that it is simulated.
    void theDemoHasAPast() {
        const QTemporaryDir folder;
        const std::filesystem::path home = folder.path().toStdString();
        const auto file = demoJob(home);
        QVERIFY2(file.has_value(), file ? "" : file.error().sentence().c_str());
        const job::Document quarry = job::readJob(*file).value();
        const auto visits = benchmark::visitsOf(quarry.runs);
        QCOMPARE(visits.size(), std::size_t(9)); // two of them, and seven days
        int jobs = 0;
        for (const auto& entry : std::filesystem::recursive_directory_iterator(home)) {
            if (entry.path().extension() != ".metrodos") continue;
            ++jobs;
            const job::Document d = job::readJob(entry.path()).value();
            QVERIFY(!d.runs.empty());
            for (const benchmark::RouteRun& r : d.runs)
                QVERIFY2(r.run.simulated && r.run.complete, r.run.id.c_str());
        }
        QCOMPARE(jobs, 6);
        // The service is faster since the first visit: a revisit would say so.
        QVERIFY(!house::changesBetween(quarry.house, visits.front().day, visits[1].day).empty());
        // Opened again, nothing is made anew.
        const auto before = std::filesystem::last_write_time(*file);
        QVERIFY(demoJob(home).has_value());
        QVERIFY(std::filesystem::last_write_time(*file) == before);
    }
};

QTEST_MAIN(TestOwnHouses)
#include "test_own_houses.moc"
