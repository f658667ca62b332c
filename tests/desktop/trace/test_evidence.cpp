// Evidence that is no run, in the real window: PHY rates that are noted, tests at another outlet, codes for
// key and address, and the disks that real runs do not reach.
#include "desktop/measure/code_panel.h"
#include "desktop/measure/prepared_test.h"
#include "support/code_picture.h"
#include "support/measure_window.h"
#include "support/runs.h"

#include <QImage>
#include <QLineEdit>
#include <QTableWidget>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

// Declines tests until one whose description holds `words` is first.
bool reach(MeasureWindow& w, const QString& words) {
    for (int i = 0; i < 25; ++i) {
        if (!QTest::qWaitFor([&] { return w.window.isSettled(); }, 10'000)) return false;
        QCoreApplication::processEvents();
        if (w.child<QLabel>("nextTest")->text().contains(words)) return true;
        if (!w.child<QAbstractButton>("declineTest")->isVisible()) return false;
        w.click("declineTest");
    }
    return false;
}

} // namespace

class TestEvidence : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { prepareWindows(m_home); }

    void aDeclinedTestStaysDeclinedUntilItIsTakenBack() {
        MeasureWindow w(false, [](house::House&) {});
        w.window.setStage(Stage::trace);
        QVERIFY(w.settle());
        const auto next = [&] {
            w.settle();
            return w.child<QLabel>("nextTest")->text();
        };
        const QString first = next();
        QTest::keyClick(&w.window, Qt::Key_N, Qt::ShiftModifier);
        const QString second = next();
        QVERIFY(second != first);
        QCOMPARE(w.saved().routes[0].declined.size(), std::size_t(1));
        w.window.openJob(w.file); // as if the program had ended
        w.window.setStage(Stage::trace);
        QCOMPARE(next(), second);
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(next(), first);
        QVERIFY(w.saved().routes[0].declined.empty());
    }

    void eachDirectionHasItsLimitAndWhatLiftsIt() {
        house::House h = demoHouse();
        h.device("loft-workstation")->ports[0].phy = "usb3-5g"; // the socket is as it should be
        TestedWindow w;
        w.file = w.folder.filePath("two.metrodos").toStdString();
        benchmark::RouteRuns runs;
        for (const auto& [d, mbps] :
             {std::pair(benchmark::Direction::forward, 1840.0), {benchmark::Direction::backward, 2352.0}})
            for (int n = 0; n < 2; ++n)
                runs.push_back(
                    {"dome-loft", steadyRun(d, mbps, 4, 0.002, benchmark::name(d) + std::to_string(n))});
        QVERIFY(job::Store::create(w.file, {h, runs}).has_value());
        w.open(Stage::trace);
        QVERIFY(w.settle());
        QVERIFY2(w.status().contains("old aerial coax") && w.status().contains("; back it is "),
                 qPrintable(w.status()));
        QVERIFY2(
            w.child<QLabel>("verdict")->text().startsWith("The limit is: forward old aerial coax, back "),
            qPrintable(w.child<QLabel>("verdict")->text()));
        QVERIFY2(w.child<QLabel>("replacing")->text().contains("Replace "),
                 qPrintable(w.child<QLabel>("replacing")->text()));
    }
    // A verdict that is doubted: from its evidence to the runs, which may be left out with a reason.
    void evidenceOpensTheRunsThatItStandsOn() {
        TestedWindow w;
        w.file = w.folder.filePath("doubt.metrodos").toStdString();
        benchmark::RouteRuns runs;
        for (const double mbps : {300.0, 310.0})
            runs.push_back({"dome-loft", steadyRun(benchmark::Direction::forward, mbps, 4, 0.002,
                                                   "run-" + std::to_string(static_cast<int>(mbps)))});
        QVERIFY(job::Store::create(w.file, {demoHouse(), runs}).has_value());
        w.open(Stage::trace);
        QVERIFY(w.settle());
        QVERIFY2(w.child<QLabel>("trace-figures")->text().contains("Sold against measured: forward"),
                 qPrintable(w.child<QLabel>("trace-figures")->text()));
        auto* evidence = w.child<QWidget>("evidence");
        QVERIFY(evidence->focusPolicy() == Qt::TabFocus);
        w.picture("evidence");
        evidence->setFocus();
        QTest::keyClick(evidence, Qt::Key_Return);
        auto* list = w.child<QTableWidget>("runs");
        QVERIFY(list->isVisible() && list->hasFocus());
        QVERIFY2(w.child<QLabel>("status")->text().contains("stand"), qPrintable(w.status()));
        QVERIFY(!list->selectionModel()->selectedRows().isEmpty());
        // It was measured over the wrong cable: X, and why.
        const std::string id = list->item(list->currentRow(), 0)->data(Qt::UserRole).toString().toStdString();
        QTest::keyClick(list, Qt::Key_X);
        auto* reason = w.child<QLineEdit>("run-reason");
        QVERIFY(reason->isVisible() && reason->hasFocus());
        QTest::keyClick(reason, Qt::Key_Return);
        QVERIFY2(w.child<QLabel>("status")->text().contains("why"), qPrintable(w.status()));
        QTest::keyClick(reason, Qt::Key_Escape);
        QVERIFY(!reason->isVisible() && w.saved().setAside.empty());
        list->selectRow(list->currentRow()); // only this one
        QTest::keyClick(list, Qt::Key_X);
        QTest::keyClicks(reason, "over the wrong cable");
        QTest::keyClick(reason, Qt::Key_Return);
        QCOMPARE(w.saved().setAside.size(), std::size_t(1));
        QCOMPARE(w.saved().setAside.front().id, id);
        QCOMPARE(list->rowCount(), 1);
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QVERIFY(w.saved().setAside.empty());
        QTRY_COMPARE(list->rowCount(), 2);
        // Several at once are one change.
        list->selectAll();
        QTest::keyClick(list, Qt::Key_X);
        QTest::keyClicks(reason, "the cat slept on it");
        QTest::keyClick(reason, Qt::Key_Return);
        QCOMPARE(w.saved().setAside.size(), std::size_t(2));
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QVERIFY(w.saved().setAside.empty());
    }
    // Slow only while others work: N sets up both routes, and Space runs them at once.
    void twoRoutesAtOnceAreOneKeyAway() {
        MeasureWindow w;
        {
            auto store = job::Store::open(w.file).value();
            for (const bool busy : {false, true})
                for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward}) {
                    benchmark::Run run =
                        steadyRun(d, busy ? 150 : 310, 4, 0.01,
                                  benchmark::name(d) + std::string(busy ? "-busy" : "-quiet"));
                    run.conditions.othersActive = busy;
                    QVERIFY(store.addRun({"dome-loft", run}));
                }
        }
        w.window.setStage(Stage::trace);
        QTRY_VERIFY2(w.child<QLabel>("nextTest")->text().contains("at the same time"),
                     qPrintable(w.child<QLabel>("nextTest")->text()));
        QTest::keyClick(&w.window, Qt::Key_N);
        QVERIFY2(w.status().contains("Both are chosen: press Space"), qPrintable(w.status()));
        QVERIFY(w.child<QAbstractButton>("matrix-only")->isChecked());
        w.pick("matrix-seconds", "2 s");
        w.test("matrix");
        const auto reports = job::readJob(w.file).value().reports;
        QCOMPARE(reports.size(), std::size_t(1));
        const auto body = nlohmann::json::parse(reports[0].body);
        QCOMPARE(body.at("cells").size(), std::size_t(2));
        QCOMPARE(body.at("at_once").size(), std::size_t(2));
        w.picture("together");
    }
    void whatASocketSaysIsNotedInOneStep() {
        MeasureWindow w(false, [](house::House& h) {
            for (house::Device& d : h.devices)
                for (house::Port& p : d.ports)
                    if (p.kind == house::PortKind::usb) p.phy.clear();
        });
        w.window.setStage(Stage::trace);
        QVERIFY2(reach(w, "at what speed"), qPrintable(w.child<QLabel>("nextTest")->text()));
        const house::House before = w.saved();
        w.click("noteReading");
        QVERIFY(w.settle());
        QVERIFY(!w.child<QLabel>("nextTest")->text().contains("at what speed"));
        // That it was read is known, whatever it said.
        const auto read = [](const house::House& h) {
            return std::count_if(h.connections.begin(), h.connections.end(), [](const house::Connection& c) {
                return c.medium == house::Medium::bus && c.linkedAt.has_value();
            });
        };
        QCOMPARE(read(w.saved()), read(before) + 1);
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(w.saved() == before);
    }
    void phyRatesAreNotedInPlace() {
        MeasureWindow w(false, [](house::House& h) { h.connection("house-mains")->situation.clear(); });
        w.pick("routes", "Workshop to loft");
        w.window.setStage(Stage::trace);
        // Slow and unsteady: a strip at an outlet, or a radio hop that nobody wrote down.
        const house::House h = w.saved();
        const auto route = std::find_if(h.routes.begin(), h.routes.end(),
                                        [](const house::Route& r) { return r.label == "Workshop to loft"; });
        {
            auto store = job::Store::open(w.file).value();
            for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward})
                QVERIFY(store.addRun({route->id, steadyRun(d, 15, 4, 0.2, benchmark::name(d))}));
        }
        QVERIFY(QTest::qWaitFor([&] { return w.window.isSettled() && w.status().contains("15"); }, 10'000));
        QVERIFY2(reach(w, "PHY rates"), qPrintable(w.child<QLabel>("nextTest")->text()));
        auto* forward = w.child<QLineEdit>("phyForward");
        QVERIFY(forward->isVisible());
        w.picture("phy");
        forward->setText("a lot");
        w.click("noteReading");
        QVERIFY2(w.child<QLabel>("status")->text().startsWith("Not done"),
                 qPrintable(w.child<QLabel>("status")->text()));
        forward->setText("240M");
        w.child<QLineEdit>("phyBackward")->setText("310M");
        w.click("noteReading");
        const auto saved = job::Store::open(w.file)->house();
        std::size_t noted = 0;
        for (const house::Connection& c : saved.connections)
            noted += c.phyRates.size();
        QCOMPARE(noted, std::size_t(2));
        QVERIFY(QTest::qWaitFor([&] { return w.window.isSettled(); }, 10'000));
        QVERIFY(!w.child<QLabel>("nextTest")->text().contains("PHY rates"));
    }
    void anotherOutletIsWrittenToTheRuns() {
        MeasureWindow w(false, [](house::House& h) { h.connection("house-mains")->situation.clear(); });
        w.pick("routes", "Workshop to loft");
        w.window.setStage(Stage::trace);
        QVERIFY2(reach(w, "another outlet"), qPrintable(w.child<QLabel>("nextTest")->text()));
        QTest::keyClick(&w.window, Qt::Key_N);
        QVERIFY(w.child<QLabel>("preparedTest")->text().contains("another outlet"));
        w.picture("outlet");
        QVERIFY(w.run());
        const auto runs = job::Store::open(w.file)->runs();
        QVERIFY(runs.has_value());
        QCOMPARE(runs->runs.size(), std::size_t(2));
        for (const auto& r : runs->runs) {
            QCOMPARE(r.run.config.arrangement.altered.size(), std::size_t(1));
            QCOMPARE(r.run.config.arrangement.altered.front().kind, house::AlterationKind::other_outlet);
            QVERIFY(!r.run.showsCeiling()); // of the route as it is it says nothing
        }
    }
    void datagramsAreSentAtAPaceAboveTheRoute() {
        MeasureWindow w;
        w.window.setStage(Stage::trace);
        QVERIFY2(reach(w, "datagrams"), qPrintable(w.child<QLabel>("nextTest")->text()));
        QTest::keyClick(&w.window, Qt::Key_N);
        QVERIFY(w.run());
        const auto runs = job::Store::open(w.file)->runs();
        QVERIFY(!runs->runs.empty());
        QVERIFY(runs->runs.front().run.config.protocol == benchmark::Protocol::udp);
    }
    void aCodeGivesKeyAndAddress() {
        MeasureWindow w;
        w.window.setPage(Page::machines);
        auto* codes = w.child<CodePanel>("codes");
        const probe::Key own = probe::Key::load(keyFile()).value();
        w.child<QTableWidget>("machine-table")->setCurrentCell(1, 0);
        codes->read(codePicture({"192.168.7.9:47710", own}));
        const auto saved = job::Store::open(w.file)->house();
        QCOMPARE(saved.endpoints[1].address, std::string("192.168.7.9:47710"));
        // Another key does not replace the one that is there.
        codes->read(codePicture({"", probe::Key::generate()}));
        QVERIFY2(w.child<QLabel>("status")->text().contains("another key"),
                 qPrintable(w.child<QLabel>("status")->text()));
        QVERIFY(probe::Key::load(keyFile()).value() == own);
        QImage empty(300, 300, QImage::Format_RGB32);
        empty.fill(Qt::white);
        codes->read(empty);
        QVERIFY(w.child<QLabel>("status")->text().contains("no code"));
    }
    void aKeyIsShownOnlyWhileItIsLookedAt() {
        MeasureWindow w;
        w.window.setPage(Page::machines);
        auto* codes = w.child<CodePanel>("codes");
        QVERIFY(!codes->showsKey());
        w.click("show-key");
        QVERIFY(codes->showsKey());
        w.picture("key");
        QVERIFY(w.child<QLabel>("key-text")
                    ->text()
                    .contains(QString::fromStdString(probe::Key::load(keyFile()).value().text())));
        w.window.setPage(Page::runs);
        QVERIFY(!codes->showsKey());
        QVERIFY(w.child<QLabel>("key-text")->text().isEmpty());
        // Where there is no key yet one is made.
        QFile::remove(QString::fromStdString(keyFile().string()));
        w.window.setPage(Page::machines);
        w.click("show-key");
        QVERIFY(codes->showsKey() && probe::Key::load(keyFile()).has_value());
    }

  private:
    QTemporaryDir m_home;
};

QTEST_MAIN(TestEvidence)
#include "test_evidence.moc"
