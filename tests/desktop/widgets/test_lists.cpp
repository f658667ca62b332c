// The list of ranges and the stair of losses by themselves: choosing, scrolling, and that what is drawn is
// what was given.
#include "desktop/walk/loss_view.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/theme.h"

#include <QApplication>
#include <QImage>
#include <QScrollBar>
#include <QSignalSpy>
#include <QTest>

using namespace metrodos;
using namespace metrodos::desktop;

namespace {

catalog::RateSpread between(double low, double high) {
    return {quantity::BitRate::megabits(low), quantity::BitRate::megabits((low + high) / 2),
            quantity::BitRate::megabits(high)};
}

std::vector<RangeRow> rows(int count) {
    std::vector<RangeRow> out;
    for (int i = 0; i < count; ++i) {
        RangeRow row;
        row.title = QStringLiteral("Way %1").arg(i + 1);
        row.forward = between(10.0 * (i + 1), 20.0 * (i + 1));
        row.backward = row.forward;
        out.push_back(row);
    }
    return out;
}

// How many pixels of a widget have one colour.
int count(QWidget& widget, const QColor& colour) {
    QImage image(widget.size(), QImage::Format_RGB32);
    widget.render(&image);
    int n = 0;
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x)
            n += image.pixelColor(x, y) == colour ? 1 : 0;
    return n;
}

capacity::Contribution step(const std::string& label, double db) {
    capacity::Contribution out;
    out.label = label;
    out.lossDb = {db, db, db};
    return out;
}

} // namespace

class TestLists : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        loadFonts();
        applyTheme(*qApp, lightTheme());
    }

    void keysChooseAndStopAtTheEnds() {
        RangeList list;
        list.setRows(rows(3));
        QCOMPARE(list.current(), 0); // the best one at first
        QSignalSpy chosen(&list, &RangeList::chosen);
        QTest::keyClick(&list, Qt::Key_Down);
        QTest::keyClick(&list, Qt::Key_Down);
        QCOMPARE(list.current(), 2);
        QTest::keyClick(&list, Qt::Key_Down);
        QCOMPARE(list.current(), 2);
        QCOMPARE(chosen.last().first().toInt(), 2);
        for (int i = 0; i < 5; ++i)
            QTest::keyClick(&list, Qt::Key_Up);
        QCOMPARE(list.current(), 0);
    }
    void aClickChoosesTheRowUnderIt() {
        RangeList list;
        list.resize(500, 400);
        list.setRows(rows(4));
        list.show();
        QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, QPoint(30, 10));
        QCOMPARE(list.current(), 0);
        QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, QPoint(30, 130));
        QCOMPARE(list.current(), 2);
    }
    void theChosenRowIsScrolledIntoSight() {
        RangeList list;
        list.resize(400, 150);
        list.setRows(rows(12));
        list.show();
        QCOMPARE(list.verticalScrollBar()->value(), 0);
        list.setCurrent(11);
        QVERIFY(list.verticalScrollBar()->value() > 0);
        list.setCurrent(0);
        QCOMPARE(list.verticalScrollBar()->value(), 0);
    }
    void anEmptyListSaysWhatToDo() {
        RangeList list;
        list.resize(400, 200);
        list.setEmptyText("Choose two places.");
        list.show();
        QVERIFY(list.rows().empty());
        QCOMPARE(list.current(), -1);
        QTest::keyClick(&list, Qt::Key_Down); // nothing there to choose
        QCOMPARE(list.current(), -1);
        const int withWords = count(list, lightTheme().ink) + count(list, lightTheme().quiet);
        list.setEmptyText("");
        QVERIFY(count(list, lightTheme().ink) + count(list, lightTheme().quiet) < withWords);
    }
    void textsSayRangeOrReason() {
        RangeList list;
        auto two = rows(2);
        two[1].forward.reset();
        two[1].backward.reset();
        two[1].instead = "does not link";
        list.setRows(two);
        QVERIFY2(list.texts()[0].contains("10.0 to 20.0 Mbit/s"), qPrintable(list.texts()[0]));
        QVERIFY2(list.texts()[1].contains("does not link"), qPrintable(list.texts()[1]));
    }
    void aWiderRangeHasALongerBar() {
        RangeList list;
        list.resize(500, 60);
        list.show();
        auto one = rows(1);
        one[0].forward = one[0].backward = between(100, 110);
        list.setRows(one);
        const int narrow = count(list, lightTheme().quiet);
        one[0].forward = one[0].backward = between(10, 1000);
        list.setRows(one);
        QVERIFY(count(list, lightTheme().quiet) > narrow);
    }

    void theStairGrowsWithItsSteps() {
        LossView view;
        LossPicture picture;
        picture.title = "Hall to Loft";
        picture.sentence = "carries 2.1 Gbit/s";
        picture.steps = {step("run of 20 m", 6), step("4-way splitter", 12)};
        picture.totalDb = {18, 18, 18};
        view.setPicture(picture);
        const int two = view.sizeHint().height();
        picture.steps.push_back(step("another splitter", 4));
        view.setPicture(picture);
        QVERIFY(view.sizeHint().height() > two);
        QVERIFY(view.text().contains("another splitter: 4.0 dB"));
        QVERIFY(view.text().contains("4-way splitter: 12.0 dB"));
        picture.byHour.assign(24, 1e8);
        const int before = view.sizeHint().height();
        view.setPicture(picture);
        QVERIFY(view.sizeHint().height() > before);
    }
    void onlyARulingIsWarm() {
        LossView view;
        view.resize(420, 300);
        LossPicture picture;
        picture.title = "Hall to Loft";
        picture.steps = {step("run of 20 m", 6)};
        picture.totalDb = {6, 6, 6};
        picture.rulings = {"Satellite uses the same frequencies."};
        view.setPicture(picture);
        QVERIFY(view.text().contains("Satellite"));
        const int ruled = count(view, lightTheme().warm);
        picture.rulings.clear();
        view.setPicture(picture);
        QVERIFY(ruled > count(view, lightTheme().warm));
    }
    void whatWouldHelpIsSaidWithItsGain() {
        LossView view;
        LossPicture picture;
        capacity::Improvement filter;
        filter.does = "a filter at the entry";
        filter.gainDb = 8;
        filter.carriesAfter = quantity::BitRate::megabits(2100);
        picture.improvements = {filter};
        view.setPicture(picture);
        QVERIFY2(view.text().contains("A filter at the entry: 8.0 dB less, then 2.10 Gbit/s"),
                 qPrintable(view.text()));
    }
};

QTEST_MAIN(TestLists)
#include "test_lists.moc"
