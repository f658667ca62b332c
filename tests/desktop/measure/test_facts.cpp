// What Measure shows of machines and runs: facts, conditions, the list, the page of a run.
#include "desktop/measure/facts_page.h"
#include "desktop/measure/run_page.h"
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

namespace {

// With a figure of every kind.
benchmark::Run whole(const std::string& id, double mbps) {
    benchmark::Run r = steadyRun(Direction::forward, mbps, 2, 0.002, id);
    r.config.warmup.reset(); // left to the program, as by the window
    for (benchmark::Sample& s : r.samples.change()) {
        s.streamBps = {s.goodputBps * 0.75, s.goodputBps * 0.25};
        s.rttUs = 4000;
        s.windowBytes = 500e3;
    }
    r.rttIdleUs = benchmark::Percentiles{1000, 1500, 1800.0, 2500.0};
    r.rttLoadedUs = benchmark::Percentiles{5000, 6000, 7000.0, 30000.0};
    r.spikes = {{2.5, 30000}};
    r.delayLost = 3;
    r.retransmits = 12;
    r.senderLimited = benchmark::SenderLimited{0.9, 0.06, 0.04};
    r.cpuSender = 0.35;
    r.cpuReceiver = 0.25;
    r.interfaceSender = benchmark::InterfaceCount{"eth7", 4'000'000'000, 0, false, false, ""};
    r.interfaceReceiver = benchmark::InterfaceCount{"wlan3", 1000, 2, true, true, ""};
    r.conditions.othersActive = false;
    r.conditions.changed = "another cable";
    return r;
}

} // namespace

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

