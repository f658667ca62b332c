// Trials led by the window, and ways measured at once.
#include "capacity/sharing.h"
#include "desktop/measure/test_page.h"
#include "desktop/measure/together_page.h"
#include "desktop/measure/trial_bar.h"
#include "desktop/widgets/range_list.h"
#include "standin/simulated_service.h"
#include "support/measure_window.h"

#include <QCheckBox>
#include <QElapsedTimer>
#include <QSpinBox>
#include <QTableWidget>
#include <QTest>

using namespace metrodos;
using namespace metrodos::desktop;
using benchmark::Direction;
using benchmark::Protocol;
using testing::MeasureWindow;

class TestTrials : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void aTrialIsPlannedAndLed() {
        MeasureWindow w;
        w.click("plan-trial");
        w.child<QSpinBox>("trial-repeats")->setValue(2);
        w.pick("trial-seconds", "1 s");
        QVERIFY2(w.child<QLabel>("trial-size")->text().startsWith("4 step"),
                 qPrintable(w.child<QLabel>("trial-size")->text()));
        w.picture("plan");
        w.click("begin-trial");
        QVERIFY(w.child<QLabel>("trial-instruction")->text().contains("one short good cable"));
        QVERIFY(w.child<QLabel>("trial-where")->text().startsWith("step 1 of 4"));
        w.picture("lead");
        QVERIFY2(w.run(), qPrintable(w.status()));
        QCOMPARE(w.runs().size(), std::size_t(4)); // 1 and 4 streams both ways
        for (const benchmark::Run& run : w.runs())
            QCOMPARE(run.config.arrangement.setup, house::Setup::baseline);
        QVERIFY(w.child<QLabel>("trial-instruction")->text().contains("side by side"));
        // Skipped, it comes back at the end.
        w.click("skip-step");
        QVERIFY(w.child<QLabel>("trial-instruction")->text().contains("as in “Dome to loft”"));
        QVERIFY(w.run());
        QVERIFY(w.child<QLabel>("trial-instruction")->text().contains("once more"));
        QVERIFY(w.run());
        QVERIFY(w.child<QLabel>("trial-instruction")->text().contains("side by side"));
        QVERIFY(w.run());
        QVERIFY2(w.child<QLabel>("trial-instruction")->text().contains("All is done"),
                 qPrintable(w.child<QLabel>("trial-instruction")->text()));
        QCOMPARE(w.runs().size(), std::size_t(16));
        // The trial's plan is one step of undo.
        w.click("leave-trial");
        QVERIFY(!w.child<TrialBar>("trial")->isVisible());
    }
    void anInterruptedTrialGoesOn() {
        MeasureWindow w;
        w.click("plan-trial");
        w.child<QCheckBox>("trial-baseline")->setChecked(false);
        w.child<QCheckBox>("trial-bench")->setChecked(false);
        w.child<QSpinBox>("trial-repeats")->setValue(2);
        w.pick("trial-seconds", "1 s");
        w.click("begin-trial");
        QVERIFY(w.run());
        QVERIFY(w.child<QLabel>("trial-where")->text().startsWith("step 2 of 2"));
        // Left, closed, and opened another day.
        w.click("leave-trial");
        w.open(Stage::measure);
        QVERIFY(!w.child<TrialBar>("trial")->isVisible());
        QVERIFY(w.child<QAbstractButton>("resume-trial")->isVisible());
        w.click("resume-trial");
        QVERIFY(w.child<QLabel>("trial-where")->text().startsWith("step 2 of 2"));
        QVERIFY(w.run());
        QVERIFY(w.child<QLabel>("trial-instruction")->text().contains("All is done"));
    }
    void twoPlacesAreComparedInTurn() {
        MeasureWindow w(true);
        w.click("plan-trial");
        w.child<QCheckBox>("trial-baseline")->setChecked(false);
        w.child<QCheckBox>("trial-bench")->setChecked(false);
        for (QCheckBox* box : w.child<TrialBar>("trial")->findChildren<QCheckBox*>())
            if (box->text() == "Dome to loft" || box->text() == "The other way") box->setChecked(true);
        w.child<QSpinBox>("trial-repeats")->setValue(3); // pairs: fewer say nothing of how much they vary
        w.pick("trial-seconds", "1 s");
        w.click("begin-trial");
        QString order;
        for (int i = 0; i < 6; ++i) {
            order += w.child<QLabel>("trial-instruction")->text().contains("other way") ? 'B' : 'A';
            QVERIFY2(w.run(), qPrintable(w.status()));
        }
        QCOMPARE(order, QString("ABBAAB"));
        // The same wires under two names: no difference that is worth anything.
        const QString result = w.child<QLabel>("trial-result")->text();
        QVERIFY2(result.contains("Forward: ") && result.contains("alike"), qPrintable(result));
        // Each has its range, both ways.
        auto* ranges = w.child<RangeList>("trial-places");
        QVERIFY(ranges->isVisible());
        QCOMPARE(ranges->rows().size(), std::size_t(2));
        for (const RangeRow& row : ranges->rows())
            QVERIFY(row.forward && row.backward && row.note == "3 runs each way");
        w.picture("compared");
        w.click("remove-trial");
        QVERIFY(job::readJob(w.file).value().house.trials.empty());
        QCOMPARE(w.runs().size(), std::size_t(24)); // the runs stay
    }
    // Order, directions, streams and pause are those that were chosen; what is not settled can have one more
    // turn.
    void howATrialIsMadeIsChosen() {
        MeasureWindow w(true);
        w.click("plan-trial");
        w.child<QCheckBox>("trial-baseline")->setChecked(false);
        w.child<QCheckBox>("trial-bench")->setChecked(false);
        for (QCheckBox* box : w.child<TrialBar>("trial")->findChildren<QCheckBox*>())
            if (box->text() == "Dome to loft" || box->text() == "The other way") box->setChecked(true);
        w.child<QSpinBox>("trial-repeats")->setValue(2);
        w.pick("trial-seconds", "1 s");
        w.pick("trial-order", "Rotating: A B C, B C A, C A B");
        w.pick("trial-directions", "Forward");
        w.pick("trial-streams", "8 streams");
        w.pick("trial-pause", "5 s");
        // Four steps of one run of 1 s, 5 s of quiet and 3 s to open and close.
        QVERIFY2(w.child<QLabel>("trial-size")->text() == "4 steps, about 36 s",
                 qPrintable(w.child<QLabel>("trial-size")->text()));
        w.pick("trial-pause", "none");
        w.picture("trial-plan");
        w.click("begin-trial");
        QString order;
        for (int i = 0; i < 4; ++i) {
            order += w.child<QLabel>("trial-instruction")->text().contains("other way") ? 'B' : 'A';
            QVERIFY2(w.run(), qPrintable(w.status()));
        }
        QCOMPARE(order, QString("ABBA"));
        for (const benchmark::Run& run : w.runs())
            if (!run.id.starts_with("past-")) {
                QCOMPARE(run.config.streams, 8);
                QCOMPARE(run.config.direction, benchmark::Direction::forward);
            }
        // Two of each say nothing of how much they vary.
        auto* more = w.child<QAbstractButton>("more-turns");
        QVERIFY(more->isVisible());
        QVERIFY2(more->text().contains("would settle it"), qPrintable(more->text()));
        w.click("more-turns");
        QVERIFY2(w.child<QLabel>("trial-where")->text().startsWith("step 5 of 6"),
                 qPrintable(w.child<QLabel>("trial-where")->text()));
        for (int i = 0; i < 2; ++i)
            QVERIFY2(w.run(), qPrintable(w.status()));
        // It stays as long as something is open.
        const QString words = w.child<QLabel>("trial-result")->text();
        QCOMPARE(more->isVisible(), words.contains("more pair"));
        w.picture("trial-ranked");
        QTest::keySequence(&w.window, QKeySequence::Undo); // the turn is a step of the house
    }
    void thePauseIsQuietAndCanBeStopped() {
        MeasureWindow w(true);
        w.click("plan-trial");
        w.child<QCheckBox>("trial-baseline")->setChecked(false);
        w.child<QCheckBox>("trial-bench")->setChecked(false);
        w.child<QSpinBox>("trial-repeats")->setValue(1);
        w.pick("trial-seconds", "1 s");
        w.pick("trial-pause", "300 s");
        w.click("begin-trial");
        w.space();
        QTRY_VERIFY2_WITH_TIMEOUT(w.status().startsWith("Quiet for 300 s"), qPrintable(w.status()), 5000);
        QElapsedTimer timer;
        timer.start();
        w.space();
        QTRY_VERIFY_WITH_TIMEOUT(w.child<QAbstractButton>("run")->text().startsWith("Run"), 3000);
        QVERIFY(timer.elapsed() < 2000);
        QCOMPARE(w.child<QLabel>("trial-where")->text().left(11), QString("step 1 of 1"));
    }
    void aPlanWithoutARouteSaysWhatIsMissing() {
        MeasureWindow w;
        w.click("plan-trial");
        for (QCheckBox* box : w.child<TrialBar>("trial")->findChildren<QCheckBox*>())
            if (box->property("route").isValid()) box->setChecked(false);
        QVERIFY(w.child<QLabel>("trial-size")->text().contains("choose at least one route"));
        w.click("begin-trial");
        QVERIFY(w.status().contains("needs a route"));
        w.click("cancel-trial");
        QVERIFY(!w.child<TrialBar>("trial")->isVisible());
    }

    void waysAtOnceAreChosenForecastAndRun() {
        MeasureWindow w(true); // a second way over the same elements
        w.window.setPage(Page::together);
        auto* list = w.child<QTableWidget>("together-ways");
        auto* page = w.child<TogetherPage>("together");
        QCOMPARE(list->rowCount(), 2 * static_cast<int>(w.saved().routes.size()));
        QVERIFY2(page->text().contains("Choose two"), qPrintable(page->text()));
        list->setFocus();
        QTest::keyClick(list, Qt::Key_R);
        QVERIFY2(w.child<QLabel>("status")->text().contains("two ways or more"), qPrintable(w.status()));
        list->setCurrentCell(0, 1);
        QTest::keyClick(list, Qt::Key_Return);
        const QString alone = list->item(0, 2)->text();
        QVERIFY2(alone.contains("bit/s") && alone.contains("B/s") && list->item(0, 3)->text() == alone,
                 qPrintable(alone));
        const int other = 2 * static_cast<int>(w.saved().routes.size()) - 2; // it was put last
        list->setCurrentCell(other, 1);
        QTest::keyClick(list, Qt::Key_Return);
        QVERIFY(list->item(other, 0)->text().contains("chosen"));
        // Over the same elements each gets half, whatever they are.
        const auto flows =
            capacity::shareFlows(w.saved(), catalog::loadDefault().value(),
                                 {{w.saved().routes.front(), true, {}}, {w.saved().routes.back(), true, {}}})
                .value();
        QVERIFY(std::abs(flows[0].shared.bps() / flows[0].alone.bps() - 0.5) < 0.02);
        QVERIFY2(list->item(0, 2)->text() == alone && list->item(0, 3)->text() != alone,
                 qPrintable(list->item(0, 3)->text()));
        QVERIFY2(page->text().startsWith("At once less than alone: ") && page->text().contains("share"),
                 qPrintable(page->text()));
        QCoreApplication::processEvents();
        w.picture("together-page");
        // Between the same machines there is one way that the packets take.
        QTest::keyClick(list, Qt::Key_R);
        QVERIFY2(w.child<QLabel>("status")->text().contains("between the same machines"),
                 qPrintable(w.status()));
        QTest::keyClick(list, Qt::Key_Return);
        QVERIFY(!list->item(list->currentRow(), 0)->text().contains("chosen"));
        // There and back at once.
        list->setCurrentCell(1, 1);
        QTest::keyClick(list, Qt::Key_Return);
        QTest::keyClick(list, Qt::Key_R);
        QVERIFY2(w.child<QLabel>("status")->text().contains("Space"), qPrintable(w.status()));
        QVERIFY(w.child<QAbstractButton>("matrix-only")->isChecked());
    }
};

QTEST_MAIN(TestTrials)
#include "test_trials.moc"
