#include "quantity/format.h"
#include "quantity/parse.h"

#include <QTest>

using namespace metrodos::quantity;

class TestQuantity : public QObject {
    Q_OBJECT

  private slots:
    void readsRates_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("bps");
        QTest::newRow("1.2G") << "1.2G" << 1.2e9;
        QTest::newRow("940M") << "940M" << 940e6;
        QTest::newRow("113 MB/s") << "113 MB/s" << 904e6;
        QTest::newRow("113MiB/s") << "113MiB/s" << 113 * 8.388608e6;
        QTest::newRow("100 Mbit/s") << "100 Mbit/s" << 100e6;
        QTest::newRow("100 Mbps") << "100 Mbps" << 100e6;
        QTest::newRow("decimal comma") << "2,5 Gbit/s" << 2.5e9;
        QTest::newRow("kB") << "64 kB/s" << 512e3;
        QTest::newRow("bare") << "9600" << 9600.0;
    }
    void readsRates() {
        QFETCH(QString, text);
        QFETCH(double, bps);
        const auto rate = parseBitRate(text.toStdString());
        QVERIFY2(rate.has_value(), qPrintable(text));
        QVERIFY(std::abs(rate->bps() - bps) <= bps * 1e-12);
    }
    void refusesWhatIsNoRate() {
        for (const char* text :
             {"", "fast", "1.2.3G", "-5M", "0", "1G/min", "9e9", "M", "nan", "inf", "2000G"}) {
            const auto rate = parseBitRate(text);
            QVERIFY2(!rate, text);
            QVERIFY(rate.error().sentence().find("write it like") != std::string::npos);
        }
    }
    void readsLengths() {
        QCOMPARE(parseLength("23 m")->inMetres(), 23.0);
        QCOMPARE(parseLength("30 ft")->inMetres(), 9.144);
        QCOMPARE(parseLength("150cm")->inMetres(), 1.5);
        QCOMPARE(parseLength("7")->inMetres(), 7.0);
        QVERIFY(!parseLength("far"));
        QVERIFY(!parseLength("500 km"));
    }
    void readsDurations() {
        QCOMPARE(parseDuration("500 ms")->count(), 0.5);
        QCOMPARE(parseDuration("5min")->count(), 300.0);
        QVERIFY(!parseDuration("0"));
        QVERIFY(!parseDuration("60 days"));
    }
    void readsWholeNumbersWithinBounds() {
        QCOMPARE(parseWhole("17", 0, 32).value_or(-1), 17LL);
        QVERIFY(!parseWhole("33", 0, 32));
        QVERIFY(!parseWhole("1x", 0, 32));
        QVERIFY(!parseWhole("", 0, 32));
    }
    void writesRatesInBitsAndBytes() {
        QCOMPARE(plain(BitRate::megabits(941.48)), std::string("941 Mbit/s"));
        QCOMPARE(plain(BitRate::gigabits(2.3537)), std::string("2.35 Gbit/s"));
        QCOMPARE(plain(BitRate::megabits(999.6)), std::string("1.00 Gbit/s"));
        QCOMPARE(plain(BitRate::bitsPerSecond(0)), std::string("0 bit/s"));
        QCOMPARE(plainBoth(BitRate::megabits(94.1)), std::string("94.1 Mbit/s · 11.8 MB/s"));
        QCOMPARE(significant(9.996, 3), std::string("10.0"));
        QCOMPARE(plain(Money::units(55)), std::string("¤ 55"));
        QCOMPARE(plain(Money::units(0.6) * 38), std::string("¤ 22.80"));
        QCOMPARE(Money::units(0.1) + Money::units(0.2), Money::units(0.3));
        QCOMPARE(plain(Length::metres(38)), std::string("38 m"));
        QCOMPARE(plainMicroseconds(3420), std::string("3.42 ms"));
        QCOMPARE(plainMicroseconds(180), std::string("180 µs"));
    }
    void whatIsWrittenCanBeReadAgain() {
        for (double bps = 1e3; bps < 1e11; bps *= 1.37) {
            const auto again = parseBitRate(plain(BitRate::bitsPerSecond(bps)));
            QVERIFY(again && std::abs(again->bps() / bps - 1) < 0.006);
        }
    }
    void aProblemIsOneSentenceOnOneLine() {
        const Problem p{"the key\ncannot be read", "key.txt", "create one"};
        QCOMPARE(p.sentence(), std::string("key.txt: the key cannot be read; create one."));
        QCOMPARE(Problem({"done.", "", ""}).sentence(), std::string("done."));
    }
};

QTEST_GUILESS_MAIN(TestQuantity)
#include "test_quantity.moc"
