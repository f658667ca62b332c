// The choices of a job, by keyboard in the real window: kept, undone, and felt by what they govern.
#include "desktop/widgets/range_list.h"
#include "support/tested_window.h"

#include <QComboBox>

using namespace metrodos;
using namespace metrodos::desktop;

class TestPracticesPage : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() {
        testing::prepareWindows(m_home);
        qputenv("METRODOS_PRICES", m_home.filePath("prices.csv").toUtf8());
    }

    void eachChoiceIsKeptAndUndone() {
        testing::TestedWindow w;
        w.create(testing::demoHouse());
        w.open(Stage::walk);
        w.window.setPage(Page::practices);
        w.picture("practices");
        const auto boxes = w.window.findChild<QWidget*>("practices")->findChildren<QComboBox*>();
        QCOMPARE(boxes.size(), 9);
        const house::House before = w.saved();
        for (QComboBox* box : boxes) {
            QVERIFY(box->isVisible());
            QVERIFY(!box->accessibleName().isEmpty());
            const QString words = box->currentData().toString();
            box->setFocus();
            QTest::keyClick(box, Qt::Key_Down);
            QVERIFY2(w.saved() != before, qPrintable(box->objectName()));
            QVERIFY(box->currentData().toString() != words);
            QTest::keySequence(&w.window, QKeySequence::Undo);
            QCOMPARE(w.saved(), before);
            QCOMPARE(box->currentData().toString(), words);
        }
        w.window.resize(1024, 700);
        QCoreApplication::processEvents();
        w.picture("practices-small");
    }
    void aNewAddressBeginsAsChosen() {
        testing::TestedWindow w;
        w.create(testing::demoHouse());
        w.open(Stage::walk);
        for (const house::AddressKind kind : {house::AddressKind::reserved, house::AddressKind::fixed}) {
            w.window.setPage(Page::practices);
            auto* addresses = w.child<QComboBox>("practice-addresses");
            addresses->setFocus();
            QTest::keyClick(addresses, kind == house::AddressKind::fixed ? Qt::Key_Down : Qt::Key_Up);
            w.window.setPage(Page::addresses);
            const std::size_t before = w.saved().addressing.ports.size();
            if (w.saved().addressing.networks.empty()) w.click("add-network");
            w.click("add-address");
            const auto after = w.saved().addressing.ports;
            QVERIFY2(after.size() == before + 1, qPrintable(w.status()));
            QCOMPARE(after.back().kind, kind);
        }
    }
    void weighFollowsThem() {
        testing::TestedWindow w;
        w.create(testing::demoHouse());
        w.open(Stage::walk);
        w.window.setPage(Page::practices);
        auto* wiring = w.child<QComboBox>("practice-wiring");
        wiring->setFocus();
        QTest::keyClick(wiring, Qt::Key_Down); // data cable everywhere
        w.window.setStage(Stage::weigh);
        auto* ways = w.child<RangeList>("weighWays");
        QTRY_VERIFY_WITH_TIMEOUT(!ways->texts().filter("this job lays data cable everywhere").isEmpty(),
                                 20'000);
    }
};

QTEST_MAIN(TestPracticesPage)
#include "test_practices_page.moc"
