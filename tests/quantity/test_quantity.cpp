// Quantities and moments: read as people type them, written as they read them.
#include "quantity/fields.h"
#include "quantity/format.h"
#include "quantity/moment.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <QTest>
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
    void readsRates() {
        for (const auto& [text, bps] :
             {std::pair("1.2G", 1.2e9), std::pair("940M", 940e6), std::pair("113 MB/s", 904e6),
              std::pair("113MiB/s", 113 * 8.388608e6), std::pair("100 Mbit/s", 100e6),
              std::pair("100 Mbps", 100e6), std::pair("2,5 Gbit/s", 2.5e9), std::pair("64 kB/s", 512e3),
              std::pair("9600", 9600.0)}) {
            const auto rate = parseBitRate(text);
            QVERIFY2(rate.has_value() && std::abs(rate->bps() - bps) <= bps * 1e-12, text);
        }
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
    void whatStaysOfOutsideText() {
        const std::string no = "\xef\xbf\xbd"; // U+FFFD stands for each byte that is none
        const std::vector<std::pair<std::string, std::string>> cases{
            {"Study, 2nd floor", "Study, 2nd floor"},
            {"a\nb\rc\td", "a b c d"},
            {"a\x1b[2Jb", "a[2Jb"},
            {"a\x7f"
             "b",
             "ab"},
            {"a~b", "a~b"}, // the last before delete
            {"a\xc2\x9b"
             "2Jb",
             "a2Jb"}, // a control sequence of 8 bits
            {"a\xc2\xa0"
             "b",
             "a\xc2\xa0"
             "b"},              // a no-break space is none
            {"a\u202eb", "ab"}, // turned
            {"a\u2066b\u2069"
             "c",
             "abc"}, // isolated
            {"a\u200eb\u200f"
             "c\u061c"
             "d",
             "abcd"}, // marks of direction
            {"a\u2028b\u2029"
             "c",
             "abc"}, // separators
            {"a\u2026", "a\u2026"},
            {"\xf0\x9f\x8f\xa0", "\xf0\x9f\x8f\xa0"},
            {"a\xe2\x80", "a" + no + no}, // cut off
            {"\xc0\xaf", no + no},        // overlong
            {"\xe0\x80\xaf", no + no + no},
            {"\xed\xa0\x80", no + no + no},          // a surrogate
            {"\xf4\x90\x80\x80", no + no + no + no}, // beyond Unicode
            {"\x80", no},
        };
        for (const auto& [text, left] : cases)
            QCOMPARE(oneLine(text), left);
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
    // By date(1): date -u -d @1777888800 +%FT%TZ.
    void secondsAndTextAreTheSameMoment() {
        QCOMPARE(utcText(1'777'888'800), std::string("2026-05-04T10:00:00Z"));
        QCOMPARE(utcSeconds("2026-05-04T10:00:00Z"), std::optional<std::int64_t>(1'777'888'800));
        QCOMPARE(utcSeconds("1970-01-01T00:00:00Z"), std::optional<std::int64_t>(0));
        QCOMPARE(utcSeconds("2024-02-29T23:59:59Z"), std::optional<std::int64_t>(1'709'251'199));
        // Parts of a second are left out.
        QCOMPARE(utcSeconds("2026-05-04T10:00:00.734Z"), std::optional<std::int64_t>(1'777'888'800));
        // Beyond the calendar the nearest.
        QCOMPARE(utcText(-5), std::string("1970-01-01T00:00:00Z"));
        QCOMPARE(utcText(std::int64_t(1) << 60), std::string("9999-12-31T23:59:59Z"));
        QVERIFY(utcSeconds(utcNow()));
    }
    void whatIsNoMomentIsNone() {
        for (const char* text : {"", "Z", "2026-05-04", "2026-05-04T10:00:00", "2026-05-04T10:00:00+02:00",
                                 "2026-13-04T10:00:00Z", "2026-02-30T10:00:00Z", "2026-04-31T10:00:00Z",
                                 "2026-05-04T24:30:00Z", "2026-05-04T10:61:00Z", "2026-05-04 10:00:00Z",
                                 "2026-05-04T10:00:00.Z", "2026-05-04T10:00:00.7xZ", "x026-05-04T10:00:00Z",
                                 "2026-05-04T10:00:00ZZ", "1969-12-31T23:59:59Z"})
            QVERIFY2(!utcSeconds(text), text);
    }
    void theLocalClockIsThatOfTheZone() {
        qputenv("TZ", "UTC-2"); // two hours ahead, without a summer time
        ::tzset();
        const LocalTime t = localTime(1'777'931'999); // 2026-05-04T21:59:59Z, a Monday
        QCOMPARE(t.dateText(), std::string("2026-05-04"));
        QCOMPARE(t.weekday, 0);
        QCOMPARE(t.hour, 23);
        QCOMPARE(t.minute, 59);
        const LocalTime next = localTime(1'777'932'000);
        QCOMPARE(next.dateText(), std::string("2026-05-05"));
        QCOMPARE(next.weekday, 1);
        QCOMPARE(next.hour, 0);
        // A Sunday is the last of its week.
        QCOMPARE(localTime(1'777'800'000).weekday, 6); // 2026-05-03T09:20:00Z
    }
};

QTEST_GUILESS_MAIN(TestQuantity)
#include "test_quantity.moc"
