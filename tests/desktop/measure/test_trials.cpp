// Trials in the real window: planned, led, interrupted and gone on with, compared.
#include "desktop/measure/test_page.h"
#include "desktop/measure/trial_bar.h"
#include "standin/simulated_service.h"
#include "support/measure_window.h"

#include <QCheckBox>
#include <QLineEdit>
#include <QMenu>
#include <QSpinBox>
#include <QTableWidget>
#include <QTest>
#include <QTime>
#include <QToolButton>
#include <nlohmann/json.hpp>

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
        QVERIFY2(result.contains("forward") && result.contains("alike"), qPrintable(result));
        w.picture("compared");
        w.click("remove-trial");
        QVERIFY(job::readJob(w.file).value().house.trials.empty());
        QCOMPARE(w.runs().size(), std::size_t(24)); // the runs stay
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
};

QTEST_MAIN(TestTrials)
#include "test_trials.moc"
