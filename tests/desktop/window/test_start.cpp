// The first minutes: from an empty window to a verdict, and from nothing to a surveyed house, by keyboard.
#include "desktop/model/job_folder.h"
#include "desktop/model/pages.h"
#include "support/agents.h"
#include "support/paths.h"
#include "support/tested_window.h"

#include <QElapsedTimer>
#include <QLineEdit>
#include <QListWidget>
#include <QProcess>
#include <QRadioButton>
#include <QStandardPaths>
#include <QTableWidget>

using namespace metrodos;
using namespace metrodos::desktop;

namespace {

// A window without a job. Keys go to whatever has the keyboard, and are counted.
struct StartWindow : testing::TestedWindow {
    int keys = 0;
    int characters = 0;

    StartWindow() {
        show();
        QCoreApplication::processEvents();
    }
    void key(int k, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        QApplication::setActiveWindow(&window); // a list that was open is a window of its own
        QWidget* to = window.focusWidget();
        QTest::keyClick(to == nullptr ? &window : to, static_cast<Qt::Key>(k), modifiers);
        QCoreApplication::processEvents();
        ++keys;
    }
    void type(const QString& text) {
        QTest::keyClicks(window.focusWidget(), text);
        characters += static_cast<int>(text.size());
    }
    [[nodiscard]] bool starts() { return child<QWidget>("start")->isVisible(); }
    [[nodiscard]] QString said() { return child<QLabel>("status")->text(); }
    [[nodiscard]] static QStringList files() {
        QStringList out;
        std::error_code error;
        for (const auto& entry : std::filesystem::directory_iterator(jobFolder(), error))
            out << QString::fromStdString(entry.path().filename().string());
        out.sort();
        return out;
    }
    [[nodiscard]] house::House inFile(const QString& name) {
        return job::readJob(jobFolder() / name.toStdString()).value().house;
    }
};

} // namespace

