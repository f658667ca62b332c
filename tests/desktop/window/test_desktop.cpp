// The real window, driven by keys and mouse as a user drives it.
#include "desktop/measure/run_plot.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/theme.h"
#include "desktop/window/main_window.h"
#include "job/open.h"
#include "probe/socket.h"
#include "support/houses.h"
#include "support/programs.h"
#include "support/runs.h"
#include "support/tested_window.h"

#include <QAction>
#include <QComboBox>
#include <QDirIterator>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QTableWidget>
#include <QTest>
#include <QToolButton>
#include <SQLiteCpp/SQLiteCpp.h>
#include <csignal>
#include <fstream>

using namespace metrodos;
using namespace metrodos::desktop;

namespace {

/// The window on a fresh copy of the demo job.
struct DemoWindow : testing::TestedWindow {
    DemoWindow() {
        window.openDemo(folder.path().toStdString());
        file = folder.filePath("quarry-house.metrodos").toStdString();
        show();
    }
    [[nodiscard]] QWidget* strip() { return child<QWidget>("routeStrip"); }
    void key(Qt::Key k, Qt::KeyboardModifiers m = Qt::NoModifier) { QTest::keyClick(strip(), k, m); }
    /// Steps through the strip with the arrow keys until this element is chosen.
    bool choose(const QString& label) {
        for (int i = 0; i < 60; ++i)
            key(Qt::Key_Left);
        for (int i = 0; i < 60; ++i) {
            auto* name = find<QLineEdit>("label");
            if (name != nullptr && name->text() == label) return true;
            key(Qt::Key_Right);
        }
        return false;
    }
    void pick(const char* box, const QString& text) {
        auto* combo = child<QComboBox>(box);
        const int wanted = combo->findText(text);
        QVERIFY2(wanted >= 0, qPrintable(text));
        combo->setFocus();
        while (combo->currentIndex() > wanted)
            QTest::keyClick(combo, Qt::Key_Up);
        while (combo->currentIndex() < wanted)
            QTest::keyClick(combo, Qt::Key_Down);
    }
    /// Without those of the demo's past.
    [[nodiscard]] benchmark::RouteRuns runs() { return testing::newRuns(file); }
};

} // namespace

