// What a machine says of itself, in the real window; and what is noted of runs after they were made.
#include "desktop/measure/facts_page.h"
#include "desktop/measure/test_page.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_hints.h"
#include "support/agents.h"
#include "support/measure_window.h"
#include "support/runs.h"

#include <QMenu>
#include <QTableWidget>
#include <QTest>

using namespace metrodos;
using namespace metrodos::desktop;
using benchmark::Direction;
using testing::MeasureWindow;
using testing::steadyRun;

class TestFacts : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

    static void addRuns(MeasureWindow& w) {
        auto store = job::Store::open(w.file).value();
        const auto route = w.saved().routes.front().id;
        for (const auto& [id, mbps] :
             std::vector<std::pair<std::string, double>>{{"one", 200}, {"two", 300}, {"three", 250}})
            QVERIFY(store.addRun({route, steadyRun(Direction::forward, mbps, 4, 0.002, id)}));
    }
    static QString ids(QTableWidget* list) {
        QStringList out;
        for (int row = 0; row < list->rowCount(); ++row)
            out << list->item(row, 0)->data(Qt::UserRole).toString();
        return out.join(' ');
    }

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void aMachineIsReadAndTakenOver() {
        MeasureWindow w;
        w.window.setPage(Page::facts);
        auto* page = w.child<FactsPage>("facts-page");
        QVERIFY(page->isVisible());
        QVERIFY2(page->text().contains("Not read yet"), qPrintable(page->text()));
        w.picture("facts-empty");
        auto* machines = w.child<QComboBox>("facts-machine");
        machines->setFocus();
        QTest::keyClick(machines, Qt::Key_R);
        QTRY_VERIFY2_WITH_TIMEOUT(page->text().contains("Read at"), qPrintable(w.status()), 5000);
        const QString text = page->text();
        QVERIFY2(text.contains("| Link | ") && text.contains("full-duplex"), qPrintable(text));
        QVERIFY2(text.contains("machine | Processor |"), qPrintable(text));
        // Each part that limits has its ceiling, and the least of them is said in both units.
        QVERIFY(!w.child<RangeList>("facts-parts")->rows().empty());
        QVERIFY2(w.child<QLabel>("facts-headline")->text().contains("MB/s"),
                 qPrintable(w.child<QLabel>("facts-headline")->text()));
        w.picture("facts");
        w.window.resize(1024, 700);
        QCoreApplication::processEvents();
        w.picture("facts-small");
        w.window.resize(1280, 800);
        const house::House before = w.saved();
        QTest::keyClick(machines, Qt::Key_T);
        QVERIFY2(!w.status().isEmpty() && !w.status().startsWith("Not done"), qPrintable(w.status()));
        if (w.saved() != before) {
            QTest::keySequence(&w.window, QKeySequence::Undo);
            QCOMPARE(w.saved(), before);
        } else {
            QVERIFY2(w.status().contains("says all of that already"), qPrintable(w.status()));
        }
    }
    void conditionsAreNotedAfterwards() {
        MeasureWindow w;
        addRuns(w);
        auto* list = w.child<QTableWidget>("runs");
        QTRY_COMPARE_WITH_TIMEOUT(list->rowCount(), 3, 5000);
        list->setFocus();
        list->selectRow(0);
        const auto conditions = [&](const std::string& id) {
            for (const benchmark::Run& run : w.runs())
                if (run.id == id) return run.conditions;
            return benchmark::Conditions{};
        };
        QTest::keyClick(list, Qt::Key_O); // not known, no, yes
        QCOMPARE(conditions("three").othersActive, std::optional(false));
        QCOMPARE(conditions("two").othersActive, std::optional<bool>());
        QVERIFY2(w.status().startsWith("Nobody else used the network"), qPrintable(w.status()));
        QTest::keyClick(list, Qt::Key_O);
        QCOMPARE(conditions("three").othersActive, std::optional(true));
        QTest::keyClick(list, Qt::Key_G);
        auto* field = w.child<QLineEdit>("run-changed");
        QVERIFY(field->isVisible());
        QTest::keyClicks(field, "the microwave was on");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(conditions("three").changed, std::string("the microwave was on"));
        QVERIFY(!field->isVisible());
        // Samples stay as they were, and each step is taken back by itself.
        for (const benchmark::Run& run : w.runs())
            if (run.id == "three") QVERIFY(!run.samples.empty());
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QCOMPARE(conditions("three").changed, std::string());
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QCOMPARE(conditions("three").othersActive, std::optional(false));
        // What ran, from the survey.
        list->setFocus();
        list->clearSelection(); // the key of Undo still counts as held, and would turn the row over
        list->selectRow(0);
        QCOMPARE(list->selectionModel()->selectedRows().size(), 1);
        QTest::keyClick(list, Qt::Key_A);
        auto* menu = w.child<QMenu>("run-appliances");
        QVERIFY(!menu->actions().isEmpty());
        const QString appliance = menu->actions().front()->text().replace("&&", "&");
        menu->actions().front()->toggle();
        menu->close();
        QCOMPARE(conditions("three").appliances, std::vector<std::string>{appliance.toStdString()});
        // Before a run the same keys speak of the next one.
        w.child<QWidget>("run")->setFocus();
        QTest::keyClick(w.child<QWidget>("run"), Qt::Key_G);
        QVERIFY(w.child<QLineEdit>("run-change")->isVisible());
    }
    void runsAreSortedAndFiltered() {
        MeasureWindow w;
        addRuns(w);
        auto* list = w.child<QTableWidget>("runs");
        QTRY_COMPARE_WITH_TIMEOUT(list->rowCount(), 3, 5000);
        QCOMPARE(ids(list), QString("three two one"));
        list->setFocus();
        QTest::keyClick(list, Qt::Key_S);
        QCOMPARE(ids(list), QString("two three one"));
        QVERIFY(w.status().startsWith("The fastest run first"));
        QTest::keyClick(list, Qt::Key_S);
        QCOMPARE(ids(list), QString("one three two"));
        QTest::keyClick(list, Qt::Key_S);
        QTest::keyClick(list, Qt::Key_S);
        QCOMPARE(ids(list), QString("three two one"));
        QTest::keyClick(list, Qt::Key_Slash);
        auto* field = w.child<QLineEdit>("run-filter");
        QVERIFY(field->isVisible() && field->hasFocus());
        field->setText("direction=backward");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(list->rowCount(), 0);
        QTest::keyClick(list, Qt::Key_Slash);
        field->setText("direction=sideways");
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY2(w.status().startsWith("Not done"), qPrintable(w.status()));
        field->setText("");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(list->rowCount(), 3);
        QVERIFY(!field->isVisible());
    }
    void aFileGoesFromDiskToDisk() {
        const QTemporaryDir there;
        const QTemporaryDir here;
        const testing::LoopbackAgent agent("Loft", there.path().toStdString());
        MeasureWindow w(false, [&](house::House& h) {
            for (house::Endpoint& e : h.endpoints) {
                if (e.id == h.routes.front().from) e.address = "here";
                if (e.id == h.routes.front().to) e.address = agent.address;
            }
        });
        const QString key =
            QStandardPaths::writableLocation(QStandardPaths::ConfigLocation) + "/metrodos/key";
        QFile::remove(key);
        QVERIFY(agent.key.save(key.toStdString()).has_value());
        w.window.setPage(Page::transfer);
        w.picture("transfer-empty");
        w.child<QLineEdit>("transfer-folder")->setText(here.path());
        w.pick("transfer-size", "10 MB");
        w.test("transfer");
        const auto* page = w.window.findChild<TestPage*>("transfer");
        const QString text = page == nullptr ? w.status() : page->text();
        QVERIFY2(text.contains("A copy from disk to disk carries"), qPrintable(text + w.status()));
        w.picture("transfer");
        const auto reports = job::readJob(w.file).value().reports;
        QVERIFY(std::any_of(reports.begin(), reports.end(),
                            [](const job::Report& r) { return r.kind == "transfer"; }));
        QTRY_VERIFY_WITH_TIMEOUT(QDir(there.path()).isEmpty() && QDir(here.path()).isEmpty(), 5000);
    }
    void whoHasNoFolderIsSaid() {
        MeasureWindow w; // its machines are simulated
        w.window.setPage(Page::transfer);
        w.pick("transfer-size", "10 MB");
        auto* button = w.child<QAbstractButton>("transfer-run");
        button->setFocus();
        QTest::keyClick(&w.window, Qt::Key_Space);
        QTRY_VERIFY2_WITH_TIMEOUT(w.status().contains("--folder"), qPrintable(w.status()), 10'000);
    }
    // 1 MB/s is 8 Mbit/s; what stands there in both needs no hint.
    void everyRateComesInBothUnits() {
        QCOMPARE(otherUnits("about 941 Mbit/s"), QStringList{"941 Mbit/s = 118 MB/s"});
        QCOMPARE(otherUnits("writes 110 MB/s"), QStringList{"110 MB/s = 880 Mbit/s"});
        QCOMPARE(otherUnits("280 to 350 Mbit/s"),
                 (QStringList{"280 Mbit/s = 35.0 MB/s", "350 Mbit/s = 43.8 MB/s"}));
        QCOMPARE(otherUnits("2.35 Gbit/s · 294 MB/s"), QStringList());
        QCOMPARE(otherUnits("1 Gbit/s raw and 1 Gbit/s"), QStringList{"1 Gbit/s = 125 MB/s"});
        QCOMPARE(otherUnits("12 MB in 3 s, 7 kbit"), QStringList());
        QCOMPARE(otherUnits("<b>1 Gbit/s</b>").size(), 1);
        MeasureWindow w;
        w.window.setPage(Page::together);
        auto* ways = w.child<QTableWidget>("together-ways");
        ways->setFocus();
        ways->setCurrentCell(0, 0);
        auto* hint = w.child<QLabel>("otherUnits");
        QTest::keyClick(ways, Qt::Key_Down);
        const QString row = focusedText(ways);
        QTRY_COMPARE(hint->text(), otherUnits(row).join('\n'));
    }
};

QTEST_MAIN(TestFacts)
#include "test_facts.moc"
