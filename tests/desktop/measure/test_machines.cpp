// The page Machines: a machine is met by keyboard, its key is kept and deleted, and its guest is invited.
#include "desktop/measure/code_panel.h"
#include "desktop/model/endpoint_access.h"
#include "probe/agent_keys.h"
#include "support/code_picture.h"
#include "support/meeting_agent.h"
#include "support/tested_window.h"

#include <QDir>
#include <QLineEdit>
#include <QTableWidget>

using namespace metrodos;
using testing::GuestedAgent;
using testing::MeetingAgent;

namespace {

struct MachinesWindow : testing::TestedWindow {
    MachinesWindow() {
        QDir(QString::fromStdString(desktop::machinesFolder().string())).removeRecursively();
        create(testing::demoHouse());
        open(desktop::Stage::measure);
        window.setPage(desktop::Page::machines);
    }
    void type(const QString& text) { QTest::keyClicks(QApplication::focusWidget(), text); }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = {}) {
        QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : &window, key, modifiers);
    }
    [[nodiscard]] QTableWidget* others() { return child<QTableWidget>("found-table"); }
    [[nodiscard]] QString cell(int row, int column) { return others()->item(row, column)->text(); }
    // Up to where the four words are compared.
    void meet(MeetingAgent& there) {
        click("meet");
        type(QString::fromStdString(there.address));
        key(Qt::Key_Return);
        QString shortened; // four letters of each will do
        for (const QString& word : QString::fromStdString(there.code().words()).split(' '))
            shortened += word.left(4) + ' ';
        type(shortened.trimmed());
        QVERIFY2(child<QLabel>("meet-hint")->text().startsWith("8 of 8"),
                 qPrintable(child<QLabel>("meet-hint")->text()));
        key(Qt::Key_Return);
        QTRY_VERIFY2_WITH_TIMEOUT(child<QLabel>("meet-four")->isVisible(), qPrintable(status()), 5000);
    }
};

} // namespace

