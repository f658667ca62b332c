// The stage Fit in the real window: from the plan to the fitted house, by keyboard.
#include "fit/steps.h"
#include "support/measure_window.h"

#include <QTableWidget>
#include <QTemporaryDir>

using namespace metrodos;
using testing::MeasureWindow;

namespace {

// The demo house with its cheapest plan made real by the keys that a user presses.
struct FitWindow : MeasureWindow {
    FitWindow()
        : MeasureWindow(false, [](house::House& h) { h.fitting = {}; }) {
        window.setStage(desktop::Stage::weigh);
        (void)QTest::qWaitFor([this] { return window.isSettled(); }, 30'000);
        child<QWidget>("weighSpots")->setFocus();
        QTest::keyClick(child<QWidget>("weighSpots"), Qt::Key_Return, Qt::ControlModifier);
        QTest::keyClick(&window, Qt::Key_3, Qt::ControlModifier);
        QCoreApplication::processEvents();
    }
    [[nodiscard]] QTableWidget* list() { return child<QTableWidget>("steps"); }
    [[nodiscard]] QString text(const char* name) { return child<QLabel>(name)->text(); }
    [[nodiscard]] QString said() { return child<QLabel>("status")->text(); }
    [[nodiscard]] std::vector<fit::Step> steps() const {
        return fit::stepsOf(saved(), catalog::loadDefault().value());
    }
    void key(Qt::Key k) { QTest::keyClick(QApplication::focusWidget(), k); }
    void type(const QString& words) { QTest::keyClicks(QApplication::focusWidget(), words); }
    [[nodiscard]] QString shape(int row) { return list()->item(row, 0)->text(); }
};

} // namespace

class TestFit : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void withoutAPlanItSaysWhatToDo() {
        testing::TestedWindow w;
        house::House h = testing::demoHouse();
        h.fitting = {};
        w.create(h);
        w.open(desktop::Stage::fit);
        QVERIFY2(w.child<QLabel>("step-what")->text().contains("Ctrl+Enter"),
                 qPrintable(w.child<QLabel>("step-what")->text()));
        QVERIFY(!w.child<QWidget>("step-done")->isVisible());
        QVERIFY(!w.child<QWidget>("steps")->isVisible());
        w.picture("fit-empty");
    }
    void stepsAreWorkedThroughByKeyboard() {
        FitWindow w;
        const auto steps = w.steps();
        QVERIFY(steps.size() > 5);
        QCOMPARE(w.list()->rowCount(), static_cast<int>(steps.size()));
        QCOMPARE(w.text("step-what"), QString::fromStdString(steps[0].what));
        QVERIFY2(w.said().startsWith("Next: "), qPrintable(w.said()));
        QVERIFY(w.list()->hasFocus());
        w.picture("fit");
        // Done, and on to the next.
        w.key(Qt::Key_D);
        QCOMPARE(w.steps()[0].state, house::StepState::done);
        QVERIFY(!w.steps()[0].at.empty());
        QCOMPARE(w.list()->currentRow(), 1);
        QCOMPARE(w.text("step-what"), QString::fromStdString(steps[1].what));
        QVERIFY(w.shape(0) != w.shape(1));
        QVERIFY2(w.text("step-places").contains("1 of "), qPrintable(w.text("step-places")));
        // Failed: with a reason, or not at all.
        w.key(Qt::Key_F);
        w.key(Qt::Key_Escape);
        QVERIFY(!w.child<QWidget>("step-reason")->isVisible());
        QCOMPARE(w.steps()[1].state, house::StepState::open);
        w.key(Qt::Key_F);
        w.key(Qt::Key_Return);
        QVERIFY2(w.said().contains("has a reason"), qPrintable(w.said()));
        w.type("no link");
        w.key(Qt::Key_Return);
        QCOMPARE(w.steps()[1].state, house::StepState::failed);
        QCOMPARE(w.steps()[1].reason, std::string("no link"));
        QVERIFY2(w.text("step-state").contains("no link"), qPrintable(w.text("step-state")));
        QVERIFY2(w.said().startsWith("Failed: "), qPrintable(w.said()));
        w.picture("fit-failed");
        // A note; letters in it are no keys.
        w.key(Qt::Key_E);
        w.type("sound after defusing");
        w.key(Qt::Key_Return);
        QCOMPARE(w.steps()[1].note, std::string("sound after defusing"));
        QCOMPARE(w.steps()[1].state, house::StepState::failed);
        // Skipped, and open again.
        w.key(Qt::Key_S);
        w.type("not wanted");
        w.key(Qt::Key_Return);
        QCOMPARE(w.steps()[1].state, house::StepState::skipped);
        QCOMPARE(w.list()->currentRow(), 2);
        w.key(Qt::Key_Up);
        w.key(Qt::Key_U);
        QCOMPARE(w.steps()[1].state, house::StepState::open);
        QCOMPARE(w.steps()[1].note, std::string("sound after defusing"));
        // Each of that can be taken back.
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(w.steps()[1].state, house::StepState::skipped);
    }
    // Measure is set up as the step wants it, and what the run shows closes the step.
    void itsRunIsOneKeyAwayAndClosesIt() {
        FitWindow w;
        QCOMPARE(w.steps()[0].kind, fit::StepKind::baseline);
        QVERIFY2(w.text("step-rates").startsWith("Expected: "), qPrintable(w.text("step-rates")));
        w.key(Qt::Key_M);
        QVERIFY(w.child<QLabel>("preparedTest")->isVisible());
        QCOMPARE(w.text("preparedTest"), QString::fromStdString(w.steps()[0].what));
        w.pick("seconds", "5 s");
        QVERIFY2(w.run(), qPrintable(w.status()));
        const auto runs = w.runs();
        QCOMPARE(runs.size(), std::size_t(2));
        for (const auto& run : runs)
            QCOMPARE(run.config.arrangement.setup, house::Setup::baseline);
        QTest::keyClick(&w.window, Qt::Key_3, Qt::ControlModifier);
        QVERIFY2(w.text("step-rates").contains("Measured: "), qPrintable(w.text("step-rates")));
        QVERIFY2(w.text("step-state").contains("as its run shows"), qPrintable(w.text("step-state")));
        w.picture("fit-measured");
    }
    void whatIsNoLongerNeededIsKeptUntilItIsTakenOut() {
        FitWindow w;
        const auto steps = w.steps();
        int row = 0;
        while (row < static_cast<int>(steps.size()) && steps[static_cast<std::size_t>(row)].fits.empty())
            ++row;
        QVERIFY(row < static_cast<int>(steps.size()));
        const fit::Step gone = steps[static_cast<std::size_t>(row)];
        w.list()->setCurrentCell(row, 1);
        w.key(Qt::Key_D);
        // Another program takes the thing out of the plan.
        house::House next = w.saved();
        for (const house::Id& thing : gone.fits)
            std::erase(next.fitting.planned, thing);
        auto store = job::Store::open(w.file).value();
        QVERIFY(store.change("change the plan", next).has_value());
        const auto lastRow = [&] { return w.list()->rowCount() - 1; };
        QTRY_VERIFY_WITH_TIMEOUT(w.list()->item(lastRow(), 1)->text().startsWith("No longer needed: "), 5000);
        QCOMPARE(w.saved().fitting.records.size(), std::size_t(1));
        w.list()->setCurrentCell(lastRow(), 1);
        QVERIFY(!w.child<QWidget>("step-done")->isVisible());
        w.list()->setFocus();
        w.key(Qt::Key_Delete);
        QVERIFY(w.saved().fitting.records.empty());
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(w.saved().fitting.records.size(), std::size_t(1));
    }
};

QTEST_MAIN(TestFit)
#include "test_fit.moc"
