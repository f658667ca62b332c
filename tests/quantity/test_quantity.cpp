#include "quantity/fields.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <QTest>

#include <limits>
#include <locale>

using namespace metrodos::quantity;

class TestQuantity : public QObject {
    Q_OBJECT

  private slots:
    void textIsCutBetweenLetters() {
        using metrodos::quantity::cutTo;
        QCOMPARE(cutTo("Küche", 2), std::string("K"));
        QCOMPARE(cutTo("Küche", 3), std::string("Kü"));
        QCOMPARE(cutTo("Küche", 6), std::string("Küche"));
        QCOMPARE(cutTo("€", 2), std::string());
        QCOMPARE(cutTo("Küche", 0), std::string());
        QCOMPARE(metrodos::quantity::inQuotes("Küche"), std::string("“Küche”"));
        QCOMPARE(metrodos::quantity::inQuotes(std::string(61, 'x')), "“" + std::string(59, 'x') + "…”");
    }
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
    void whatStaysOfOutsideText_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QByteArray>("left");
        QTest::newRow("plain") << QByteArray("Study, 2nd floor") << QByteArray("Study, 2nd floor");
        QTest::newRow("breaks") << QByteArray("a\nb\rc\td") << QByteArray("a b c d");
        QTest::newRow("escape") << QByteArray("a\x1b[2Jb") << QByteArray("a[2Jb");
        QTest::newRow("delete") << QByteArray("a\x7f"
                                              "b")
                                << QByteArray("ab");
        QTest::newRow("last blank before delete") << QByteArray("a~b") << QByteArray("a~b");
        QTest::newRow("control sequence of 8 bits") << QByteArray("a\xc2\x9b"
                                                                  "2Jb")
                                                    << QByteArray("a2Jb");
        QTest::newRow("no-break space is none") << QByteArray("a\xc2\xa0"
                                                              "b")
                                                << QByteArray("a\xc2\xa0"
                                                              "b");
        QTest::newRow("turned") << QByteArray("a\xe2\x80\xae"
                                              "b")
                                << QByteArray("ab");
        QTest::newRow("isolated") << QByteArray("a\xe2\x81\xa6"
                                                "b\xe2\x81\xa9"
                                                "c")
                                  << QByteArray("abc");
        QTest::newRow("marks") << QByteArray("a\xe2\x80\x8e"
                                             "b\xe2\x80\x8f"
                                             "c\xd8\x9c"
                                             "d")
                               << QByteArray("abcd");
        QTest::newRow("separators") << QByteArray("a\xe2\x80\xa8"
                                                  "b\xe2\x80\xa9"
                                                  "c")
                                    << QByteArray("abc");
        QTest::newRow("ellipsis stays") << QByteArray("a\xe2\x80\xa6") << QByteArray("a\xe2\x80\xa6");
        QTest::newRow("four bytes") << QByteArray("\xf0\x9f\x8f\xa0") << QByteArray("\xf0\x9f\x8f\xa0");
        const QByteArray replaced("\xef\xbf\xbd");
        QTest::newRow("cut off") << QByteArray("a\xe2\x80") << "a" + replaced + replaced;
        QTest::newRow("overlong") << QByteArray("\xc0\xaf") << replaced + replaced;
        QTest::newRow("overlong in three") << QByteArray("\xe0\x80\xaf") << replaced + replaced + replaced;
        QTest::newRow("surrogate") << QByteArray("\xed\xa0\x80") << replaced + replaced + replaced;
        QTest::newRow("beyond") << QByteArray("\xf4\x90\x80\x80")
                                << replaced + replaced + replaced + replaced;
        QTest::newRow("alone") << QByteArray("\x80") << replaced;
    }
    void whatStaysOfOutsideText() {
        QFETCH(QByteArray, text);
        QFETCH(QByteArray, left);
        QCOMPARE(QByteArray::fromStdString(oneLine(text.toStdString())), left);
    }
    void numbersAgreeWithTheirNouns() {
        QCOMPARE(counted(1, "hole"), std::string("1 hole"));
        QCOMPARE(counted(0, "hole"), std::string("0 holes"));
        QCOMPARE(counted(4, "hole"), std::string("4 holes"));
        QCOMPARE(counted(1, "box", "boxes"), std::string("1 box"));
        QCOMPARE(counted(2, "box", "boxes"), std::string("2 boxes"));
    }
    void theDecimalMarkIsThatOfTheLocale() {
        struct Comma : std::numpunct<char> {
            char do_decimal_point() const override { return ','; }
        };
        const std::locale before = std::locale::global(std::locale(std::locale::classic(), new Comma));
        const std::string shown = plain(BitRate::megabits(2350));
        const std::string counted = decimals(1.25, 1);
        const std::string filed = fixed(1.25, 2);
        std::locale::global(before);
        QCOMPARE(shown, std::string("2,35 Gbit/s"));
        QCOMPARE(counted, std::string("1,2"));
        QCOMPARE(filed, std::string("1.25"));
        QCOMPARE(decimals(3.14159, 0), std::string("3"));
        QCOMPARE(fixed(-0.5, 3), std::string("-0.500"));
    }
    void fieldsKeepToTheirBounds() {
        const auto object = nlohmann::json::parse(
            R"({"n": 5, "none": null, "text": "a\u001bb", "whole": 7, "part": 7.5, "less": -1, "yes": true,
                "list": [1, 2, 3], "words": ["x", "y"]})");
        const auto refused = [](const auto& read) {
            try {
                (void)read();
            } catch (const BadField& bad) {
                return bad.name;
            }
            return std::string();
        };
        QCOMPARE(fields::number(object, "n", 5, 5), std::optional<double>(5));
        QCOMPARE(refused([&] { return fields::number(object, "n", 5.1, 9); }), std::string("n"));
        QCOMPARE(refused([&] { return fields::number(object, "n", 0, 4.9); }), std::string("n"));
        QCOMPARE(refused([&] { return fields::number(object, "text", 0, 9); }), std::string("text"));
        QVERIFY(!fields::number(object, "none", 0, 1) && !fields::number(object, "absent", 0, 1));
        QCOMPARE(refused([&] { return fields::neededNumber(object, "none", 0, 1); }), std::string("none"));
        QCOMPARE(fields::count(object, "whole"), std::optional<std::uint64_t>(7));
        QCOMPARE(refused([&] { return fields::count(object, "part"); }), std::string("part"));
        QCOMPARE(refused([&] { return fields::count(object, "less"); }), std::string("less"));
        QCOMPARE(fields::flag(object, "yes"), std::optional<bool>(true));
        QCOMPARE(refused([&] { return fields::neededFlag(object, "n"); }), std::string("n"));
        QCOMPARE(fields::text(object, "text", 3), std::string("ab"));
        QCOMPARE(refused([&] { return fields::text(object, "text", 2); }), std::string("text"));
        QCOMPARE(refused([&] { return fields::neededText(object, "absent", 9); }), std::string("absent"));
        QCOMPARE(fields::texts(object, "words", 2, 1), (std::vector<std::string>{"x", "y"}));
        QCOMPARE(refused([&] { return fields::texts(object, "words", 1, 1); }), std::string("words"));
        QCOMPARE(fields::numbers(object, "list", 3, 1, 3), (std::vector<double>{1, 2, 3}));
        QCOMPARE(refused([&] { return fields::numbers(object, "list", 3, 1, 2); }), std::string("list"));
        QCOMPARE(refused([&] { return fields::list(object, "n", 3); }), std::string("n"));
        QVERIFY(!fields::ifSound([&] { return fields::neededNumber(object, "n", 0, 1); }));
        QCOMPARE(fields::ifSound([&] { return fields::neededNumber(object, "n", 0, 9); }),
                 std::optional<double>(5));
    }
};

QTEST_GUILESS_MAIN(TestQuantity)
#include "test_quantity.moc"
