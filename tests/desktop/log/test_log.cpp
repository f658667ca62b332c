// The stage Log in the real window: every run in time, found by words, and two sets against each other.
#include "desktop/log/log_timeline.h"
#include "desktop/log/log_view.h"
#include "desktop/log/set_plot.h"
#include "support/measure_window.h"
#include "support/runs.h"

#include <QElapsedTimer>
#include <QLineEdit>
#include <QSignalSpy>
#include <QTableWidget>

using namespace metrodos;
using namespace metrodos::desktop;
using testing::TestedWindow;

namespace {

// Mornings at 200 Mbit/s, evenings at half of that, over ten days, both ways.
struct LogWindow : TestedWindow {
    explicit LogWindow(int days = 10) {
        house::House h = testing::demoHouse();
        file = folder.filePath(QStringLiteral("house.metrodos")).toStdString();
        job::Document document{h, {}};
        for (int day = 0; day < days; ++day)
            for (const int hour : {9, 20})
                for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward}) {
                    const double rate = (hour == 9 ? 200 : 100) * (1 + 0.01 * (day % 5));
                    benchmark::Run run = testing::steadyRun(direction, rate, 4, 0.03,
                                                            "run-" + std::to_string(document.runs.size()));
                    const auto at = QDateTime(QDate(2026, 5, 1), QTime(hour, 0), Qt::UTC).addDays(day);
                    run.startedAt = at.toString(Qt::ISODate).toStdString();
                    run.conditions.hour = hour;
                    document.runs.push_back({"dome-loft", run});
                }
        (void)job::Store::create(file, document).value();
        open(Stage::log);
        QTRY_VERIFY(child<LogView>("log")->isSettled());
    }
    [[nodiscard]] QString text(const char* name) { return child<QLabel>(name)->text(); }
    void type(const char* field, const QString& words) {
        auto* line = child<QLineEdit>(field);
        line->setFocus();
        line->selectAll();
        QTest::keyClick(line, Qt::Key_Delete);
        QTest::keyClicks(line, words);
        QTest::keyClick(line, Qt::Key_Return);
        QCoreApplication::processEvents();
        QTRY_VERIFY(child<LogView>("log")->isSettled());
    }
    [[nodiscard]] QTableWidget* list() { return child<QTableWidget>("log-list"); }
};

} // namespace

