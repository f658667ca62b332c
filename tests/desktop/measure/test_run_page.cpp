// One run with all its figures, and another beside it, in the real window.
#include "desktop/measure/run_page.h"
#include "support/measure_window.h"
#include "support/runs.h"

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

class TestRunPage : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

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

QTEST_MAIN(TestRunPage)
#include "test_run_page.moc"
