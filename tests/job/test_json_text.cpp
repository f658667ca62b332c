// JSON as text: what it means, and what is none.
#include "job/json_text.h"

#include <QTest>
#include <nlohmann/json.hpp>

using namespace metrodos;
using nlohmann::json;

class TestJsonText : public QObject {
    Q_OBJECT

  private slots:
    // The other parser of the program says the same of every kind of value.
    void valuesAreThoseOfRfc8259() {
        for (const char* text :
             {"null", "true", "false", "0", "1", "-7", "18446744073709551615", "-9223372036854775808", "0.1",
              "-2.5e-3", "1e308", "5e-324", "\"\"", "\"a\\n\\u00e9\\ud83d\\ude00\"", "[]", "{}",
              "[1,[2,{\"a\":[]}]]", "{\"b\":1,\"a\":{\"c\":null}}", "  [ 1 , 2 ]  "}) {
            const json value = job::readJson(text);
            QVERIFY2(value == json::parse(text), text);
            QCOMPARE(value.type(), json::parse(text).type());
        }
        QVERIFY(job::readJson("{\"a\":1,\"a\":2}") == json::parse("{\"a\":2}"));
        QVERIFY(job::readJson("0").is_number_unsigned());
        QVERIFY(job::readJson("-1").is_number_integer() && !job::readJson("-1").is_number_unsigned());
    }
    void whatIsNoJsonIsDiscarded() {
        for (const std::string& text :
             {std::string(), std::string(" "), std::string("{"), std::string("[1,]"), std::string("{\"a\"}"),
              std::string("01"), std::string("1 2"), std::string("NaN"), std::string("1e999"),
              std::string("\"\x01\""), std::string("\"\xff\""), std::string("[1]\0", 4), std::string("'a'")})
            QVERIFY2(job::readJson(text).is_discarded(), text.c_str());
    }
    void depthIsBounded() {
        const auto nested = [](int depth) {
            return std::string(static_cast<std::size_t>(depth), '[') +
                   std::string(static_cast<std::size_t>(depth), ']');
        };
        QVERIFY(!job::readJson(nested(20)).is_discarded());
        QVERIFY(!job::readJson(nested(job::maxJsonDepth - 1)).is_discarded());
        QVERIFY(job::readJson(nested(job::maxJsonDepth + 1)).is_discarded());
        QVERIFY(job::readJson(nested(1'000'000)).is_discarded());
    }
};

QTEST_GUILESS_MAIN(TestJsonText)
#include "test_json_text.moc"
