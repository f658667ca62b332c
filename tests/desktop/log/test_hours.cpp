// Log, page Hours, in the real window: schedules by the window and by the agents, calendars, the week.
#include "desktop/log/hours_page.h"
#include "desktop/log/week_grid.h"
#include "desktop/model/schedule_clock.h"
#include "quantity/moment.h"
#include "support/measure_window.h"
#include "support/runs.h"

#include <QFile>
#include <QSpinBox>
#include <QTableWidget>

using namespace metrodos;
using namespace metrodos::desktop;
using testing::MeasureWindow;
using testing::TestedWindow;

namespace {

// Begun a minute ago, so that its first runs are due.
house::Schedule dueNow(bool unattended) {
    house::Schedule s;
    s.id = "schedule";
    s.label = "Hourly";
    s.route = "dome-loft";
    s.from = quantity::utcText(*quantity::utcSeconds(quantity::utcNow()) - 60);
    s.seconds = 1;
    s.unattended = unattended;
    return s;
}

struct HoursWindow : MeasureWindow {
    explicit HoursWindow(const std::function<void(house::House&)>& survey = [](house::House&) {})
        : MeasureWindow(false, survey) {
        window.setStage(Stage::log);
        window.setPage(Page::hours);
    }
    [[nodiscard]] QTableWidget* schedules() { return child<QTableWidget>("schedules"); }
    [[nodiscard]] QString text(const char* name) { return child<QLabel>(name)->text(); }
    [[nodiscard]] QString line() { return child<QLabel>("status")->text(); }
    void key(Qt::Key k) {
        schedules()->setFocus();
        QTest::keyClick(schedules(), k);
    }
};

} // namespace