class TestLog : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void withoutRunsItSaysWhatToDo() {
        TestedWindow w;
        house::House h = testing::demoHouse();
        w.create(h);
        w.open(Stage::log);
        QVERIFY2(w.child<QLabel>("log-verdict")->text().startsWith("Nothing was measured yet"),
                 qPrintable(w.child<QLabel>("log-verdict")->text()));
        w.picture("log-empty");
    }
    void runsAreInTimeAndFoundByWords() {
        LogWindow w;
        QCOMPARE(w.list()->rowCount(), 40);
        QCOMPARE(w.child<LogTimeline>("log-timeline")->runs().size(), std::size_t(40));
        // Each with the spread of its seconds.
        for (const TimedRun& r : w.child<LogTimeline>("log-timeline")->runs())
            QVERIFY(r.spread && r.spread->first <= r.goodput && r.goodput <= r.spread->second);
        // The newest first; the strip of time has the oldest first.
        QVERIFY(w.list()->item(0, 0)->data(Qt::UserRole).toString() == "run-39");
        w.picture("log");
        w.list()->setFocus();
        QTest::keyClick(w.list(), Qt::Key_Slash);
        QVERIFY(w.child<QLineEdit>("log-first")->hasFocus());
        w.type("log-first", "hours=18-22 direction=forward");
        QCOMPARE(w.list()->rowCount(), 10);
        QVERIFY2(w.child<QLabel>("status")->text().startsWith("10 entries"),
                 qPrintable(w.child<QLabel>("status")->text()));
        // What cannot be read is said, and changes nothing.
        w.type("log-first", "colour=red");
        QVERIFY2(w.child<QLabel>("status")->text().contains("runs have no “colour”"),
                 qPrintable(w.child<QLabel>("status")->text()));
        QCOMPARE(w.list()->rowCount(), 10);
        w.type("log-first", "loft");
        QCOMPARE(w.list()->rowCount(), 40);
    }
    void theRunOfAMarkIsThatOfTheList() {
        LogWindow w;
        auto* timeline = w.child<LogTimeline>("log-timeline");
        timeline->setFocus();
        QTest::keyClick(timeline, Qt::Key_Left);
        const QString id = w.list()->item(w.list()->currentRow(), 0)->data(Qt::UserRole).toString();
        QTest::keyClick(timeline, Qt::Key_Left);
        QVERIFY(w.list()->item(w.list()->currentRow(), 0)->data(Qt::UserRole).toString() != id);
        QTest::keyClick(timeline, Qt::Key_Right);
        QCOMPARE(w.list()->item(w.list()->currentRow(), 0)->data(Qt::UserRole).toString(), id);
    }
    void twoSetsAreCompared() {
        LogWindow w;
        QVERIFY(!w.child<QWidget>("set-plot")->isVisible());
        w.type("log-first", "hours=8-10");
        w.list()->setFocus();
        QTest::keyClick(w.list(), Qt::Key_V);
        QVERIFY(w.child<QLineEdit>("log-second")->hasFocus());
        w.type("log-second", "hours=18-22");
        QVERIFY2(w.text("log-verdict").startsWith("The second is 50 % slower than the first"),
                 qPrintable(w.text("log-verdict")));
        QVERIFY2(w.text("log-verdict").contains(": real"), qPrintable(w.text("log-verdict")));
        QVERIFY2(w.text("log-differs").contains("the hour: 9 h against 20 h"),
                 qPrintable(w.text("log-differs")));
        const QStringList sets = w.child<SetPlot>("set-plot")->texts();
        QVERIFY2(sets[0].startsWith("First: hours=8-10, 20 runs, median 20"), qPrintable(sets[0]));
        QVERIFY2(sets[1].startsWith("Second: hours=18-22, 20 runs, median 10"), qPrintable(sets[1]));
        w.picture("log-compare");
        w.type("log-second", "");
        QVERIFY(!w.child<QWidget>("set-plot")->isVisible());
    }
    // P offers what the runs allow; one of them fills both fields.
    void comparisonsAreOffered() {
        LogWindow w;
        w.list()->setFocus();
        QTest::keyClick(w.list(), Qt::Key_P);
        auto* presets = w.child<QComboBox>("log-presets");
        QTRY_VERIFY(presets->view()->isVisible());
        const int index = presets->findText("One way against the other");
        QVERIFY(index > 0);
        presets->setCurrentIndex(index);
        Q_EMIT presets->activated(index);
        QTRY_VERIFY(w.child<LogView>("log")->isSettled());
        QCOMPARE(w.child<QLineEdit>("log-first")->text(), QString("route=dome-loft direction=forward"));
        QCOMPARE(w.child<QLineEdit>("log-second")->text(), QString("route=dome-loft direction=backward"));
        QVERIFY(w.child<QWidget>("set-plot")->isVisible());
        presets->hidePopup();
    }
    // X, a reason, Enter: the run stays in the log and counts for nothing, until X or Ctrl+Z takes that back.
    void aRunThatDoesNotCountFeedsNothing() {
        LogWindow w(2);
        w.window.setStage(Stage::trace);
        QVERIFY(w.settle());
        w.window.setStage(Stage::log);
        w.list()->setCurrentCell(0, 0);
        const std::string id = w.list()->item(0, 0)->data(Qt::UserRole).toString().toStdString();
        w.list()->setFocus();
        QTest::keyClick(w.list(), Qt::Key_X);
        auto* reason = w.child<QLineEdit>("log-reason");
        QVERIFY(reason->isVisible() && reason->hasFocus());
        QTest::keyClick(reason, Qt::Key_Return); // without a reason it is not done
        QVERIFY(w.saved().setAside.empty());
        QTest::keyClick(reason, Qt::Key_Escape);
        QVERIFY(!reason->isVisible());
        QTest::keyClick(w.list(), Qt::Key_X);
        QTest::keyClicks(reason, "a door stood on the cable");
        QTest::keyClick(reason, Qt::Key_Return);
        QVERIFY(w.settle());
        const house::House kept = w.saved();
        QCOMPARE(kept.setAside.size(), std::size_t(1));
        QCOMPARE(kept.setAside.front().id, id);
        QCOMPARE(kept.setAside.front().reason, std::string("a door stood on the cable"));
        QCOMPARE(w.list()->rowCount(), 8); // it is still there
        QVERIFY(w.list()->item(0, 5)->text().contains("does not count: a door stood on the cable"));
        QVERIFY(w.list()->item(0, 0)->font().strikeOut());
        // The list of Measure has what counts.
        QCOMPARE(w.child<QTableWidget>("runs")->rowCount(), 7);
        w.type("log-first", "used=no");
        QCOMPARE(w.list()->rowCount(), 1);
        w.type("log-first", "");
        w.list()->setCurrentCell(0, 0);
        QTest::keyClick(w.list(), Qt::Key_X);
        QVERIFY(w.saved().setAside.empty());
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(w.saved().setAside.size(), std::size_t(1));
        // Shift+X: all that the filter leaves.
        w.type("log-first", "hours=18-22");
        w.list()->setFocus();
        QTest::keyClick(w.list(), Qt::Key_X, Qt::ShiftModifier);
        QTest::keyClicks(reason, "before the adapter");
        QTest::keyClick(reason, Qt::Key_Return);
        QVERIFY(w.settle());
        QCOMPARE(w.saved().setAside.size(), std::size_t(4));
    }
    // R makes a trial of the day's runs, which Measure leads through; afterwards the log says what has
    // changed.
    void aDayIsRepeated() {
        LogWindow w(2);
        w.list()->setCurrentCell(w.list()->rowCount() - 1, 0); // the oldest
        w.list()->setFocus();
        QTest::keyClick(w.list(), Qt::Key_R);
        QVERIFY(w.settle());
        const house::House h = w.saved();
        const auto trial = std::find_if(h.trials.begin(), h.trials.end(),
                                        [](const house::Trial& t) { return !t.revisits.empty(); });
        QVERIFY(trial != h.trials.end());
        QCOMPARE(trial->revisits, std::string("2026-05-01"));
        QVERIFY(w.child<QLabel>("trial-instruction")->isVisible()); // led in Measure
        // As if they had been made now: half as fast.
        {
            auto store = job::Store::open(w.file).value();
            int n = 0;
            for (int i = 0; i < 3; ++i)
                for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward}) {
                    benchmark::Run run = testing::steadyRun(d, 50, 4, 0.03, "again-" + std::to_string(++n));
                    run.startedAt = "2026-11-01T10:0" + std::to_string(i) + ":00Z";
                    run.step = trial->steps.front().id;
                    QVERIFY(store.addRun({"dome-loft", run}).has_value());
                }
        }
        w.window.setStage(Stage::log);
        QTRY_VERIFY(w.list()->rowCount() == 14);
        QTRY_VERIFY2(w.text("log-differs").contains("than on 2026-05-01") ||
                         w.text("log-differs").contains("times as fast as on 2026-05-01"),
                     qPrintable(w.text("log-differs")));
        w.picture("log-revisit");
    }
    void tenThousandRunsAreDrawnTogether() {
        LogTimeline timeline;
        timeline.resize(1100, 260);
        std::vector<TimedRun> runs;
        const QDateTime begin(QDate(2026, 1, 1), QTime(0, 0), Qt::UTC);
        for (int i = 0; i < 10'000; ++i) {
            TimedRun t;
            t.id = QString::number(i);
            t.at = begin.addSecs(i * 600);
            t.goodput = quantity::BitRate::megabits(100 + (i % 144) / 2.0);
            t.forward = i % 2 == 0;
            runs.push_back(t);
        }
        timeline.setRuns(runs);
        QElapsedTimer clock;
        clock.start();
        const QImage picture = timeline.grab().toImage();
        const auto took = clock.elapsed();
        QVERIFY2(took < 1000, qPrintable(QString::number(took)));
        // Columns: between them the ground is seen.
        int measured = 0;
        int ground = 0;
        const int y = picture.height() / 2;
        for (int x = 80; x < picture.width() - 40; ++x)
            (picture.pixelColor(x, y) == theme().panel ? ground : measured) += 1;
        Q_UNUSED(measured)
        QVERIFY(ground > 50);
        QTest::keyClick(&timeline, Qt::Key_Left);
    }
    // Months between visits are left out of the line of time.
    void longStretchesOfNothingAreLeftOut() {
        LogTimeline timeline;
        timeline.resize(1000, 240);
        std::vector<TimedRun> runs;
        for (const char* at : {"2025-01-01T10:00:00Z", "2025-01-01T10:10:00Z", "2026-01-01T10:00:00Z",
                               "2026-01-01T10:10:00Z"}) {
            TimedRun t;
            t.id = QString::fromLatin1(at);
            t.at = QDateTime::fromString(QString::fromLatin1(at), Qt::ISODate);
            t.goodput = quantity::BitRate::megabits(300);
            runs.push_back(t);
        }
        timeline.setRuns(runs);
        QSignalSpy chosen(&timeline, &LogTimeline::chosen);
        // The two of one day are far enough apart to be met one by one.
        QStringList met;
        for (int x = 60; x < 1000; x += 5) {
            QTest::mouseClick(&timeline, Qt::LeftButton, {}, QPoint(x, 120));
            if (!chosen.isEmpty() && !met.contains(chosen.last().first().toString()))
                met << chosen.last().first().toString();
        }
        QCOMPARE(met.size(), 4);
    }
    // What was said to be the limit when it was exchanged is noted, with how sure that was.
    void anExchangeIsHeldAgainstWhatWasSaid() {
        LogWindow w(4);
        w.window.setStage(Stage::trace);
        QVERIFY(w.settle());
        const auto limit = w.child<QLabel>("verdict")->text();
        QVERIFY2(limit.contains("front USB socket"), qPrintable(limit));
        auto* strip = w.child<QWidget>("routeStrip");
        strip->setFocus();
        for (int i = 0; i < 60; ++i)
            QTest::keyClick(strip, Qt::Key_Left);
        for (int i = 0; i < 60; ++i) {
            auto* name = w.find<QLineEdit>("label");
            if (name != nullptr && name->text() == "front USB socket") break;
            QTest::keyClick(strip, Qt::Key_Right);
        }
        auto* choice = w.child<QComboBox>("choice");
        choice->setFocus();
        QTest::keyClick(choice, Qt::Key_Down);
        QTest::keyClick(choice, Qt::Key_Return);
        QVERIFY(w.settle());
        const auto changes = w.saved().changes;
        QCOMPARE(changes.size(), std::size_t(1));
        QVERIFY(changes.front().said && *changes.front().said > 0.3 && *changes.front().said <= 1);
        QCOMPARE(changes.front().route, std::string("dome-loft"));
        QVERIFY2(changes.front().text.find("changed from") != std::string::npos,
                 changes.front().text.c_str());
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(w.saved().changes.empty());
    }
    void aWindowClosesWithTheKeyboardInAField() {
        auto w = std::make_unique<LogWindow>(2);
        auto* field = w->child<QLineEdit>("log-first");
        field->setFocus();
        QVERIFY(field->hasFocus());
        QTest::keyClicks(field, "loft");
        w.reset(); // in a debug build Qt says so where a view is called after its end
    }
};

QTEST_MAIN(TestLog)
#include "test_log.moc"
