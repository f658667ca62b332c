// Widgets: lists, ranges and the texts of figures.
#include "benchmark/remarks.h"
#include "desktop/walk/loss_view.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "quantity/format.h"

#include <QImage>
#include <QLocale>
#include <QSignalSpy>
#include <QTest>

using namespace metrodos;
using namespace metrodos::desktop;
using quantity::BitRate;

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

class TestWidgets : public QObject {
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
    void cleanup() { followLocale(QLocale::c()); }

    void ratesShowBothUnits() {
        QCOMPARE(bothText(BitRate::megabits(941.48)), QString::fromUtf8("941 Mbit/s · 118 MB/s"));
        QCOMPARE(byteText(BitRate::gigabits(2.3537)), QString("294 MB/s"));
    }
    void timesAreTheLocales() {
        const QDateTime today(QDate::currentDate(), QTime(14, 2, 3));
        const QDateTime other(QDate(2024, 3, 9), QTime(14, 2, 3));
        QLocale::setDefault(QLocale(QLocale::German));
        QCOMPARE(momentText(today), QString("14:02"));
        QCOMPARE(momentText(today, true), QString("14:02:03"));
        QCOMPARE(momentText(other), QString("09.03.24 14:02"));
        QLocale::setDefault(QLocale(QLocale::English, QLocale::UnitedStates));
        QVERIFY2(momentText(other).startsWith("3/9/24 2:02"), qPrintable(momentText(other)));
        QVERIFY2(momentText(other, true).contains("2:02:03"), qPrintable(momentText(other, true)));
        QCOMPARE(momentText(std::string("1970-01-01T00:00:00Z")), QString("–")); // a simulation outside time
        QCOMPARE(momentText(std::string("yesterday")), QString("–"));
        QLocale::setDefault(QLocale::c());
    }
    void theLocalesMarkIsUsed() {
        followLocale(QLocale(QLocale::German));
        QCOMPARE(rateText(BitRate::gigabits(2.35)), QString("2,35 Gbit/s"));
        QCOMPARE(shortRate(BitRate::gigabits(2.5)), QString("2,5G"));
        QCOMPARE(delayText(3650), QString("3,65 ms"));
        // A sentence of the core has its figures so too, and nothing else in it is touched.
        benchmark::Run run;
        run.interfaceSender = benchmark::InterfaceCount{"enp3s0.10", 0};
        benchmark::Sample sample;
        sample.t = 1;
        sample.goodputBps = 2.35e9;
        run.samples.push_back(sample);
        const auto warnings = benchmark::pathWarnings(run);
        QCOMPARE(warnings.size(), std::size_t(1));
        QVERIFY2(warnings[0].find("enp3s0.10") != std::string::npos, warnings[0].c_str());
        QVERIFY2(warnings[0].find("294 MB") != std::string::npos, warnings[0].c_str());
        run.interfaceSender->bytes = 12'340'000;
        QVERIFY(benchmark::pathWarnings(run)[0].find("12,3 MB") != std::string::npos);
        // What goes into a file does not.
        QCOMPARE(quantity::fixed(2.35, 2), std::string("2.35"));
    }
    void shortRatesDropWhatSaysNothing() {
        QCOMPARE(shortRate(BitRate::gigabits(2.5)), QString("2.5G"));
        QCOMPARE(shortRate(BitRate::gigabits(10)), QString("10G"));
        QCOMPARE(shortRate(BitRate::megabits(94.148)), QString("94.1M"));
        QCOMPARE(shortRate(BitRate::bitsPerSecond(1)), QString("1"));
    }
    void rangesShareTheirUnit() {
        const auto range = [](double a, double b, double c) {
            return rangeText({BitRate::megabits(a), BitRate::megabits(b), BitRate::megabits(c)});
        };
        QCOMPARE(range(280, 315, 350), QString("280 to 350 Mbit/s"));
        QCOMPARE(range(900, 1200, 1500), QString("900 Mbit/s to 1.50 Gbit/s"));
        QCOMPARE(range(941.48, 941.48, 941.48), QString("941 Mbit/s"));
    }
    void sharesAreNeverCertain() {
        QCOMPARE(percentText(0.9999), QString(">99 %"));
        QCOMPARE(percentText(0.001), QString("<1 %"));
        QCOMPARE(percentText(0.5), QString("50 %"));
    }
    void theScaleIsLogarithmic() {
        QCOMPARE(logPosition(BitRate::megabits(1)), 0.0);
        QCOMPARE(logPosition(BitRate::megabits(100)), 0.5);
        QCOMPARE(logPosition(BitRate::gigabits(10)), 1.0);
        QCOMPARE(logPosition(BitRate::bitsPerSecond(5)), 0.0);
    }
    void everyIconIsThere() {
        for (const char* name : {"play", "square", "undo-2", "redo-2", "plus", "trash-2", "arrow-left",
                                 "arrow-right", "sun", "moon", "folder-open"})
            QVERIFY2(!icon(QLatin1String(name)).isNull(), name);
        QVERIFY(icon("no-such-icon").isNull());
    }
    // Changing figures stand still, and no figure is torn at its decimal mark.
    void digitsAreOfOneWidthAndMarksAreNarrow() {
        loadFonts();
        for (const bool bold : {false, true})
            for (const double points : {8.0, 13.0, 40.0}) {
                const QFontMetricsF figures(figureFont(points, bold));
                const double digit = figures.horizontalAdvance(QLatin1Char('0'));
                for (char c = '1'; c <= '9'; ++c)
                    QCOMPARE(figures.horizontalAdvance(QLatin1Char(c)), digit);
                for (const char mark : {'.', ','})
                    QVERIFY(figures.horizontalAdvance(QLatin1Char(mark)) < 0.6 * digit);
            }
    }
    void theShippedFontsAreUsed() {
        loadFonts();
        QVERIFY(QFontInfo(textFont(10)).family().contains("B612"));
        const auto wide = [](const QFont& font) { return QFontMetricsF(font).horizontalAdvance("WWWW"); };
        const auto thin = [](const QFont& font) { return QFontMetricsF(font).horizontalAdvance("iiii"); };
        QVERIFY(wide(textFont(10)) > 1.5 * thin(textFont(10)));
        QVERIFY(QFontInfo(codeFont(10)).family().contains("B612 Mono"));
        QCOMPARE(wide(codeFont(10)), thin(codeFont(10))); // each character of a key counts
    }
};

QTEST_MAIN(TestWidgets)
#include "test_widgets.moc"
