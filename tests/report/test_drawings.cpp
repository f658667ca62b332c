// What documents draw: ways, weeks and runs as SVG, with their measures worked out by hand, and SVG as
// pictures.
#include "report/run_svg.h"
#include "report/svg.h"
#include "support/documents.h"

#include <QImage>
#include <QRegularExpression>
#include <QTest>

using namespace metrodos;
using namespace metrodos::report;
using metrodos::quantity::BitRate;
using testing::withBlock;

class TestDrawings : public QObject {
    Q_OBJECT

  private slots:
    void drawingsBecomePictures() {
        const std::string svg = svgDrawing(100, 50, "t", svgRect(0, 0, 100, 50, "fill=\"#ff0000\""));
        const auto png = toPng(svg, 2);
        QVERIFY(png.has_value());
        const QImage image = QImage::fromData(QByteArray::fromStdString(*png));
        QCOMPARE(image.size(), QSize(200, 100));
        QCOMPARE(image.pixelColor(100, 50), QColor(255, 0, 0));
        const std::string wide = svgDrawing(100'000, 50, "t", "");
        QVERIFY(QImage::fromData(QByteArray::fromStdString(toPng(wide).value())).width() <= 12'000);
        QVERIFY(!toPng("nothing").has_value());
    }
    // The strip's walls by hand: 100 Mbit/s are two of four decades, half of 110 units; the limit is drawn
    // last.
    void theStripShowsBoreAndLimit() {
        const WayStrip strip{"Way",
                             {{"lead", BitRate::gigabits(10), BitRate::gigabits(10), false},
                              {"old hub", BitRate::megabits(100), BitRate::megabits(10), true}},
                             BitRate::megabits(94),
                             std::nullopt};
        const std::string svg = toSvg(strip);
        QVERIFY2(svg.find("<rect x=\"390.0\" y=\"36.0\" width=\"220.0\"") != std::string::npos, svg.c_str());
        // 10 Mbit/s are a quarter of 110 to the left of 500, 100 Mbit/s a half to the right.
        QVERIFY2(svg.find("<rect x=\"472.5\" y=\"58.0\" width=\"82.5\"") != std::string::npos, svg.c_str());
        QVERIFY(svg.find("y=\"73.0\" text-anchor=\"start\" fill=\"#b23c12\" font-size=\"11.5\" "
                         "font-weight=\"bold\">old hub<") != std::string::npos);
        QVERIFY(svg.find(">limit<") != std::string::npos);
        QCOMPARE(wordsOf(strip),
                 std::string("Way: lead (10.0 Gbit/s) → old hub (100 Mbit/s / 10.0 Mbit/s, the "
                             "limit); measured 94.0 Mbit/s forward"));
    }
    void theWeekIsDrawnByItsHours() {
        WeekHours w{"Week", {}};
        w.week[2][5] = {4, BitRate::megabits(90), BitRate::megabits(100), BitRate::megabits(110), 0, 0, 0};
        w.week[2][7] = {4, BitRate::megabits(20), BitRate::megabits(40), BitRate::megabits(50), 60, 3, 1};
        const std::string svg = toSvg(w);
        QCOMPARE(QString::fromStdString(svg).count("fill-opacity=\"0.25\""), 2);
        QCOMPARE(QString::fromStdString(svg).count(QString::fromUtf8(">×<")), 1);
        // From a tenth below the least to a tenth above the most; at least from half to twice.
        QVERIFY2(svg.find(">121 Mbit/s<") != std::string::npos &&
                     svg.find(">18.0 Mbit/s<") != std::string::npos,
                 svg.c_str());
        // The scale stands beside the hours, not on them.
        const auto numbers = [&](const char* pattern) {
            const auto m = QRegularExpression(pattern).match(QString::fromStdString(svg));
            return std::pair(m.captured(1).toDouble(), m.captured(2).toDouble());
        };
        const auto [left, wide] = numbers("<rect x=\"([\\d.]+)\" y=\"[\\d.]+\" width=\"([\\d.]+)\"");
        QVERIFY(wide > 0 && numbers("<text x=\"([\\d.]+)\"[^>]*>(121) Mbit/s<").first > left + wide);
        WeekHours even{"Even", {}};
        even.week[0][0] = {4, BitRate::megabits(100), BitRate::megabits(100), BitRate::megabits(100), 0, 0,
                           0};
        const std::string flat = toSvg(even);
        QVERIFY(flat.find(">200 Mbit/s<") != std::string::npos &&
                flat.find(">50.0 Mbit/s<") != std::string::npos);
        // Lower where it is slower.
        const std::string text = toMarkdown(withBlock(w));
        QVERIFY2(text.find("| Wednesday | 7 h: 40.0 Mbit/s | 5 h: 100 Mbit/s | 3 |") != std::string::npos,
                 text.c_str());
        QVERIFY(text.find("Monday") == std::string::npos);
        QVERIFY(toPdf(withBlock(w)).has_value() && !toSvg(WeekHours{"Nothing", {}}).empty());
    }
    // By hand: 100 Mbit/s at most makes a scale to 100; half of it is at half of the height, 24 + 85.
    void aRunIsDrawnOverItsTime() {
        benchmark::Run one;
        one.seconds = 2;
        one.goodput = BitRate::megabits(50);
        one.warmupSeconds = 1;
        for (const auto& [t, mbps] : {std::pair(1.0, 100.0), std::pair(2.0, 50.0)}) {
            benchmark::Sample s;
            s.t = t;
            s.goodputBps = mbps * 1e6;
            one.samples.push_back(s);
        }
        const std::string svg = toSvg(one, "A & B");
        QVERIFY2(svg.find("points=\"370.0,24.0 666.0,109.0 \"") != std::string::npos, svg.c_str());
        QVERIFY(svg.find("<rect x=\"74.0\" y=\"24.0\" width=\"296.0\"") != std::string::npos); // the warm-up
        QVERIFY(svg.find("A &amp; B") != std::string::npos && svg.find(">50.0 Mbit/s<") != std::string::npos);
        QVERIFY(toPng(toSvg(benchmark::Run{}, "nothing")).has_value());
    }
};

QTEST_GUILESS_MAIN(TestDrawings)
#include "test_drawings.moc"
