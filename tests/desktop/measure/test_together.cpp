// Ways that are used at the same time, in the real window: chosen by keyboard, forecast, and run.
#include "capacity/sharing.h"
#include "desktop/measure/together_page.h"
#include "support/measure_window.h"

#include <QTableWidget>
#include <QTest>

using namespace metrodos;
using namespace metrodos::desktop;
using testing::MeasureWindow;

class TestTogether : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void waysAtOnceAreChosenForecastAndRun() {
        MeasureWindow w(true); // a second way over the same elements
        w.window.setPage(Page::together);
        auto* list = w.child<QTableWidget>("together-ways");
        auto* page = w.child<TogetherPage>("together");
        QCOMPARE(list->rowCount(), 2 * static_cast<int>(w.saved().routes.size()));
        QVERIFY2(page->text().contains("Choose two"), qPrintable(page->text()));
        list->setFocus();
        QTest::keyClick(list, Qt::Key_R);
        QVERIFY2(w.child<QLabel>("status")->text().contains("two ways or more"), qPrintable(w.status()));
        list->setCurrentCell(0, 1);
        QTest::keyClick(list, Qt::Key_Return);
        const QString alone = list->item(0, 2)->text();
        QVERIFY2(alone.contains("bit/s") && alone.contains("B/s") && list->item(0, 3)->text() == alone,
                 qPrintable(alone));
        const int other = 2 * static_cast<int>(w.saved().routes.size()) - 2; // it was put last
        list->setCurrentCell(other, 1);
        QTest::keyClick(list, Qt::Key_Return);
        QVERIFY(list->item(other, 0)->text().contains("chosen"));
        // Over the same elements each gets half, whatever they are.
        const auto flows =
            capacity::shareFlows(w.saved(), catalog::loadDefault().value(),
                                 {{w.saved().routes.front(), true, {}}, {w.saved().routes.back(), true, {}}})
                .value();
        QVERIFY(std::abs(flows[0].shared.bps() / flows[0].alone.bps() - 0.5) < 0.02);
        QVERIFY2(list->item(0, 2)->text() == alone && list->item(0, 3)->text() != alone,
                 qPrintable(list->item(0, 3)->text()));
        QVERIFY2(page->text().startsWith("At once less than alone: ") && page->text().contains("share"),
                 qPrintable(page->text()));
        QCoreApplication::processEvents();
        w.picture("together-page");
        // Between the same machines there is one way that the packets take.
        QTest::keyClick(list, Qt::Key_R);
        QVERIFY2(w.child<QLabel>("status")->text().contains("between the same machines"),
                 qPrintable(w.status()));
        QTest::keyClick(list, Qt::Key_Return);
        QVERIFY(!list->item(list->currentRow(), 0)->text().contains("chosen"));
        // There and back at once.
        list->setCurrentCell(1, 1);
        QTest::keyClick(list, Qt::Key_Return);
        QTest::keyClick(list, Qt::Key_R);
        QVERIFY2(w.child<QLabel>("status")->text().contains("Space"), qPrintable(w.status()));
        QVERIFY(w.child<QAbstractButton>("matrix-only")->isChecked());
    }
};

QTEST_MAIN(TestTogether)
#include "test_together.moc"
