// Measure in the real window against the stand-ins: kinds of runs, their conditions, the tests on pages of
// their own.
#include "desktop/measure/test_page.h"
#include "desktop/measure/trial_bar.h"
#include "standin/simulated_service.h"
#include "support/measure_window.h"
#include "support/runs.h"

#include <QLineEdit>
#include <QMessageBox>
#include <QSpinBox>
#include <QTableWidget>
#include <QTest>
#include <QTime>
#include <QTimer>
#include <QToolButton>
#include <nlohmann/json.hpp>

using namespace metrodos;
using namespace metrodos::desktop;
using benchmark::Direction;
using benchmark::Protocol;
using testing::MeasureWindow;

class TestMeasure : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() {
        testing::prepareWindows(m_home);
        qputenv("DBUS_SYSTEM_BUS_ADDRESS", "unix:path=/nonexistent"); // no daemon, whatever this machine has
    }

    void bothWaysAtOnceAreOneGroup() {
        MeasureWindow w;
        w.pick("direction", "both ways at once");
        w.pick("seconds", "5 s");
        QVERIFY2(w.run(), qPrintable(w.status()));
        const auto runs = w.runs();
        QCOMPARE(runs.size(), std::size_t(2));
        QVERIFY(!runs[0].config.group.empty());
        QCOMPARE(runs[0].config.group, runs[1].config.group);
        QVERIFY(runs[0].config.direction != runs[1].config.direction);
        QVERIFY(runs[0].complete && runs[1].complete);
        QVERIFY(w.child<QTableWidget>("runs")->item(0, 5)->text().contains("at once"));
        w.picture("together");
    }
    // Three runs of 300, 280 and 250: the rule decides which figure stands large, and can be undone.
    void theRuleOfSummaryIsChosen() {
        MeasureWindow w;
        {
            auto store = job::Store::open(w.file).value();
            for (const double mbps : {300.0, 280.0, 250.0})
                QVERIFY(store.addRun({w.saved().routes.front().id,
                                      testing::steadyRun(Direction::forward, mbps, 4, 0.002,
                                                         "rule-" + std::to_string(static_cast<int>(mbps)))}));
        }
        auto* band = w.child<QWidget>("forwardBand");
        const auto stands = [&](const char* figure) {
            return QTest::qWaitFor([&] { return band->accessibleName().startsWith(figure); }, 5000);
        };
        QVERIFY2(stands("280 Mbit/s"), qPrintable(band->accessibleName()));
        QVERIFY2(band->accessibleName().contains("median of 3 runs"), qPrintable(band->accessibleName()));
        auto* rule = w.child<QComboBox>("summary-rule");
        rule->setFocus();
        QTest::keyClick(rule, Qt::Key_End);
        Q_EMIT rule->activated(rule->currentIndex());
        QVERIFY2(w.status().contains("counted on"), qPrintable(w.status()));
        QCOMPARE(w.saved().measuring.summary, house::SummaryRule::sustained);
        QVERIFY2(stands("25"), qPrintable(band->accessibleName()));
        w.pick("summary-rule", "best run");
        QVERIFY2(stands("300 Mbit/s"), qPrintable(band->accessibleName()));
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QCOMPARE(w.saved().measuring.summary, house::SummaryRule::trimmed);
        QVERIFY(stands("280 Mbit/s"));
    }
    void theFiguresOfARunStandUnderIt() {
        MeasureWindow w;
        w.pick("direction", "forward");
        w.pick("seconds", "5 s");
        QVERIFY2(w.run(), qPrintable(w.status()));
        const QString text = w.child<QLabel>("run-figures")->text().replace(QChar::Nbsp, ' ');
        for (const char* name : {"loaded round trips a minute", "buffer delay", "queue", "TCP efficiency",
                                 "transfer time ratio"})
            QVERIFY2(text.contains(name), qPrintable(text));
        QVERIFY(w.child<QLabel>("run-figures")->toolTip().contains("RFC 6349"));
        w.picture("figures");
    }
    void whatTheMachinesSayGoesIntoTheHouse() {
        MeasureWindow w(false, [](house::House& h) {
            h.port({"loft-workstation", "usb-front"})->phy.clear();
        });
        const auto socket = [&] {
            return job::readJob(w.file).value().house.port({"loft-workstation", "usb-front"})->phy;
        };
        w.pick("direction", "forward");
        w.pick("seconds", "5 s");
        QCOMPARE(socket(), std::string());
        QVERIFY2(w.run(), qPrintable(w.status()));
        QCOMPARE(socket(), std::string("usb2"));
        // The machine said so: nobody is asked to read it.
        const house::House read = w.saved();
        QVERIFY(std::any_of(read.connections.begin(), read.connections.end(), [](const house::Connection& c) {
            return c.medium == house::Medium::bus && c.linkedAt == quantity::BitRate::megabits(480);
        }));
        const QString remark = w.child<QLabel>("remark")->text();
        QVERIFY2(remark.contains("is made for USB 3 and runs as USB 2"), qPrintable(remark));
        QVERIFY2(remark.contains("Read from the machines: ") && remark.contains("runs as USB 2"),
                 qPrintable(remark));
        w.picture("facts");
        // The same again is nothing new, and undo takes it back.
        QVERIFY(w.run());
        QVERIFY(!w.child<QLabel>("remark")->text().contains("Read from the machines"));
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QCOMPARE(socket(), std::string());
    }
    void whatCannotBeIsFlagged() {
        MeasureWindow w(false, [](house::House& h) {
            // The survey says less of a port than the machine has.
            for (house::Device& d : h.devices)
                for (house::Port& p : d.ports)
                    if (p.kind == house::PortKind::ethernet) p.phy = "100base-tx";
        });
        w.pick("seconds", "5 s");
        w.pick("direction", "forward");
        QVERIFY2(w.run(), qPrintable(w.status()));
        // The machines say what their ports are; another port on the way is still wrong in the survey.
        QVERIFY2(w.child<QLabel>("remark")->text().contains("is more than"),
                 qPrintable(w.child<QLabel>("remark")->text()));
        QVERIFY(w.child<QTableWidget>("runs")->item(0, 5)->text().startsWith("not physically possible"));
    }
    void onTheBenchTheMachinesSayNothingOfTheHouse() {
        MeasureWindow w(false, [](house::House& h) {
            h.port({"loft-workstation", "usb-front"})->phy.clear();
        });
        w.click("plan-trial");
        w.child<QSpinBox>("trial-repeats")->setValue(1);
        w.pick("trial-seconds", "1 s");
        w.click("begin-trial");
        QVERIFY2(w.run(), qPrintable(w.status()));
        QVERIFY(w.runs().front().config.arrangement.setup == house::Setup::baseline);
        QVERIFY(job::readJob(w.file).value().house.port({"loft-workstation", "usb-front"})->phy.empty());
    }
    void theServiceIsATestOfItsOwn() {
        house::House truth = job::readJob(testing::dataPath("demo/quarry-house.json")).value().house;
        standin::SimulationSettings settings;
        settings.house = [truth] { return truth; };
        settings.catalog = catalog::loadDefault().value();
        const auto service = standin::SimulatedService::start(std::move(settings)).value();
        MeasureWindow w(false,
                        [&](house::House& h) { h.service->testUrl = service->url() + "/study-laptop-end"; });
        w.pick("routes", "Study to the service");
        w.pick("direction", "both ways in turn");
        w.pick("seconds", "5 s");
        w.child<QSpinBox>("streams")->setValue(4);
        QVERIFY2(w.run(), qPrintable(w.status()));
        const auto runs = w.runs();
        QCOMPARE(runs.size(), std::size_t(2));
        // Forward goes to the service: up; it is the slower one in this house.
        QVERIFY(runs[0].config.direction == Direction::forward);
        QVERIFY2(runs[0].goodput < runs[1].goodput, qPrintable(QString::number(runs[0].goodput.bps())));
        QVERIFY(runs[0].simulated && runs[0].complete && runs[1].complete);
        w.picture("service");
        w.pick("protocol", "datagrams");
        w.child<QLineEdit>("rate")->setText("10M");
        w.space();
        QTRY_VERIFY2(w.status().contains("TCP without a pace"), qPrintable(w.status()));
    }
    void aServiceWithoutAddressIsSaid() {
        MeasureWindow w;
        w.pick("routes", "Study to the service");
        w.space();
        QTRY_VERIFY2(w.status().contains("no test address"), qPrintable(w.status()));
    }
    // The tests beside the runs: found, kept, drawn again after opening, removed.
    void allPairsAreMeasured() {
        MeasureWindow w;
        w.window.setPage(Page::matrix);
        w.pick("matrix-seconds", "2 s");
        w.test("matrix");
        const auto reports = job::readJob(w.file).value().reports;
        QCOMPARE(reports.size(), std::size_t(1));
        const auto body = nlohmann::json::parse(reports[0].body);
        QCOMPARE(body.at("cells").size(), std::size_t(12));
        QVERIFY(body.at("simulated").get<bool>());
        QVERIFY2(w.child<QLabel>("matrix-headline")->text().contains("Mbit/s"),
                 qPrintable(w.child<QLabel>("matrix-headline")->text()));
        w.picture("matrix");
        // Cells that were chosen by keyboard run at once: the first row's first two, over the diagonal and
        // back.
        auto* page = w.child<TestPage>("matrix");
        auto* drawing = w.child<QWidget>("matrix-drawing");
        drawing->setFocus();
        for (const Qt::Key key :
             {Qt::Key_Return, Qt::Key_Right, Qt::Key_Return, Qt::Key_Right, Qt::Key_Return, Qt::Key_Return,
              Qt::Key_Up, Qt::Key_Left, Qt::Key_Left, Qt::Key_Left})
            QTest::keyClick(drawing, key);
        w.test("matrix");
        const auto both = nlohmann::json::parse(job::readJob(w.file).value().reports.back().body);
        QCOMPARE(both.at("at_once").size(), std::size_t(2));
        QVERIFY(both.at("at_once").at(0).at("from") == 0 && both.at("at_once").at(0).at("to") == 1);
        QVERIFY(both.at("at_once").at(1).at("from") == 0 && both.at("at_once").at(1).at("to") == 2);
        QVERIFY2(page->text().contains("at once"), qPrintable(page->text()));
        w.picture("matrix-at-once");
        const QString before = page->text();
        w.open(Stage::measure);
        QCOMPARE(page->text(), before);
        w.click("matrix-remove");
        w.click("matrix-remove");
        QVERIFY(job::readJob(w.file).value().reports.empty());
        QVERIFY(w.child<QLabel>("matrix-headline")->text().isEmpty());
    }
    // What has lasted a second says how long it will go on.
    void aLongTestSaysTimeLeft() {
        MeasureWindow w;
        w.window.setPage(Page::matrix);
        w.child<QSpinBox>("matrix-repeats")->setValue(20);
        const auto* progress = w.child<QLabel>("matrix-progress");
        bool said = false;
        QTimer timer;
        connect(&timer, &QTimer::timeout, progress,
                [&] { said = said || progress->text().endsWith(" left"); });
        timer.start(10);
        w.test("matrix");
        QVERIFY(said);
    }
    void theHighestPaceIsFound() {
        MeasureWindow w;
        w.window.setPage(Page::search);
        w.child<QLineEdit>("search-high")->setText("fast");
        w.space();
        QTRY_VERIFY2(w.status().contains("no pace for datagrams"), qPrintable(w.status()));
        w.child<QLineEdit>("search-high")->setText("1G");
        w.test("search");
        const auto body = nlohmann::json::parse(job::readJob(w.file).value().reports.at(0).body);
        // The front USB 2 socket of the loft is the limit.
        const double best = body.at("best_bps").get<double>();
        QVERIFY2(best > 250e6 && best < 360e6, qPrintable(QString::number(best)));
        QVERIFY(w.child<QLabel>("search-headline")->text().contains("loss-free rate"));
        w.picture("search");
    }
    void aWatchOfHoursIsKept() {
        MeasureWindow w;
        w.window.setPage(Page::watch);
        w.child<QLineEdit>("watch-for")->setText("10 min");
        w.test("watch");
        const auto body = nlohmann::json::parse(job::readJob(w.file).value().reports.at(0).body);
        QVERIFY(body.at("seconds").get<double>() > 10 * 60 - 5);
        QVERIFY(w.child<QLabel>("watch-headline")->text().contains("10.0 min"));
        w.picture("watch");
        // A long one is stopped by the same key, and what there is of it is kept.
        auto* button = w.startLongWatch();
        QTRY_VERIFY(w.child<QLabel>("watch-progress")->text().contains(" of "));
        w.space();
        QTRY_VERIFY_WITH_TIMEOUT(button->text().startsWith("Run"), 5000);
        QCOMPARE(job::readJob(w.file).value().reports.size(), std::size_t(2));
    }
    void aWatchIsInTheJobWhileItGoesOn() {
        MeasureWindow w;
        w.window.setPage(Page::watch);
        auto* button = w.startLongWatch();
        // What a pulled plug would leave.
        QTRY_COMPARE_WITH_TIMEOUT(job::readJob(w.file).value().reports.size(), std::size_t(1), 10'000);
        const auto body = nlohmann::json::parse(job::readJob(w.file).value().reports.at(0).body);
        QVERIFY(body.at("seconds").get<double>() >= 60);
        // Closing asks once.
        w.window.close();
        QVERIFY(w.window.isVisible());
        QTRY_VERIFY(w.find<QMessageBox>("closing") != nullptr);
        QVERIFY(w.find<QMessageBox>("closing")->text().contains("but for the last minute"));
        w.window.close();
        QCOMPARE(w.window.findChildren<QMessageBox*>("closing").size(), 1);
        w.find<QMessageBox>("closing")->reject();
        QTRY_VERIFY(w.find<QMessageBox>("closing") == nullptr);
        QVERIFY(button->text().startsWith("Stop")); // it goes on
        w.window.close();
        QTRY_VERIFY(w.find<QAbstractButton>("end-and-close") != nullptr);
        w.click("end-and-close");
        QTRY_VERIFY(!w.window.isVisible());
        QCOMPARE(job::readJob(w.file).value().reports.size(), std::size_t(1)); // still the one
    }
    void aFileIsCopiedBesideTheNetwork() {
        MeasureWindow w;
        w.pick("seconds", "5 s");
        w.pick("direction", "forward");
        QVERIFY(w.run());
        w.window.setPage(Page::copy);
        w.space();
        QTRY_VERIFY2(w.status().contains("no folder was chosen"), qPrintable(w.status()));
        w.child<QLineEdit>("copy-folder")->setText(w.folder.path());
        w.pick("copy-size", "10 MB");
        w.test("copy");
        const auto body = nlohmann::json::parse(job::readJob(w.file).value().reports.at(0).body);
        QVERIFY(body.at("network_bps").get<double>() > 0);
        QVERIFY(w.child<QLabel>("copy-headline")->text().contains("MB/s") ||
                w.child<QLabel>("copy-headline")->text().contains("GB/s"));
        w.picture("copy");
    }
    void machinesHaveAddresses() {
        MeasureWindow w;
        w.window.setPage(Page::machines);
        auto* table = w.child<QTableWidget>("machine-table");
        QCOMPARE(table->rowCount(), 4);
        table->item(0, 1)->setText("not an address at all");
        QVERIFY2(w.status().contains("Not done"), qPrintable(w.status()));
        table->item(0, 1)->setText("here");
        QCOMPARE(job::readJob(w.file).value().house.endpoints[0].address, std::string("here"));
        QCOMPARE(table->item(0, 2)->text(), QString("this machine"));
        w.picture("machines");
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QVERIFY(job::readJob(w.file).value().house.endpoints[0].address != "here");
        // Where the system has no service that finds machines by name, it says so, and the button is free
        // again.
        w.click("look");
        QVERIFY(!w.child<QAbstractButton>("look")->isEnabled());
        QVERIFY(QTest::qWaitFor([&] { return w.child<QAbstractButton>("look")->isEnabled(); }, 10'000));
        QVERIFY2(w.status().contains("type their addresses"), qPrintable(w.status()));
    }
    void oneTestAtATime() {
        MeasureWindow w;
        w.window.setPage(Page::watch);
        auto* button = w.startLongWatch();
        w.window.setPage(Page::runs);
        QTest::keyClick(&w.window, Qt::Key_Space);
        QTRY_VERIFY2(w.status().contains("another test is running"), qPrintable(w.status()));
        w.window.setPage(Page::watch);
        w.space();
        QTRY_VERIFY_WITH_TIMEOUT(button->text().startsWith("Run"), 5000);
    }
    void datagramsGoAtTheirPace() {
        MeasureWindow w;
        w.pick("protocol", "datagrams");
        w.pick("direction", "forward");
        w.pick("seconds", "5 s");
        w.child<QLineEdit>("rate")->setText("quick");
        w.space();
        QVERIFY2(w.status().contains("no pace"), qPrintable(w.status()));
        QVERIFY(w.runs().empty());
        w.child<QLineEdit>("rate")->setText("100M");
        QVERIFY2(w.run(), qPrintable(w.status()));
        const auto runs = w.runs();
        QCOMPARE(runs.size(), std::size_t(1));
        QCOMPARE(runs[0].config.protocol, Protocol::udp);
        QCOMPARE(runs[0].config.rate->inMegabits(), 100.0);
        QVERIFY(runs[0].datagrams && runs[0].datagrams->lossRatio() < 0.001);
        QVERIFY(w.child<QTableWidget>("runs")->item(0, 2)->text().contains("100M"));
        QVERIFY2(w.child<QLabel>("remark")->text().contains("arrived"),
                 qPrintable(w.child<QLabel>("remark")->text()));
        QVERIFY(!w.child<QSpinBox>("streams")->isVisible());
        // Datagrams at a pace say nothing about the limit; the expectation stays.
        QVERIFY2(w.status().startsWith("Expected limit"), qPrintable(w.status()));
    }
    void whatHeldItBackIsSaid() {
        MeasureWindow w;
        w.pick("direction", "forward");
        w.pick("seconds", "5 s");
        QVERIFY(w.run());
        QVERIFY2(w.child<QLabel>("remark")->text().contains("Held back by"),
                 qPrintable(w.child<QLabel>("remark")->text()));
        w.picture("remark");
    }
    void conditionsAreKeptWithTheRun() {
        MeasureWindow w;
        w.pick("direction", "forward");
        w.pick("seconds", "1 s");
        w.child<QWidget>("run")->setFocus();
        auto* conditions = w.child<QToolButton>("conditions");
        QVERIFY(conditions->text().contains("?"));
        QTest::keyClick(&w.window, Qt::Key_O);
        QVERIFY2(conditions->text().contains("Other users: none"), qPrintable(conditions->text()));
        QTest::keyClick(&w.window, Qt::Key_O);
        QVERIFY2(conditions->text().contains("Other users: yes"), qPrintable(conditions->text()));
        Q_EMIT conditions->menu()->aboutToShow();
        for (QAction* action : conditions->menu()->actions())
            if (action->isCheckable() && !action->isChecked()) {
                action->trigger();
                break;
            }
        // A opens that list; G asks what was changed, in the window itself.
        QTimer::singleShot(100, conditions->menu(), &QWidget::close);
        QTest::keyClick(w.child<QWidget>("run"), Qt::Key_A);
        auto* change = w.child<QLineEdit>("run-change");
        QTest::keyClick(w.child<QWidget>("run"), Qt::Key_G);
        QVERIFY(change->isVisible() && change->hasFocus());
        QTest::keyClicks(change, "another lead");
        QTest::keyClick(change, Qt::Key_Escape);
        QVERIFY(!change->isVisible() && !conditions->text().contains("changed"));
        QTest::keyClick(w.child<QWidget>("run"), Qt::Key_G);
        change->selectAll();
        QTest::keyClicks(change, "another lead");
        QTest::keyClick(change, Qt::Key_Return);
        QVERIFY2(conditions->text().contains("one thing changed"), qPrintable(conditions->text()));
        QVERIFY(w.run());
        const auto c = w.runs().front().conditions;
        QCOMPARE(c.changed, std::string("another lead"));
        QVERIFY(!conditions->text().contains("changed")); // of one run only
        QCOMPARE(c.othersActive, std::optional(true));
        QCOMPARE(c.appliances.size(), std::size_t(1));
        QVERIFY(c.hour && *c.hour == QTime::currentTime().hour());
    }
};

QTEST_MAIN(TestMeasure)
#include "test_measure.moc"
