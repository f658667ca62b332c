// What is read of typed quantities and how quantities are written, as it was kept.
#include "quantity/draw.h"
#include "quantity/format.h"
#include "quantity/ip_address.h"
#include "quantity/moment.h"
#include "quantity/parse.h"
#include "quantity/text.h"
#include "support/kept.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::quantity;
using nlohmann::json;

namespace {

template <typename Value, typename Figure>
json told(const Result<Value>& read, Figure figure) {
    return read ? json(figure(*read)) : json(read.error().sentence());
}

} // namespace

class TestKeptTexts : public QObject {
    Q_OBJECT

  private slots:
    void whatIsTyped() {
        json all;
        for (const std::string& text : testing::keptKeys("typed", "amounts"))
            all["amounts"][text] = {told(parseBitRate(text), [](BitRate r) { return r.bps(); }),
                                    told(parseByteCount(text), [](ByteCount c) { return plain(c); }),
                                    told(parseLength(text), [](Length l) { return l.inMetres(); }),
                                    told(parseDuration(text), [](auto d) { return d.count(); }),
                                    parseWhole(text, -5, 1000).value_or(-999)};
        for (const std::string& text : testing::keptKeys("typed", "moments")) {
            const auto seconds = utcSeconds(text);
            all["moments"][text] = {seconds.value_or(-1), seconds ? utcText(*seconds) : ""};
        }
        QVERIFY_KEPT("typed", all);
    }
    void whatIsWritten() {
        json all;
        for (const double x : {0.0,    1e-9,    0.04999, 0.05,  0.5,    0.9994,  0.9996, 1.0,   9.994,
                               9.996,  12.345,  94.05,   99.95, 100.0,  314.9,   949.9,  999.4, 999.6,
                               1000.0, 12345.6, 1e6,     2.5e9, 9.41e9, 9.996e9, 1e12,   -3.25, -0.004}) {
            const BitRate rate = BitRate::bitsPerSecond(x < 0 ? 0 : x);
            json& of = all[QString::number(x, 'g', 17).toStdString()];
            of = {plain(rate),
                  plainBytes(rate),
                  plainBoth(rate),
                  plain(Length::metres(x)),
                  plain(Money::units(x < 1e7 ? x : 1e7)),
                  significant(x, 2),
                  significant(x, 3),
                  plainMicroseconds(x)};
            for (const int digits : {0, 1, 3}) {
                of.push_back(fixed(x, digits));
                of.push_back(decimals(x, digits));
            }
        }
        for (const std::string text :
             {"", "a", "two\nlines\there", "caf\xc3\xa9 au lait", "\xe2\x82\xac 5", "\xff\xfe",
              "\xed\xa0\x80", "\xf0\x9f\x8f\xa0 house", "\xc0\xaf", "<b>bold</b>", "\x1b[31mred", "a\u202eb",
              "\xf4\x90\x80\x80", "\xe0\x80\x80"})
            all["text"].push_back({oneLine(text), shortened(oneLine(text), 4), cutTo(oneLine(text), 5),
                                   inQuotes(oneLine(text)), lettersOf(text)});
        for (const int n : {0, 1, 2, 21})
            all["counted"].push_back({counted(n, "port"), counted(n, "box", "boxes")});
        for (std::uint64_t n = 0; n < 12; ++n)
            all["draws"].push_back(
                {normalDraw(n * 1234567), uniformOf(n, "name"), uniformOf(7, std::to_string(n))});
        QVERIFY_KEPT("written", all);
    }
    void addresses() {
        json all;
        for (const std::string& text : testing::keptKeys("addresses", "addresses")) {
            json& of = all["addresses"][text];
            of = json::array({hostOf(text)});
            const auto a = IpAddress::parse(text);
            if (!a) {
                of.push_back(a.error().sentence());
                continue;
            }
            of.push_back({a->text(), a->isV4(), a->bits()});
            for (const std::uint64_t steps : {1ULL, 255ULL, 70000ULL}) {
                const auto up = a->plus(steps);
                const auto down = a->minus(steps);
                of.push_back({up ? up->text() : "none", down ? down->text() : "none",
                              up ? a->distanceTo(*up) : 0, up ? up->distanceTo(*a) : 0});
            }
        }
        for (const std::string& text : testing::keptKeys("addresses", "prefixes")) {
            const auto p = IpPrefix::parse(text);
            if (!p) {
                all["prefixes"][text] = p.error().sentence();
                continue;
            }
            json& of = all["prefixes"][text];
            of = {p->text(), p->last().text(), p->firstHost().text(), p->lastHost().text()};
            for (const char* inside :
                 {"192.0.2.0", "192.0.2.255", "192.0.3.0", "10.255.0.1", "2001:db8::ffff", "2001:db9::"})
                of.push_back(p->contains(IpAddress::parse(inside).value()));
        }
        for (const std::string& text : testing::keptKeys("addresses", "hardware"))
            all["hardware"][text] = told(parseHardwareAddress(text), [](const std::string& s) { return s; });
        QVERIFY_KEPT("addresses", all);
    }
};

QTEST_GUILESS_MAIN(TestKeptTexts)
#include "test_kept_texts.moc"
