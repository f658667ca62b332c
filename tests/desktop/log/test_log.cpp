// The stage Log in the real window: every run in time, found by words, and two sets against each other.
#include "desktop/log/log_timeline.h"
#include "desktop/log/log_view.h"
#include "desktop/widgets/range_list.h"
#include "support/measure_window.h"
#include "support/runs.h"

#include <QLineEdit>
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
        QVERIFY2(w.text("log-verdict").startsWith("10 runs of 40"), qPrintable(w.text("log-verdict")));
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
        QVERIFY(!w.child<QWidget>("log-ranges")->isVisible());
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
        const auto rows = w.child<RangeList>("log-ranges")->rows();
        QCOMPARE(rows.size(), std::size_t(2));
        QVERIFY(rows[0].forward->p50.inMegabits() > 190 && rows[1].forward->p50.inMegabits() < 110);
        w.picture("log-compare");
        w.type("log-second", "");
        QVERIFY(!w.child<QWidget>("log-ranges")->isVisible());
    }
};

QTEST_MAIN(TestLog)
#include "test_log.moc"
