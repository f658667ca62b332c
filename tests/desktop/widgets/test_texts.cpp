// How figures are written on the screen, in the locale's way.
#include "benchmark/remarks.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "quantity/format.h"

#include <QLocale>
#include <QTest>

using namespace metrodos;
using namespace metrodos::desktop;
using quantity::BitRate;

class TestTexts : public QObject {
    Q_OBJECT

  private slots:
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

QTEST_MAIN(TestTexts)
#include "test_texts.moc"