    void aRunHasAPageAndAnotherBesideIt() {
        MeasureWindow w;
        {
            auto store = job::Store::open(w.file).value();
            const auto route = w.saved().routes.front().id;
            QVERIFY(store.addRun({route, steadyRun(Direction::forward, 200, 4, 0.002, "older")}));
            QVERIFY(store.addRun({route, steadyRun(Direction::backward, 150, 4, 0.002, "back")}));
            QVERIFY(store.addRun({route, whole("whole", 300)}));
        }
        auto* list = w.child<QTableWidget>("runs");
        QTRY_COMPARE_WITH_TIMEOUT(list->rowCount(), 3, 5000);
        list->setFocus();
        list->setCurrentCell(0, 0); // the newest
        QTest::keyClick(list, Qt::Key_Return);
        auto* page = w.child<RunPage>("run-page");
        QVERIFY(page->isVisible());
        const QString text = page->text();
        for (const char* said :
             {"goodput | 300 Mbit/s", "idle | 1.00 ms · 1.50 ms · 1.80 ms · 2.50 ms",
              "loaded | 5.00 ms · 6.00 ms · 7.00 ms · 30.0 ms", "spike | 30.0 ms at 2.5", "probes lost | 3",
              "sent again | 12", "held by | network 90", "stream 1 | 225 Mbit/s", "stream 2 | 75.0 Mbit/s",
              "way out | eth7: all bytes crossed it, no errors", "way in | wlan3: it saw 1.00 kB of ",
              "by radio", "others | did not use the network", "changed | another cable", "ordered | as usual",
              "buffer delay | 400 %", "queueing delay | 4.00 ms", "queue | 150 kB",
              "window | 500 kB · 37.5 kB needed"})
            QVERIFY2(text.contains(said), qPrintable(QString(said) + "\n" + text));
        w.picture("run-page");
        QVERIFY(w.child<QTableWidget>("run-sheet")->isColumnHidden(2));
        // Beside it the older run of its direction, not the one back.
        QTest::keyClick(w.child<QWidget>("run-sheet"), Qt::Key_C);
        QVERIFY(!w.child<QTableWidget>("run-sheet")->isColumnHidden(2));
        QVERIFY2(page->text().contains("300 Mbit/s") && page->text().contains("200 Mbit/s") &&
                     !page->text().contains("150 Mbit/s"),
                 qPrintable(page->text()));
        w.picture("run-page-beside");
        w.window.resize(1024, 700);
        QCoreApplication::processEvents();
        w.picture("run-page-small");
        w.window.resize(1280, 800);
        QTest::keyClick(w.child<QWidget>("run-sheet"), Qt::Key_C); // there is no third of this direction
        QVERIFY(w.child<QTableWidget>("run-sheet")->isColumnHidden(2));
        QTest::keyClick(w.child<QWidget>("run-sheet"), Qt::Key_Comma);
        QVERIFY2(page->text().contains("goodput | 150 Mbit/s"), qPrintable(page->text()));
        QTest::keyClick(w.child<QWidget>("run-sheet"), Qt::Key_C);
        QVERIFY2(w.child<QLabel>("status")->text().contains("no other run"), qPrintable(w.status()));
        QTest::keyClick(w.child<QWidget>("run-sheet"), Qt::Key_Comma);
        QTest::keyClick(w.child<QWidget>("run-sheet"), Qt::Key_Comma);
        QVERIFY2(w.child<QLabel>("status")->text().contains("first run"), qPrintable(w.status()));
        QTest::keyClick(w.child<QWidget>("run-sheet"), Qt::Key_Period);
        QVERIFY2(page->text().contains("goodput | 150 Mbit/s"), qPrintable(page->text()));
        // What is removed comes back where it was, with its samples; other steps of undo stand between.
        w.window.setPage(Page::runs);
        const auto ids = [&] {
            QStringList out;
            for (int row = 0; row < list->rowCount(); ++row)
                out << list->item(row, 0)->data(Qt::UserRole).toString();
            return out.join(' ');
        };
        QCOMPARE(ids(), QString("whole back older"));
        list->setFocus();
        list->selectRow(1);
        QTest::keyClick(list, Qt::Key_Delete);
        QTRY_COMPARE(ids(), QString("whole older"));
        QVERIFY2(w.child<QLabel>("status")->text().contains("brings it back"), qPrintable(w.status()));
        w.pick("summary-rule", "median"); // a change of the house
        list->setFocus();
        list->selectAll();
        QTest::keyClick(list, Qt::Key_Delete);
        QTRY_COMPARE(list->rowCount(), 0);
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QTRY_COMPARE(ids(), QString("whole older"));
        QCOMPARE(w.saved().measuring.summary, house::SummaryRule::median);
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QCOMPARE(w.saved().measuring.summary, house::SummaryRule::trimmed);
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QTRY_COMPARE(ids(), QString("whole back older"));
        const auto runs = job::Store::open(w.file).value().runs().value().runs;
        QCOMPARE(runs[1].run.id, std::string("back"));
        QCOMPARE(runs[1].run.samples.size(), std::size_t(100));
        // So does a step that another program makes; it is the newest, and goes first.
        list->setFocus();
        list->selectRow(1);
        QTest::keyClick(list, Qt::Key_Delete);
        QTRY_COMPARE(ids(), QString("whole older"));
        const std::string before = w.saved().name;
        {
            auto elsewhere = job::Store::open(w.file).value();
            auto next = elsewhere.house();
            next.name = "Named elsewhere";
            QVERIFY(elsewhere.change("name the house", next).has_value());
        }
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QTRY_COMPARE(w.saved().name, before);
        QCOMPARE(ids(), QString("whole older"));
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QTRY_COMPARE(ids(), QString("whole back older"));
    }
    void withoutARunItSaysWhatToDo() {
        MeasureWindow w;
        w.window.setPage(Page::run);
        QVERIFY(w.child<QLabel>("run-title")->text().contains("Space makes one"));
        w.child<QWidget>("run-compare")->setFocus();
        QTest::keyClick(w.child<QWidget>("run-compare"), Qt::Key_C);
        QVERIFY2(w.child<QLabel>("status")->text().contains("no run yet"), qPrintable(w.status()));
    }
};

QTEST_MAIN(TestFacts)
#include "test_facts.moc"