class TestHours : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void aScheduleIsAddedAndTakenOutByKeyboard() {
        HoursWindow w;
        QVERIFY2(w.line().startsWith("No runs are scheduled; A adds"), qPrintable(w.line()));
        QVERIFY(w.text("hours-findings").contains("press A"));
        w.child<QSpinBox>("schedule-every")->setValue(30);
        w.child<QSpinBox>("schedule-for")->setValue(48);
        w.child<QSpinBox>("schedule-seconds")->setValue(4);
        w.key(Qt::Key_A);
        const house::House kept = w.saved();
        QCOMPARE(kept.schedules.size(), std::size_t(1));
        const house::Schedule s = kept.schedules.front();
        QVERIFY(s.everyMinutes == 30 && s.hours == 48 && s.seconds == 4 && !s.unattended);
        QCOMPARE(s.route, w.child<QComboBox>("hours-route")->currentData().toString().toStdString());
        const auto begins = *quantity::utcSeconds(s.from) - *quantity::utcSeconds(quantity::utcNow());
        QVERIFY(begins > -2 && begins <= 60 && *quantity::utcSeconds(s.from) % 60 == 0);
        QCOMPARE(w.schedules()->rowCount(), 1);
        QVERIFY2(w.schedules()->item(0, 2)->text().startsWith("96, every 30 min, 4 s"),
                 qPrintable(w.schedules()->item(0, 2)->text()));
        w.picture("hours-schedule");
        // One that would never let the house rest is refused, in one sentence.
        w.child<QSpinBox>("schedule-every")->setValue(1);
        w.child<QSpinBox>("schedule-seconds")->setValue(60);
        w.key(Qt::Key_A);
        QVERIFY2(w.line().contains("more than a quarter of the time"), qPrintable(w.line()));
        QCOMPARE(w.saved().schedules.size(), std::size_t(1));
        w.key(Qt::Key_Delete);
        QVERIFY(w.saved().schedules.empty());
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(w.saved().schedules.size(), std::size_t(1));
    }
    // While it is open the window makes the runs by itself, once for each time.
    void theWindowMakesItsRuns() {
        HoursWindow w([](house::House& h) { h.schedules = {dueNow(false)}; });
        QTRY_VERIFY_WITH_TIMEOUT(w.runs().size() == 2 && w.runs().back().complete, 20'000);
        const auto runs = w.runs();
        QCOMPARE(runs[0].step, std::string("schedule"));
        QVERIFY(runs[0].config.direction == benchmark::Direction::forward);
        QVERIFY(runs[1].config.direction == benchmark::Direction::backward);
        QVERIFY(runs[0].conditions.hour.has_value() && runs[0].config.seconds == 1);
        QTest::qWait(2500); // looked at twice more
        QCOMPARE(w.runs().size(), std::size_t(2));
        QTRY_VERIFY(w.text("hours-hour").contains("h: "));
    }
    // What is due is taken once; what could not be begun comes again after half a minute, as long as it is
    // due.
    void whatCouldNotBeBegunIsDueAgain() {
        house::House h;
        house::Schedule s = dueNow(false);
        const std::int64_t from = *quantity::utcSeconds(s.from);
        h.schedules = {s};
        ScheduleClock clock;
        QVERIFY(!clock.take(h, {}, from - 1));
        QVERIFY(clock.take(h, {}, from));
        QVERIFY(!clock.take(h, {}, from + 1));
        clock.postpone(s.id, from + 1);
        QVERIFY(!clock.take(h, {}, from + 30));
        QVERIFY(clock.take(h, {}, from + 31));
        QVERIFY(clock.take(h, {}, from + 3600)); // the next time
        clock.forget();
        QVERIFY(clock.take(h, {}, from + 3600));
        // A run of that time that is there already, from before the window was closed.
        ScheduleClock other;
        benchmark::Run run = testing::steadyRun(benchmark::Direction::forward, 100);
        run.step = s.id;
        run.startedAt = quantity::utcText(from + 5);
        QVERIFY(!other.take(h, {{"dome-loft", run}}, from + 10));
        h.schedules.front().unattended = true; // an agent's
        QVERIFY(!ScheduleClock().take(h, {}, from));
    }
    // The agent at the first end makes them, and hands them over when it is asked.
    void theAgentMakesThemUnattended() {
        HoursWindow w([](house::House& h) { h.schedules = {dueNow(true)}; });
        w.key(Qt::Key_C); // before it has them
        QTRY_VERIFY2(w.line().contains("has no such schedule"), qPrintable(w.line()));
        w.key(Qt::Key_G);
        QTRY_VERIFY2(w.line().startsWith("The agent has it"), qPrintable(w.line()));
        QVERIFY(w.runs().empty());
        bool collected = false; // at once, or each as it is made
        for (int turn = 0; turn < 20 && !collected; ++turn) {
            w.key(Qt::Key_C);
            QTRY_VERIFY2(w.line().contains("collected"), qPrintable(w.line()));
            collected = QTest::qWaitFor([&] { return w.runs().size() == 2; }, 1000);
        }
        QVERIFY2(collected, qPrintable(w.line()));
        QCOMPARE(w.runs().front().step, std::string("schedule"));
        QVERIFY(w.runs().front().simulated); // a stand-in says so
        QTRY_COMPARE(w.saved().schedules.front().collected, std::int64_t(2));
        // What was collected does not come twice.
        w.key(Qt::Key_C);
        QTRY_VERIFY2(w.line().startsWith("0 runs collected"), qPrintable(w.line()));
        QCOMPARE(w.runs().size(), std::size_t(2));
        w.key(Qt::Key_B);
        QTRY_VERIFY2(w.line().startsWith("The agent makes no more runs"), qPrintable(w.line()));
        w.key(Qt::Key_C);
        QTRY_VERIFY2(w.line().contains("has no such schedule"), qPrintable(w.line()));
        w.picture("hours-collected");
    }
    void whatCannotBeGivenIsSaid() {
        HoursWindow w([](house::House& h) {
            house::Schedule s = dueNow(false);
            s.from = "2030-01-01T00:00:00Z";
            h.schedules = {s};
        });
        w.key(Qt::Key_G);
        QVERIFY2(w.line().contains("made by the window"), qPrintable(w.line()));
        w.key(Qt::Key_C);
        QVERIFY2(w.line().contains("choose a schedule that an agent has"), qPrintable(w.line()));
        HoursWindow here([](house::House& h) {
            h.schedules = {dueNow(true)};
            for (house::Endpoint& e : h.endpoints)
                if (e.id == h.routes.front().from) e.address = "here";
        });
        here.key(Qt::Key_G);
        QTRY_VERIFY2(here.line().contains("both ends have to be agents"), qPrintable(here.line()));
    }
    void schedulesGoToCalendarsAndBack() {
        HoursWindow w([](house::House& h) {
            house::Schedule s = dueNow(false);
            s.from = "2030-01-01T00:00:00Z";
            h.schedules = {s};
        });
        auto* page = w.child<HoursPage>("hours");
        const QString file = w.folder.filePath("plan.ics");
        page->exportTo(file);
        QVERIFY2(w.line().contains("plan.ics"), qPrintable(w.line()));
        page->importFrom(file);
        QCOMPARE(w.saved().schedules.size(), std::size_t(2));
        QCOMPARE(w.saved().schedules[1].from, std::string("2030-01-01T00:00:00Z"));
        page->importFrom(w.folder.filePath("nothing.ics"));
        QVERIFY2(w.line().contains("cannot be read"), qPrintable(w.line()));
        QFile junk(w.folder.filePath("junk.ics"));
        QVERIFY(junk.open(QIODevice::WriteOnly));
        junk.write("BEGIN:NOTHING");
        junk.close();
        page->importFrom(junk.fileName());
        QVERIFY2(w.line().contains("choose"), qPrintable(w.line()));
        QCOMPARE(w.saved().schedules.size(), std::size_t(2));
    }
    void theWeekIsReadHourByHour() {
        TestedWindow w;
        house::House h = testing::demoHouse();
        h.appliances = {{"saw", "saw", "", "", {}}};
        job::Document document{h, {}};
        const std::int64_t monday = 1'777'852'800; // 2026-05-04T00:00:00Z
        for (int hour = 0; hour < 7 * 24; ++hour) {
            const bool saw = hour % 24 >= 9 && hour % 24 < 12;
            benchmark::Run run = testing::steadyRun(benchmark::Direction::forward, saw ? 60 : 100, 4, 0.02,
                                                    "run-" + std::to_string(hour));
            run.startedAt = quantity::utcText(monday + hour * 3600);
            if (saw) run.conditions.appliances = {"saw"};
            document.runs.push_back({"workshop-loft", run});
        }
        w.file = w.folder.filePath("house.metrodos").toStdString();
        (void)job::Store::create(w.file, document).value();
        w.open(Stage::log);
        w.window.setPage(Page::hours);
        QVERIFY(w.settle());
        // The way with the runs is chosen by itself.
        QCOMPARE(w.child<QComboBox>("hours-route")->currentData().toString(), QString("workshop-loft"));
        auto* week = w.child<WeekGrid>("week");
        week->setFocus();
        QTest::keyClick(week, Qt::Key_Down);
        QTest::keyClick(week, Qt::Key_Right);
        QCOMPARE(week->day(), 1);
        QCOMPARE(week->hour(), 13);
        QVERIFY2(week->text().contains("1 run, 100 Mbit/s"), qPrintable(week->text()));
        QCOMPARE(w.child<QLabel>("hours-hour")->text(), week->text());
        for (int i = 0; i < 10; ++i)
            QTest::keyClick(week, Qt::Key_Down);
        QCOMPARE(week->day(), 6); // it ends there
        QVERIFY2(w.child<QLabel>("hours-findings")->text().contains("While “saw” ran the way carried 0.6"),
                 qPrintable(w.child<QLabel>("hours-findings")->text()));
        // The other direction has nothing.
        w.child<QComboBox>("hours-direction")->setCurrentIndex(1);
        QVERIFY(week->text().contains("nothing was measured"));
        w.picture("hours-week");
    }
};

QTEST_MAIN(TestHours)
#include "test_hours.moc"