class TestDesktop : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void theDemoShowsAFindingAtOnce() {
        DemoWindow demo;
        QVERIFY2(demo.status().contains("front USB socket"), qPrintable(demo.status()));
        QVERIFY(demo.status().contains("coax would allow"));
        QCOMPARE(demo.child<QLineEdit>("label")->text(), QString("front USB socket")); // its sheet is open
        QVERIFY(demo.child<QLabel>("ceiling")->text().contains("280 to 350 Mbit/s"));
        QVERIFY(demo.child<QLabel>("ceiling")->text().contains("MB/s"));
    }
    void editingAnElementMovesTheVerdictAndUndoBringsItBack() {
        DemoWindow demo;
        const QString before = demo.status();
        demo.pick("choice", "USB 3, 5 Gbit/s");
        QVERIFY2(demo.status().contains("old aerial coax"), qPrintable(demo.status()));
        QCOMPARE(demo.saved().device("loft-workstation")->ports[0].phy,
                 std::string("usb3-5g")); // saved as one goes
        QTest::keyClick(&demo.window, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(demo.status(), before);
        QCOMPARE(demo.child<QComboBox>("choice")->currentText(), QString("USB 2"));
        QTest::keyClick(&demo.window, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(demo.status().contains("old aerial coax"));
    }
    void cableFieldsTakeUnitsAndRefuseNonsense() {
        DemoWindow demo;
        QVERIFY(demo.choose("duct run to the dome"));
        QVERIFY2(demo.child<QLabel>("price")->text().contains("¤ 27.60 for this run"), // 46 m at ¤ 0.60
                 qPrintable(demo.child<QLabel>("price")->text()));
        auto* length = demo.child<QLineEdit>("length");
        const auto type = [&](const QString& text) {
            length->setFocus();
            length->selectAll();
            QTest::keyClicks(length, text);
            QTest::keyClick(length, Qt::Key_Return);
        };
        type("100 ft");
        QCOMPARE(demo.saved().connection("dome-run")->length->inMetres(), 30.48);
        type("far");
        QVERIFY2(demo.status().contains("not a length"), qPrintable(demo.status()));
        QCOMPARE(demo.saved().connection("dome-run")->length->inMetres(), 30.48);
        demo.pick("choice", "category 5e");
        QCOMPARE(demo.saved().connection("dome-run")->cableClass, std::string("cat5e"));
        demo.pick("pairs", "2 of 4 sound");
        QVERIFY2(demo.status().contains("duct run"), qPrintable(demo.status())); // two pairs: 100 Mbit/s
        demo.choose("Hall switch");
        demo.pick("choice", "switch, 1 Gbit/s ports");
        QCOMPARE(demo.saved().device("hall-switch")->ports[0].phy, std::string("1000base-t"));
    }
    void boxesAreAddedMovedAndTakenOut() {
        DemoWindow demo;
        QVERIFY(demo.choose("Hall switch"));
        demo.key(Qt::Key_Right, Qt::AltModifier);
        const auto second = house::findRoute(demo.saved(), "dome-camera-end", "loft-workstation-end").value();
        QCOMPARE(second[4].id, std::string("coax-hall")); // the pair has come before the switch
        QTest::keyClick(&demo.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(demo.choose("patch lead, hall"));
        auto* menu = demo.child<QToolButton>("insert")->menu();
        Q_EMIT menu->aboutToShow();
        const auto actions = menu->actions();
        const auto wanted = std::find_if(actions.begin(), actions.end(), [](const QAction* a) {
            return a->text() == "switch, 1 Gbit/s ports";
        });
        QVERIFY(wanted != actions.end());
        (*wanted)->trigger();
        QVERIFY(demo.saved().device("switch-1g") != nullptr);
        QVERIFY(demo.choose("switch, 1 Gbit/s ports"));
        demo.key(Qt::Key_Delete);
        QVERIFY(demo.saved().device("switch-1g") == nullptr);
        QVERIFY(demo.choose("Dome camera computer"));
        demo.key(Qt::Key_Delete);
        QVERIFY2(demo.status().contains("cannot be removed"), qPrintable(demo.status()));
    }
    void aClickOnTheStripOpensTheSheet() {
        DemoWindow demo;
        QTest::mouseClick(demo.strip(), Qt::LeftButton, Qt::NoModifier,
                          QPoint(80, demo.strip()->height() / 2));
        QCOMPARE(demo.child<QLineEdit>("label")->text(), QString("Dome camera computer"));
    }
    void spaceRunsBothWaysAndTheRunsStay() {
        DemoWindow demo;
        QTRY_VERIFY_WITH_TIMEOUT(demo.window.standinsReady(), 10'000);
        demo.pick("seconds", "1 s");
        demo.key(Qt::Key_Space);
        QTRY_VERIFY_WITH_TIMEOUT(demo.status().contains("A run is in progress"), 1000);
        QVERIFY(demo.child<QPushButton>("run")->text().contains("Stop"));
        QTRY_VERIFY2_WITH_TIMEOUT(demo.status().startsWith("The limit is"), qPrintable(demo.status()),
                                  12'000);
        auto* runs = demo.child<QTableWidget>("runs");
        QCOMPARE(runs->rowCount(), 2);
        QVERIFY(runs->item(0, 3)->text().contains("MB/s"));
        QVERIFY(runs->item(0, 5)->text().contains("simulated"));
        QVERIFY(demo.status().contains("front USB socket"));
        QCOMPARE(demo.runs().size(), std::size_t(2));
        QVERIFY(demo.runs()[0].run.complete);
        QVERIFY(demo.child<QWidget>("forwardBand")->accessibleName().contains("Mbit/s"));
        // A run is taken out of the list with Delete.
        runs->setFocus();
        runs->selectRow(0);
        QTest::keyClick(runs, Qt::Key_Delete);
        QCOMPARE(demo.runs().size(), std::size_t(1));
    }
    void spaceStopsARunAndKeepsWhatWasMeasured() {
        DemoWindow demo;
        QTRY_VERIFY_WITH_TIMEOUT(demo.window.standinsReady(), 10'000);
        demo.key(Qt::Key_Space);
        QTRY_VERIFY_WITH_TIMEOUT(!demo.runs().empty() && demo.runs()[0].run.samples.size() >= 10, 10'000);
        QElapsedTimer timer;
        timer.start();
        demo.key(Qt::Key_Space);
        QTRY_VERIFY_WITH_TIMEOUT(demo.child<QPushButton>("run")->text().contains("Run"), 2000);
        QVERIFY2(timer.elapsed() < 500, qPrintable(QString::number(timer.elapsed())));
        QCOMPARE(demo.runs().size(), std::size_t(1));
        QVERIFY(!demo.runs()[0].run.complete);
        QVERIFY(demo.runs()[0].run.samples.size() >= 10);
    }
    void theLivePlotKeepsUp() {
        DemoWindow demo;
        QTRY_VERIFY_WITH_TIMEOUT(demo.window.standinsReady(), 10'000);
        demo.pick("seconds", "5 s");
        demo.pick("direction", "forward");
        demo.key(Qt::Key_Space);
        QTRY_VERIFY_WITH_TIMEOUT(demo.status().startsWith("The limit is"), 12'000);
        QCOMPARE(demo.runs()[0].run.samples.size(), std::size_t(50));
        const double slowest = demo.window.findChild<RunPlot*>()->slowestUpdate();
        qInfo("slowest update of the live plot: %.1f ms", slowest);
        // It takes less than the tenth of a second until the next sample.
        QVERIFY2(slowest > 0 && slowest < 100, qPrintable(QString::number(slowest)));
    }
    void nTakesTheNextTest() {
        DemoWindow demo;
        QTest::keyClick(&demo.window, Qt::Key_5, Qt::ControlModifier);
        QVERIFY(demo.child<QLabel>("verdict")->isVisible());
        QTRY_VERIFY(demo.child<QLabel>("verdict")->text().contains("front USB socket"));
        demo.key(Qt::Key_N);
        QVERIFY(!demo.child<QLabel>("verdict")->isVisible()); // Measure is set up
        QVERIFY2(demo.status().startsWith("Next:"), qPrintable(demo.status()));
        QVERIFY(demo.child<QLabel>("preparedTest")->isVisible());
        // Space runs it; what it was is kept with its runs, and the verdict follows.
        QTRY_VERIFY_WITH_TIMEOUT(demo.window.standinsReady(), 10'000);
        demo.key(Qt::Key_Escape);
        QVERIFY(!demo.child<QLabel>("preparedTest")->isVisible());
        // What it leaves out means nothing on another route.
        demo.key(Qt::Key_N);
        QVERIFY(demo.child<QLabel>("preparedTest")->isVisible());
        auto* routes = demo.child<QComboBox>("routes");
        routes->setCurrentIndex(1);
        Q_EMIT routes->activated(1);
        QTRY_VERIFY(!demo.child<QLabel>("preparedTest")->isVisible());
    }
    void aTestThatCannotBeMadeGivesWay() {
        DemoWindow demo;
        QTest::keyClick(&demo.window, Qt::Key_5, Qt::ControlModifier);
        (void)demo.status();
        const QString first = demo.child<QLabel>("nextTest")->text();
        QVERIFY(!first.isEmpty());
        QTest::keyClick(&demo.window, Qt::Key_N, Qt::ShiftModifier);
        (void)demo.status();
        QTRY_VERIFY(demo.child<QLabel>("nextTest")->text() != first);
    }
    void whatIfFollowsTheChosenElement() {
        DemoWindow demo;
        QTest::keyClick(&demo.window, Qt::Key_5, Qt::ControlModifier);
        const auto rows = [&] { return demo.child<RangeList>("whatIf")->texts().join(' '); };
        QTRY_VERIFY2(rows().contains("USB 3, 5 Gbit/s"), qPrintable(rows()));
        QVERIFY(!rows().section("USB 2:", 1).section("USB 3", 0, 0).contains("to 2."));
        QVERIFY2(rows().section("USB 3, 5 Gbit/s:", 1).section("USB 3", 0, 0).contains("to 2."),
                 qPrintable(rows())); // what the coax allows
    }
    void whatIfCostsWhatThePriceBookSays() {
        QFile book(m_home.filePath("prices.csv"));
        QVERIFY(book.open(QIODevice::WriteOnly));
        book.write("item,product,price\ncurrency,Kr,\nusb-nic-5g,,77\n");
        book.close();
        qputenv("METRODOS_PRICES", book.fileName().toUtf8());
        DemoWindow demo;
        qunsetenv("METRODOS_PRICES");
        QVERIFY(demo.choose("USB network adapter"));
        QTest::keyClick(&demo.window, Qt::Key_5, Qt::ControlModifier);
        const auto rows = [&] { return demo.child<RangeList>("whatIf")->texts().join('\n'); };
        QTRY_VERIFY2(rows().contains("about Kr 77"), qPrintable(rows()));
        QVERIFY2(rows().contains("about Kr 15"),
                 qPrintable(rows())); // a guide price where there is none of its own
    }
    void aReadingIsNotedAndMovesTheVerdict() {
        DemoWindow demo;
        // Flat at 94 Mbit/s between ports of 1 Gbit/s: what do the links say?
        job::Document document{testing::wiredHouse(), {}, {}};
        for (const char* cable : {"run-1", "run-2"})
            document.house.connection(cable)->goodPairs.reset();
        for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward})
            document.runs.push_back(
                {"desk-shelf", testing::steadyRun(direction, 94.1, 4, 0.002, benchmark::name(direction))});
        const QString file = demo.folder.filePath("reading.metrodos");
        QVERIFY(job::Store::create(file.toStdString(), document).has_value());
        QVERIFY(demo.window.openJob(file.toStdString()));
        QTest::keyClick(&demo.window, Qt::Key_5, Qt::ControlModifier);
        for (int i = 0; i < 8 && !demo.child<QComboBox>("reading")->isVisible(); ++i) {
            (void)demo.status();
            QTest::keyClick(&demo.window, Qt::Key_N, Qt::ShiftModifier);
            (void)demo.status();
        }
        QVERIFY2(demo.child<QComboBox>("reading")->isVisible(),
                 qPrintable(demo.child<QLabel>("nextTest")->text()));
        const QString test = demo.child<QLabel>("nextTest")->text();
        demo.child<QComboBox>("reading")->setCurrentIndex(0);
        demo.child<QPushButton>("noteReading")->click();
        QVERIFY2(demo.status().contains("The limit is"), qPrintable(demo.status()));
        const auto saved = job::readJob(file.toStdString()).value().house;
        QVERIFY(std::any_of(saved.connections.begin(), saved.connections.end(),
                            [](const auto& c) { return c.linkedAt.has_value(); }));
        QVERIFY(demo.child<QLabel>("nextTest")->text() != test);
        QTest::keyClick(&demo.window, Qt::Key_Z, Qt::ControlModifier);
        auto undone = job::readJob(file.toStdString()).value().house;
        QVERIFY(!undone.routes[0].declined.empty()); // that was before
        undone.routes[0].declined.clear();
        QVERIFY(undone == document.house);
    }
    void anAgentThatIsNotThereIsOneSentence() {
        DemoWindow demo;
        const QString file = demo.folder.filePath("real.metrodos");
        auto document = job::readJob(testing::dataPath("demo/quarry-house.json")).value();
        document.house.endpoints[0].address = "here";
        QVERIFY(job::Store::create(file.toStdString(), document).has_value());
        QVERIFY(demo.window.openJob(file.toStdString()));
        demo.key(Qt::Key_Space);
        QTRY_VERIFY2_WITH_TIMEOUT(demo.status().contains("has no address"), qPrintable(demo.status()), 3000);
        QVERIFY(demo.child<QPushButton>("run")->text().contains("Run"));
    }
    void filesThatCannotBeOpenedAreExplainedAndNothingIsLost() {
        DemoWindow demo;
        const auto write = [&](const char* name, const std::string& text) {
            const std::string file = demo.folder.filePath(name).toStdString();
            std::ofstream(file) << text;
            return file;
        };
        QVERIFY(!demo.window.openJob(write("a.metrodos", "hello")));
        QVERIFY(demo.status().contains("not a job"));
        QVERIFY(!demo.window.openJob(write("b.json", "{}")));
        QVERIFY(demo.status().startsWith("Not done:"));
        QVERIFY(!demo.window.openJob("none.metrodos"));
        QVERIFY(demo.window.windowTitle().contains("Quarry House")); // the open job stays
    }
    void aDamagedJobIsOfferedACopy() {
        DemoWindow demo;
        const std::string file = demo.folder.filePath("hurt.metrodos").toStdString();
        QVERIFY(job::Store::create(file, job::readJob(testing::dataPath("demo/quarry-house.json")).value())
                    .has_value());
        {
            SQLite::Database database(file, SQLite::OPEN_READWRITE);
            database.exec("UPDATE item SET body='{\"id\":' WHERE id='study-run'");
        }
        QVERIFY(!demo.window.openJob(file));
        QVERIFY(demo.status().contains("damaged"));
        auto* box = demo.window.findChild<QMessageBox*>("recovery");
        QVERIFY(box != nullptr);
        QTest::mouseClick(box->buttons().front(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(demo.status().contains("recovered"), 3000);
        QVERIFY(QFile::exists(demo.folder.filePath("hurt-recovered.metrodos")));
    }
    void theRouteCanBeChosenAndTheSchemeSwitched() {
        DemoWindow demo;
        auto* routes = demo.child<QComboBox>("routes");
        routes->setFocus();
        QTest::keyClick(routes, Qt::Key_Down);
        QVERIFY2(demo.status().contains("mains, hall to workshop"), qPrintable(demo.status()));
        QTest::keyClick(&demo.window, Qt::Key_D, Qt::ControlModifier);
        QVERIFY(theme().dark);
        QTest::keyClick(&demo.window, Qt::Key_D, Qt::ControlModifier);
        QVERIFY(!theme().dark);
    }
    void contrastIsEnoughInBothSchemes() {
        for (const Theme& t : {lightTheme(), darkTheme()})
            for (const QColor& text : {t.ink, t.quiet, t.warm, t.cool})
                for (const QColor& ground : {t.ground, t.panel})
                    QVERIFY2(contrast(text, ground) >= 4.5, qPrintable(text.name() + " on " + ground.name()));
    }
    void textFromOutsideIsNoMarkup() {
        testing::TestedWindow w;
        house::House h = testing::demoHouse();
        // Read as markup, the first would never end and the second would take over the title.
        const std::string endless = "<img src=\"/dev/zero\">";
        h.name = "<h1>Quarry</h1>";
        for (house::Device& d : h.devices)
            d.label = endless + d.id;
        h.rooms[0].label = "<b>Hall</b>\x1b[2J";
        h.routes[0].label = "<i>first</i>";
        w.create(h);
        w.open(Stage::measure);
        for (const Stage stage : {Stage::walk, Stage::weigh, Stage::measure, Stage::trace}) {
            w.window.setStage(stage);
            QVERIFY(w.settle());
        }
        int seen = 0;
        for (const QLabel* label : w.window.findChildren<QLabel*>()) {
            QVERIFY2(label->textFormat() == Qt::PlainText, qPrintable(label->objectName() + label->text()));
            seen += label->text().contains("<img src") ? 1 : 0;
        }
        QVERIFY(seen > 0); // shown as it stands
        QCOMPARE(w.window.windowTitle(), QString("<h1>Quarry</h1> – Metrodos"));
        for (const QWidget* widget : w.window.findChildren<QWidget*>())
            QVERIFY2(!widget->toolTip().contains("<img"), qPrintable(widget->toolTip()));
        QVERIFY(plainTip("<img src=x>").contains("&lt;img"));
        // Control characters have gone on the way in.
        QCOMPARE(w.saved().rooms[0].label, std::string("<b>Hall</b>[2J"));
    }
    void everyLabelIsMadeInOnePlace() {
        // A label made elsewhere would take what it shows for markup.
        QDirIterator files(QString::fromStdString(testing::sourcePath("src/desktop")), {"*.cpp", "*.h"},
                           QDir::Files, QDirIterator::Subdirectories);
        int read = 0;
        while (files.hasNext()) {
            QFile file(files.next());
            QVERIFY(file.open(QIODevice::ReadOnly));
            const bool factory = file.fileName().endsWith("plain_text.cpp");
            QVERIFY2(factory || !file.readAll().contains("new QLabel"), qPrintable(file.fileName()));
            ++read;
        }
        QVERIFY(read > 80);
    }
    void whatAnotherProgramChangesShowsHere() {
        testing::TestedWindow w;
        w.create(testing::demoHouse());
        w.open(Stage::measure);
        auto other = job::Store::open(w.file).value();
        house::House next = other.house();
        next.name = "Quarry House, surveyed";
        QVERIFY(other.change("rename", next).has_value());
        QTRY_COMPARE_WITH_TIMEOUT(w.window.windowTitle(), QString("Quarry House, surveyed – Metrodos"), 5000);
        QVERIFY(
            job::keepRun(w.file, next.routes[0].id, testing::steadyRun(benchmark::Direction::forward, 300))
                .has_value());
        QTRY_COMPARE_WITH_TIMEOUT(w.child<QTableWidget>("runs")->rowCount(), 1, 5000);
    }
    void itFitsASmallScreen() {
        DemoWindow demo;
        demo.window.resize(1024, 700);
        QTRY_COMPARE(demo.window.size(), QSize(1024, 700));
        QVERIFY(demo.strip()->width() <= 1024);
    }
    void aPulledPlugLosesAtMostASecond() {
        // The program itself, in a process of its own, with keys from the X server.
        if (testing::run("xdotool", {"version"}).code != 0 || qEnvironmentVariableIsEmpty("DISPLAY"))
            QSKIP("needs an X server and xdotool");
        QTemporaryDir home;
        QProcess app;
        QProcessEnvironment env = QProcessEnvironment::systemEnvironment();
        env.insert("XDG_DATA_HOME", home.path());
        env.insert("XDG_CONFIG_HOME", home.path());
        app.setProcessEnvironment(env);
        app.start(testing::binary("metrodos"), {"--demo"});
        QVERIFY(app.waitForStarted());
        const QString pid = QString::number(app.processId());
        QTRY_VERIFY_WITH_TIMEOUT(
            testing::run("xdotool", {"search", "--onlyvisible", "--name", "Quarry House"}).code == 0, 15'000);
        // The stand-ins start beside the window; until they answer, Space only says so.
        const std::string job = home.filePath("metrodos/metrodos/quarry-house.metrodos").toStdString();
        const auto kept = [&]() -> std::size_t {
            const auto runs = testing::newRuns(job);
            return runs.empty() ? 0 : runs[0].run.samples.size();
        };
        const auto pressed = [] {
            return testing::run("xdotool", {"search", "--onlyvisible", "--name", "Quarry House",
                                            "windowfocus", "key", "space"})
                       .code == 0;
        };
        bool goesOn = false;
        for (int tries = 0; tries < 6 && !goesOn; ++tries) {
            QVERIFY(pressed());
            goesOn = QTest::qWaitFor([&] { return kept() > 0; }, 4000);
        }
        QVERIFY(goesOn);
        // At any time the disk is less than a second behind the run.
        QElapsedTimer sinceFirst;
        sinceFirst.start();
        const std::size_t first = kept();
        QTRY_VERIFY_WITH_TIMEOUT(kept() >= first + 20, 10'000);
        const double behind =
            static_cast<double>(sinceFirst.elapsed()) / 1000 - 0.1 * static_cast<double>(kept() - first);
        app.kill();
        QVERIFY(app.waitForFinished());
        QVERIFY2(behind < 1, qPrintable(QString::number(behind)));
        const auto document = job::readJob(job);
        QVERIFY2(document.has_value(), document ? "" : document.error().sentence().c_str());
        QCOMPARE(document->house.name, std::string("Quarry House"));
        const auto runs = testing::newRuns(job);
        QCOMPARE(runs.size(), std::size_t(1));
        QVERIFY2(runs[0].run.samples.size() >= first + 20,
                 qPrintable(QString::number(runs[0].run.samples.size())));
        QVERIFY(!runs[0].run.complete);
    }
};

QTEST_MAIN(TestDesktop)
#include "test_desktop.moc"