class TestMachines : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void aFreshMachineIsMetByKeyboard() {
        MeetingAgent there;
        MachinesWindow w;
        QCOMPARE(w.others()->rowCount(), 0);
        w.child<QTableWidget>("machine-table")->setCurrentCell(1, 0);
        w.meet(there);
        QCOMPARE(w.child<QLabel>("meet-four")->text(), QString::fromStdString(there.met.at(0)));
        QVERIFY(w.child<QLabel>("meet-hint")->text().contains("cellar box"));
        w.picture("meet");
        w.window.resize(1024, 700);
        w.picture("meet-small");
        w.window.resize(1280, 800);
        QVERIFY(there.kept.empty());
        w.key(Qt::Key_Return);
        QTRY_COMPARE(there.kept.size(), std::size_t(1));
        QTRY_VERIFY(!w.child<QWidget>("meet-panel")->isVisible());
        // It is in the list, the machine of the job that was chosen has its address, and the job no key.
        QCOMPARE(w.others()->rowCount(), 1);
        QCOMPARE(w.cell(0, 0), QString("cellar box"));
        QCOMPARE(w.cell(0, 1), QString::fromStdString(there.address));
        QVERIFY2(w.cell(0, 3).startsWith("its own, since ") && w.cell(0, 3).contains('@'),
                 qPrintable(w.cell(0, 3)));
        QCOMPARE(w.saved().endpoints.at(1).address, there.address);
        QFile job(QString::fromStdString(w.file.string()));
        QVERIFY(job.open(QIODevice::ReadOnly));
        QVERIFY(!job.readAll().contains(QByteArray::fromStdString(there.kept[0].text())));
        w.picture("met");
        // From now on it is reached with that key, and with no other.
        desktop::EndpointAccess access;
        access.address = there.address;
        access.known = std::make_shared<probe::KnownMachines>(desktop::machinesFolder());
        access.keys = access.known->keysFor(there.address);
        QCOMPARE(access.keys, there.kept);
        QVERIFY(desktop::openLink(access).has_value());
        access.keys = {probe::Key::generate()};
        QVERIFY(!desktop::openLink(access).has_value());
        const auto folder = desktop::machinesFolder();
        for (const auto& entry : std::filesystem::directory_iterator(folder))
            if (entry.path().extension() == ".key")
                QCOMPARE(std::filesystem::status(entry.path()).permissions(),
                         std::filesystem::perms::owner_read | std::filesystem::perms::owner_write);
    }
    void aRunGoesWithTheKeyOfThePair() {
        MeetingAgent there;
        MachinesWindow w;
        auto* machines = w.child<QTableWidget>("machine-table");
        const auto route = w.saved().routes.front();
        const auto endpoints = w.saved().endpoints;
        const auto rowOf = [&](const house::Id& id) {
            for (std::size_t i = 0; i < endpoints.size(); ++i)
                if (endpoints[i].id == id) return static_cast<int>(i);
            return -1;
        };
        machines->item(rowOf(route.from), 1)->setText("here");
        machines->setCurrentCell(rowOf(route.to), 0);
        w.meet(there);
        w.key(Qt::Key_Return);
        QTRY_VERIFY(!w.child<QWidget>("meet-panel")->isVisible());
        w.window.setPage(desktop::Page::runs);
        w.child<QComboBox>("seconds")->setCurrentIndex(0);
        auto* run = w.child<QAbstractButton>("run");
        run->setFocus();
        QTest::keyClick(&w.window, Qt::Key_Space);
        QTRY_VERIFY2_WITH_TIMEOUT(run->text().startsWith("Stop"), qPrintable(w.status()), 3000);
        QTRY_VERIFY_WITH_TIMEOUT(run->text().startsWith("Run"), 60'000);
        const auto runs = job::readJob(w.file).value().runs;
        QCOMPARE(runs.size(), std::size_t(2));
        QVERIFY(runs[0].run.complete && runs[0].run.goodput.inMegabits() > 50);
    }
    void wordsThatDifferAreNotKept() {
        MeetingAgent there;
        MachinesWindow w;
        w.meet(there);
        w.key(Qt::Key_Escape);
        QTRY_COMPARE(there.codes(), std::size_t(2));
        QVERIFY(there.kept.empty());
        QVERIFY(!w.child<QWidget>("meet-panel")->isVisible());
        QCOMPARE(w.others()->rowCount(), 0);
    }
    void wrongWordsAreSaidAndCanBeTypedAnew() {
        MeetingAgent there;
        MachinesWindow w;
        w.click("meet");
        w.type("here");
        w.key(Qt::Key_Return);
        w.type("able");
        w.key(Qt::Key_Return);
        QTRY_VERIFY2(w.status().contains("no address"), qPrintable(w.status()));
        w.child<QLineEdit>("meet-address")->setText(QString::fromStdString(there.address));
        w.key(Qt::Key_Return);
        QTRY_VERIFY2(w.status().contains("all 8"), qPrintable(w.status()));
        w.type("able able able able able able able zzzz");
        w.key(Qt::Key_Return);
        QTRY_VERIFY2(w.status().contains("“zzzz”"), qPrintable(w.status()));
        w.type("able able able able able able able able");
        w.key(Qt::Key_Return);
        QTRY_VERIFY2_WITH_TIMEOUT(w.status().contains("does not accept"), qPrintable(w.status()), 5000);
        QVERIFY(w.child<QLineEdit>("meet-words")->hasFocus());
        QCOMPARE(w.child<QLineEdit>("meet-words")->selectedText(), w.child<QLineEdit>("meet-words")->text());
    }
    void aCodeHasTheWordsInIt() {
        MeetingAgent there;
        MachinesWindow w;
        const probe::Invitation invitation{there.address, std::nullopt, there.code()};
        w.child<desktop::CodePanel>("codes")->read(testing::codePicture(invitation));
        QTRY_VERIFY2_WITH_TIMEOUT(w.child<QLabel>("meet-four")->isVisible(), qPrintable(w.status()), 5000);
        QCOMPARE(w.child<QLabel>("meet-four")->text(), QString::fromStdString(there.met.at(0)));
    }
    void aKeyIsDeletedAtTheSecondTimeOfAsking() {
        MeetingAgent there;
        MachinesWindow w;
        w.meet(there);
        w.key(Qt::Key_Return);
        QTRY_VERIFY(!w.child<QWidget>("meet-panel")->isVisible());
        w.others()->setFocus();
        w.others()->setCurrentCell(0, 0);
        w.key(Qt::Key_Delete);
        QVERIFY2(w.status().contains("Delete once more"), qPrintable(w.status()));
        QVERIFY(probe::EndpointLink::connect(there.address, there.kept[0]).has_value());
        w.key(Qt::Key_Delete);
        QTRY_VERIFY2(w.status().contains("here and there"), qPrintable(w.status()));
        QCOMPARE(w.cell(0, 3), QString("deleted"));
        QCOMPARE(there.store->ownKeys(), std::size_t(0));
        QVERIFY(!probe::EndpointLink::connect(there.address, there.kept[0]).has_value());
        const probe::KnownMachines known(desktop::machinesFolder());
        QVERIFY(known.keysFor(there.address).empty());
        w.others()->setFocus();
        w.key(Qt::Key_Delete);
        QCOMPARE(w.others()->rowCount(), 0);
        QVERIFY(known.load().value().empty());
    }
    void aKeyIsDeletedHereThoughTheMachineIsGone() {
        auto there = std::make_unique<MeetingAgent>();
        MachinesWindow w;
        w.meet(*there);
        w.key(Qt::Key_Return);
        QTRY_VERIFY(!w.child<QWidget>("meet-panel")->isVisible());
        there.reset();
        w.others()->setFocus();
        w.others()->setCurrentCell(0, 0);
        w.key(Qt::Key_Delete);
        w.key(Qt::Key_Delete);
        QTRY_VERIFY2_WITH_TIMEOUT(w.status().contains("could not be told"), qPrintable(w.status()), 10'000);
        QCOMPARE(w.cell(0, 3), QString("deleted"));
    }
    void aSharedKeyGivesWayToOneOfItsOwn() {
        const QTemporaryDir folder;
        const QString shared = folder.filePath("shared");
        QCOMPARE(probe::Key::generate().save(shared.toStdString()).has_value(), true);
        qputenv("METRODOS_KEY_FILE", shared.toUtf8());
        const auto keys =
            probe::AgentKeys::open({shared.toStdString(), folder.filePath("keys").toStdString()}).value();
        probe::AgentSettings settings{"127.0.0.1:0", "attic box", keys->ring(), {}};
        settings.kept = keys;
        const auto agent = probe::Agent::start(settings, [](const probe::PeerFilter& filter) {
                               return probe::makePerformer("attic box", filter);
                           }).value();
        const std::string address = agent->address().text();
        const probe::Key key = probe::Key::load(shared.toStdString()).value();
        MachinesWindow w;
        const probe::KnownMachines known(desktop::machinesFolder());
        QVERIFY(probe::connectKnown(address, {key}, &known).has_value()); // as a run would
        QCOMPARE(known.load().value().size(), std::size_t(1));
        w.window.setPage(desktop::Page::runs);
        w.window.setPage(desktop::Page::machines);
        QTRY_COMPARE(w.others()->rowCount(), 1);
        QVERIFY2(w.cell(0, 3).startsWith("the shared one; K"), qPrintable(w.cell(0, 3)));
        w.others()->setFocus();
        w.others()->setCurrentCell(0, 0);
        w.key(Qt::Key_K);
        QTRY_VERIFY2_WITH_TIMEOUT(w.status().contains("has a key of its own"), qPrintable(w.status()), 5000);
        QCOMPARE(w.others()->rowCount(), 1);
        QVERIFY2(w.cell(0, 3).startsWith("its own, since "), qPrintable(w.cell(0, 3)));
        QVERIFY(probe::EndpointLink::connect(address, key).has_value());
        w.picture("own-key");
        w.others()->setFocus();
        w.others()->setCurrentCell(0, 0);
        w.key(Qt::Key_K);
        QTRY_VERIFY2_WITH_TIMEOUT(w.status().contains("knows the shared key no longer"),
                                  qPrintable(w.status()), 5000);
        QVERIFY(!probe::EndpointLink::connect(address, key).has_value());
        const auto own = known.keysFor(address);
        QVERIFY(own.size() == 1 && probe::EndpointLink::connect(address, own.front()).has_value());
        qunsetenv("METRODOS_KEY_FILE");
    }
    void furtherRangesAreNamedAndKept() {
        const QTemporaryDir folder;
        qputenv("METRODOS_ALLOWED", folder.filePath("allowed").toUtf8());
        MachinesWindow w;
        auto* ranges = w.child<QLineEdit>("ranges");
        QVERIFY(ranges->text().isEmpty() && desktop::allowedRanges().empty());
        w.key(Qt::Key_J, Qt::AltModifier);
        QTRY_VERIFY(ranges->hasFocus());
        w.type("100.64.0.0/10, everyone");
        w.key(Qt::Key_Return);
        QVERIFY2(w.status().contains("everyone") && w.status().contains("192.0.2.0/24"),
                 qPrintable(w.status()));
        QVERIFY(desktop::allowedRanges().empty());
        ranges->clear();
        w.type("100.64.0.0/10, 2001:db8::/32");
        w.key(Qt::Key_Return);
        QVERIFY2(w.status().contains("may join"), qPrintable(w.status()));
        QCOMPARE(desktop::allowedRanges().size(), std::size_t(2));
        QVERIFY(desktop::allowedRanges().front().contains(probe::numericAddress("100.64.3.4", 0).value()));
        MachinesWindow again;
        QCOMPARE(again.child<QLineEdit>("ranges")->text(), QString("100.64.0.0/10 2001:db8::/32"));
        qunsetenv("METRODOS_ALLOWED");
    }
    // The page is served by another machine, whose agent was started with --guest.
    void anAgentsGuestIsInvited() {
        const GuestedAgent agent;
        const QString file = m_home.filePath("shared-key");
        QFile::remove(file);
        QVERIFY(agent.key.save(file.toStdString()).has_value());
        qputenv("METRODOS_KEY_FILE", file.toUtf8());
        MachinesWindow w;
        auto* machines = w.child<QTableWidget>("machine-table");
        machines->item(1, 1)->setText("guest@" + QString::fromStdString(agent.address));
        const auto url = agent.door->open().value()->state().urls.front();
        QTRY_COMPARE_WITH_TIMEOUT(w.child<QLabel>("guest-address")->text(), QString::fromStdString(url),
                                  5000);
        QCOMPARE(w.saved().endpoints.at(1).address, "guest@" + agent.address);
        QCOMPARE(machines->currentRow(), 1);
        w.picture("guest-at");
        qunsetenv("METRODOS_KEY_FILE");
    }
};

QTEST_MAIN(TestMachines)
#include "test_machines.moc"