class TestStart : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }
    void cleanup() { std::filesystem::remove_all(jobFolder()); }

    void withoutAJobThereAreThreeWays() {
        StartWindow w;
        QVERIFY(w.starts());
        QVERIFY(!w.child<QWidget>("rail")->isVisible() && !w.child<QWidget>("routeStrip")->isVisible());
        QVERIFY(w.child<QWidget>("begin-measure")->hasFocus());
        w.key(Qt::Key_Space); // starts no run
        QVERIFY(w.starts() || w.child<QWidget>("other-address")->isVisible());
        w.key(Qt::Key_Escape);
        w.key(Qt::Key_Down);
        QVERIFY(w.child<QWidget>("begin-survey")->hasFocus());
        w.key(Qt::Key_D);
        QVERIFY(!w.starts());
        QTRY_VERIFY(w.window.windowTitle().startsWith("Quarry House"));
        // It stands in the list of the next window, and Enter opens it.
        StartWindow next;
        auto* recent = next.child<QListWidget>("recent");
        QCOMPARE(recent->count(), 1);
        recent->setFocus();
        next.key(Qt::Key_Down);
        next.key(Qt::Key_Return);
        QVERIFY(!next.starts());
        QVERIFY(next.window.windowTitle().startsWith("Quarry House"));
        // Ctrl+N shows the ways again, and Escape leads back.
        next.key(Qt::Key_N, Qt::ControlModifier);
        QVERIFY(next.starts());
        next.key(Qt::Key_Escape);
        QVERIFY(!next.starts());
    }
    // From the empty window to the verdict, with an agent on loopback.
    void sixKeysLeadToAVerdict() {
        testing::LoopbackAgent agent;
        const QString file = m_home.filePath("key");
        QFile::remove(file);
        QVERIFY(agent.key.save(file.toStdString()).has_value());
        qputenv("METRODOS_KEY_FILE", file.toUtf8());
        QApplication::clipboard()->setText(QString::fromStdString(agent.address));
        StartWindow w;
        w.key(Qt::Key_M);
        w.key(Qt::Key_V, Qt::ControlModifier);
        w.key(Qt::Key_Return);
        QVERIFY2(!w.starts(), qPrintable(w.said()));
        // Both machines are asked at once what they are.
        QTRY_VERIFY2(w.said().startsWith("Both machines answer"), qPrintable(w.said()));
        w.child<QComboBox>("seconds")->setCurrentIndex(0); // no need to wait for ten seconds each way
        w.key(Qt::Key_Space);
        auto* run = w.child<QAbstractButton>("run");
        QTRY_VERIFY_WITH_TIMEOUT(run->text().startsWith("Stop"), 3000);
        QTRY_VERIFY_WITH_TIMEOUT(run->text().startsWith("Run"), 60'000);
        QVERIFY2(w.status().contains("limit"), qPrintable(w.status()));
        QVERIFY2(w.keys <= 6, qPrintable(QString::number(w.keys)));
        const QStringList files = StartWindow::files();
        QCOMPARE(files, QStringList{"New house.metrodos"});
        const auto house = w.inFile(files.front());
        QCOMPARE(QString::fromStdString(house.endpoints[1].address), QString::fromStdString(agent.address));
        for (const house::Device& d : house.devices)
            QVERIFY(!d.room.empty()); // nobody stands in a room that is not known
        // Its name is asked for once there is something to keep; the file is called so too.
        w.key(Qt::Key_N, Qt::ControlModifier | Qt::ShiftModifier);
        w.type("Mill Cottage");
        w.key(Qt::Key_Return);
        QCOMPARE(StartWindow::files(), QStringList{"Mill Cottage.metrodos"});
        QVERIFY(w.window.windowTitle().startsWith("Mill Cottage"));
        QCOMPARE(w.child<QTableWidget>("runs")->rowCount(), 2);
        qunsetenv("METRODOS_KEY_FILE");
    }
    void anAddressThatIsNoneIsSaid() {
        StartWindow w;
        w.key(Qt::Key_M);
        w.key(Qt::Key_Return);
        QVERIFY2(w.said().contains("address"), qPrintable(w.said()));
        w.picture("start-other");
        w.type("not an address");
        w.key(Qt::Key_Return);
        QVERIFY2(w.said().contains("“not an address”"), qPrintable(w.said()));
        QVERIFY(w.starts());
        w.key(Qt::Key_Escape);
        QVERIFY(w.child<QWidget>("begin-measure")->isVisible());
        QVERIFY(StartWindow::files().isEmpty());
    }
    // A device with nothing but a browser, from the empty window: here it is played by a plain client.
    void aBrowserIsTheOtherEnd() {
        StartWindow w;
        w.key(Qt::Key_M);
        w.click("begin-browser");
        QVERIFY2(!w.starts(), qPrintable(w.said()));
        QVERIFY(w.child<QWidget>("guest-panel")->isVisible());
        const QString address = w.child<QLabel>("guest-address")->text();
        QVERIFY2(address.startsWith("http://") || address.isEmpty(), qPrintable(address));
        QVERIFY(w.child<QLabel>("guest-state")->text().contains("Nothing is installed there"));
        QTest::qWait(50);
        w.picture("guest");
        const auto house = w.inFile(StartWindow::files().front());
        QCOMPARE(house.endpoints[1].address, std::string("guest"));
        QCOMPARE(house.device("far-machine")->deviceClass, std::string("browser"));
        // Nobody has opened the page: that is said, and nothing hangs.
        w.child<QWidget>("routeStrip")->setFocus();
        w.key(Qt::Key_Space);
        QTRY_VERIFY2_WITH_TIMEOUT(w.said().contains("no device has opened the page"), qPrintable(w.said()),
                                  5000);
        // With the real browser, where there is one.
        const QString browser = QStandardPaths::findExecutable("chromium");
        if (browser.isEmpty() || address.isEmpty()) QSKIP("needs chromium and an address");
        w.window.setPage(Page::machines);
        QProcess device;
        device.start(browser, {"--headless=new", "--no-sandbox", "--disable-gpu", "--no-first-run",
                               "--user-data-dir=" + m_home.filePath("browser"),
                               address.section('\n', 0, 0) + "#cable"});
        QTRY_VERIFY2_WITH_TIMEOUT(w.child<QLabel>("guest-state")->text().contains("has joined"),
                                  qPrintable(w.said()), 15'000);
        w.picture("guest-here");
        w.child<QComboBox>("seconds")->setCurrentIndex(0);
        w.child<QWidget>("routeStrip")->setFocus();
        w.key(Qt::Key_Space);
        auto* run = w.child<QAbstractButton>("run");
        QTRY_VERIFY_WITH_TIMEOUT(run->text().startsWith("Stop"), 3000);
        QTRY_VERIFY_WITH_TIMEOUT(run->text().startsWith("Run"), 60'000);
        device.kill();
        device.waitForFinished(5000);
        const auto runs = job::readJob(jobFolder() / StartWindow::files().front().toStdString()).value().runs;
        QCOMPARE(runs.size(), std::size_t(2));
        for (const auto& one : runs) {
            QVERIFY(one.run.complete && one.run.goodput.inMegabits() > 50);
            QVERIFY(!one.run.simulated && one.run.rttIdleUs);
        }
        QCOMPARE(runs[0].run.config.direction, benchmark::Direction::forward);
        QVERIFY(runs[0].run.cpuSender && !runs[0].run.cpuReceiver); // the device's processor is not known
        QVERIFY2(w.status().contains("limit"), qPrintable(w.status()));
    }
    // What lies between the two is in the route from the beginning.
    void whatLiesBetweenIsAskedFor() {
        for (const auto& [button, elements] :
             {std::pair("cable", 1), std::pair("switch", 1), std::pair("coa", 1), std::pair("mains", 1)}) {
            StartWindow w;
            w.key(Qt::Key_M);
            w.type("127.0.0.1:1");
            for (auto* radio : w.child<QWidget>("start")->findChildren<QRadioButton*>())
                if (radio->text().remove('&').contains(QLatin1String(button))) radio->setChecked(true);
            w.child<QWidget>("other-address")->setFocus();
            w.key(Qt::Key_Return);
            QVERIFY(!w.starts());
            const auto house = w.inFile(StartWindow::files().front());
            const bool isPair = QLatin1String(button) == QLatin1String("coa") ||
                                QLatin1String(button) == QLatin1String("mains");
            QCOMPARE(house.devices.size(), std::size_t(button == std::string("cable") ? 2 : isPair ? 4 : 3));
            QVERIFY(w.settle());
            // Nobody answers there: that is said, and nothing hangs.
            QTRY_VERIFY_WITH_TIMEOUT(w.said().startsWith("Not done"), 8000);
            w.window.close();
            QVERIFY2(StartWindow::files().isEmpty(), "a job in which nothing was done leaves no file");
            QCOMPARE(elements, 1);
        }
    }
    void aSurveyedHouseIsKeptAsOneGoes() {
        StartWindow w;
        w.key(Qt::Key_S);
        QVERIFY(w.child<QWidget>("entry")->hasFocus());
        w.type("Hall");
        w.key(Qt::Key_Return);
        QCOMPARE(StartWindow::files(), QStringList{"New house.metrodos"});
        QCOMPARE(w.inFile("New house.metrodos").rooms.size(), std::size_t(1));
        // A name that is no file name does no harm.
        w.key(Qt::Key_N, Qt::ControlModifier | Qt::ShiftModifier);
        w.type("../../Tower <b>:*? 7");
        w.key(Qt::Key_Return);
        QCOMPARE(StartWindow::files().size(), 1);
        QVERIFY2(StartWindow::files().front().endsWith("7.metrodos"),
                 qPrintable(StartWindow::files().front()));
        QVERIFY(w.window.windowTitle().startsWith("../../Tower <b>:*? 7"));
        // The name can be taken back, and the next job has a file of its own.
        w.window.findChild<QAction*>("undo")->trigger();
        QCOMPARE(w.child<QLineEdit>("house-name")->text(), QString("New house"));
        w.key(Qt::Key_N, Qt::ControlModifier);
        w.key(Qt::Key_S);
        QCOMPARE(StartWindow::files().size(), 2);
    }
    // Twelve rooms, forty jacks, ten devices, from nothing, in at most 110 lines.
    void aHouseIsSurveyedInAFewMinutesOfTyping() {
        StartWindow w;
        w.key(Qt::Key_S);
        int lines = 0;
        QElapsedTimer timer;
        timer.start();
        const auto line = [&](const QString& text) {
            auto* entry = w.child<QLineEdit>("entry");
            entry->setFocus();
            entry->clear();
            w.type(text);
            w.key(Qt::Key_Return);
            ++lines;
            QVERIFY2(w.said().startsWith("Entered"), qPrintable(text + ": " + w.said()));
        };
        for (const std::string& text : testing::typedLines("twelve-rooms"))
            line(QString::fromStdString(text));
        const house::House house = w.inFile("New house.metrodos");
        QCOMPARE(house.rooms.size(), std::size_t(12));
        QVERIFY2(house.jacks.size() >= 40, qPrintable(QString::number(house.jacks.size())));
        QVERIFY2(house.devices.size() >= 10, qPrintable(QString::number(house.devices.size())));
        QVERIFY2(lines <= 110, qPrintable(QString::number(lines)));
        // It has its routes with a key, and each is worked out.
        w.window.setPage(Page::routes);
        auto* proposed = w.child<QListWidget>("proposed");
        QVERIFY(proposed->count() >= 5);
        w.click("add-proposed");
        QVERIFY(w.settle());
        const QString verdict = w.status();
        QVERIFY2(!verdict.startsWith("Not done"), qPrintable(verdict));
        qInfo("%d lines, %d characters, %lld ms", lines, w.characters,
              static_cast<long long>(timer.elapsed()));
    }
};

QTEST_MAIN(TestStart)
#include "test_start.moc"
