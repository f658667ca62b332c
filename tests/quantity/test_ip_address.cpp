// Addresses and prefixes, against what the standards write.
#include "quantity/ip_address.h"

#include <QTest>

using namespace metrodos;
using quantity::IpAddress;
using quantity::IpPrefix;

namespace {

IpAddress at(const char* text) {
    return IpAddress::parse(text).value();
}

} // namespace

class TestIpAddress : public QObject {
    Q_OBJECT

  private slots:
    // The recommended form is RFC 5952's, section 4.
    void textsAreReadAndWritten() {
        for (const auto& [typed, written] :
             {std::pair("192.0.2.7", "192.0.2.7"),
              std::pair("2001:0db8:0000:0000:0001:0000:0000:0001", "2001:db8::1:0:0:1"),
              std::pair("2001:DB8::A", "2001:db8::a"), std::pair("::ffff:192.0.2.1", "::ffff:192.0.2.1")})
            QCOMPARE(at(typed).text(), std::string(written));
        for (const char* bad : {"", "192.0.2", "192.0.2.256", "192.0.2.1/24", "2001:db8:::1", "fe80::1%eth0",
                                "name", "192.0.2.1 ", "0x7f.1"}) {
            const auto read = IpAddress::parse(bad);
            QVERIFY2(!read && read.error().sentence().find("write it like") != std::string::npos, bad);
        }
    }
    void aLongTextIsNoAddress() {
        QVERIFY(!IpAddress::parse(std::string(5000, '1')));
        QVERIFY(!IpAddress::parse(std::string("192.0.2.1\0x", 11)));
    }
    void stepsStayWithinTheVersion() {
        QCOMPARE(at("192.0.2.255").plus(1)->text(), std::string("192.0.3.0"));
        QCOMPARE(at("192.0.3.0").minus(1)->text(), std::string("192.0.2.255"));
        QVERIFY(!at("255.255.255.255").plus(1));
        QVERIFY(!at("0.0.0.0").minus(1));
        QCOMPARE(at("255.255.255.254").plus(1)->text(), std::string("255.255.255.255"));
        QCOMPARE(at("0.0.0.1").minus(1)->text(), std::string("0.0.0.0"));
        QCOMPARE(at("2001:db8::ffff:ffff:ffff:ffff").plus(1)->text(), std::string("2001:db8:0:1::"));
        QVERIFY(!at("ffff:ffff:ffff:ffff:ffff:ffff:ffff:ffff").plus(1));
        QCOMPARE(at("10.0.0.0").distanceTo(at("10.0.1.0")), 256ULL);
        QCOMPARE(at("10.0.1.0").distanceTo(at("10.0.0.0")), 0ULL);
        QCOMPARE(at("::").distanceTo(at("2001::")), ~0ULL); // more than can be counted
        QVERIFY(at("9.0.0.0") < at("10.0.0.0"));
        QVERIFY(at("255.0.0.0") < at("::1"));
    }
    void prefixesHaveTheirHosts() {
        struct Case {
            const char* typed;
            const char* written;
            const char* firstHost;
            const char* lastHost;
        };
        for (const Case& c : std::initializer_list<Case>{
                 {"192.0.2.77/24", "192.0.2.0/24", "192.0.2.1", "192.0.2.254"},
                 {"192.0.2.6/30", "192.0.2.4/30", "192.0.2.5", "192.0.2.6"},
                 {"192.0.2.5/31", "192.0.2.4/31", "192.0.2.4", "192.0.2.5"}, // RFC 3021
                 {"192.0.2.5/32", "192.0.2.5/32", "192.0.2.5", "192.0.2.5"},
                 {"10.1.2.3/0", "0.0.0.0/0", "0.0.0.1", "255.255.255.254"},
                 {"2001:db8::9/64", "2001:db8::/64", "2001:db8::1", "2001:db8::ffff:ffff:ffff:ffff"},
                 {"2001:db8::9/128", "2001:db8::9/128", "2001:db8::9", "2001:db8::9"}}) {
            const IpPrefix prefix = IpPrefix::parse(c.typed).value();
            QCOMPARE(prefix.text(), std::string(c.written));
            QCOMPARE(prefix.firstHost().text(), std::string(c.firstHost));
            QCOMPARE(prefix.lastHost().text(), std::string(c.lastHost));
            QVERIFY(prefix.contains(prefix.firstHost()) && prefix.contains(prefix.last()));
            if (const auto beyond = prefix.last().plus(1)) QVERIFY(!prefix.contains(*beyond));
            if (const auto before = prefix.first.minus(1)) QVERIFY(!prefix.contains(*before));
            QVERIFY(!prefix.contains(at(prefix.first.isV4() ? "::1" : "192.0.2.1")));
        }
    }
    void whatIsNoPrefixIsRefused() {
        for (const char* bad : {"", "192.0.2.0", "192.0.2.0/33", "192.0.2.0/", "192.0.2.0/-1",
                                "192.0.2.0/2 4", "2001:db8::/129", "/24"})
            QVERIFY2(!IpPrefix::parse(bad), bad);
    }
    void theHostOfAnAddressIsFound() {
        for (const auto& [text, host] :
             {std::pair("192.0.2.1:47710", "192.0.2.1"), std::pair("192.0.2.1", "192.0.2.1"),
              std::pair("[2001:db8::1]:80", "2001:db8::1"), std::pair("2001:db8::1", "2001:db8::1"),
              std::pair("loft:80", "loft"), std::pair("", ""), std::pair("[", "")})
            QCOMPARE(quantity::hostOf(text), std::string(host));
    }
    void hardwareAddressesAreOfOneForm() {
        for (const char* typed : {"02:00:5E:10:00:0a", "02-00-5e-10-00-0A", "0200.5e10.000a", "02005e10000a"})
            QCOMPARE(QString::fromStdString(quantity::parseHardwareAddress(typed).value_or("refused")),
                     QStringLiteral("02:00:5e:10:00:0a"));
        for (const char* bad :
             {"", "02:00:5e:10:00", "02:00:5e:10:00:0g", "02:00-5e:10:00:0a", "2:0:5e:10:0:a",
              "02:00:5e:10:00:0a:0b", "020:05:e1:00:00:a1", "02005e.10000a"})
            QVERIFY2(!quantity::parseHardwareAddress(bad), bad);
    }
};

QTEST_APPLESS_MAIN(TestIpAddress)
#include "test_ip_address.moc"
