// What this machine sees of its networks, against what the system's own tool says, in a namespace made for
// it.
#include "probe/note_network.h"
#include "support/houses.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTest>
#include <sched.h>
#include <set>
#include <unistd.h>

using namespace metrodos;

namespace {

bool run(const QString& command) {
    QProcess p;
    p.startCommand(command);
    return p.waitForFinished(10'000) && p.exitCode() == 0;
}

// An interface with addresses of both versions, a way out and a neighbour.
bool makeNetwork() {
    if (::unshare(CLONE_NEWNET) != 0 && ::unshare(CLONE_NEWUSER | CLONE_NEWNET) != 0) return false;
    for (const char* command :
         {"ip link set lo up", "ip link add wire type veth peer name far",
          "ip link set wire address 02:00:5e:10:00:01", "ip link set far up", "ip link set wire up",
          "ip addr add 192.0.2.20/24 dev wire", "ip addr add 2001:db8:7::20/64 dev wire nodad",
          "ip route add default via 192.0.2.1",
          "ip neigh add 192.0.2.1 lladdr 02:00:5e:10:00:02 nud permanent dev wire",
          "ip neigh add 192.0.2.30 lladdr 02:00:5e:10:00:03 nud permanent dev wire",
          "ip neigh add 192.0.2.31 nud failed dev wire"})
        if (!run(QString::fromLatin1(command))) return false;
    return true;
}

QJsonArray told(const QStringList& what) {
    QProcess p;
    p.start(QStringLiteral("ip"), QStringList{QStringLiteral("-j")} + what);
    p.waitForFinished(10'000);
    return QJsonDocument::fromJson(p.readAllStandardOutput()).array();
}

} // namespace

class TestLocalNetwork : public QObject {
    Q_OBJECT

    bool m_made = false;

  private slots:
    void initTestCase() { m_made = makeNetwork(); }

    void itIsWhatTheKernelTells() {
        if (!m_made) QSKIP("no namespace can be made here");
        const auto seen = probe::readLocalNetwork();
        QVERIFY2(seen.has_value(), seen ? "" : seen.error().sentence().c_str());
        std::set<QString> mine;
        for (const probe::LocalAddress& a : seen->addresses)
            mine.insert(QString::fromStdString(a.interface + " " + a.address.text() + " " +
                                               std::to_string(a.prefix.length) + " " + a.hardware));
        std::set<QString> expected;
        for (const QJsonValue& link : told({QStringLiteral("addr")})) {
            const QJsonObject o = link.toObject();
            for (const QJsonValue& info : o[QStringLiteral("addr_info")].toArray()) {
                const QJsonObject a = info.toObject();
                if (a[QStringLiteral("scope")].toString() != QLatin1String("global")) continue;
                expected.insert(
                    QStringLiteral("%1 %2 %3 %4")
                        .arg(o[QStringLiteral("ifname")].toString(), a[QStringLiteral("local")].toString())
                        .arg(a[QStringLiteral("prefixlen")].toInt())
                        .arg(o[QStringLiteral("address")].toString()));
            }
        }
        QCOMPARE(expected.size(), std::size_t(2));
        QVERIFY(mine == expected);
        QCOMPARE(seen->gateways.size(), std::size_t(1));
        QCOMPARE(seen->gateways[0].address.text(), std::string("192.0.2.1"));
        QCOMPARE(seen->gateways[0].interface, std::string("wire"));
        std::set<std::string> neighbours;
        for (const probe::Neighbour& n : seen->neighbours)
            neighbours.insert(n.address.text() + " " + n.hardware);
        // One that does not answer is none.
        QVERIFY(neighbours ==
                (std::set<std::string>{"192.0.2.1 02:00:5e:10:00:02", "192.0.2.30 02:00:5e:10:00:03"}));
    }
    void itIsTakenOver() {
        const auto at = [](const char* text) { return quantity::IpAddress::parse(text).value(); };
        const auto prefix = [](const char* text) { return quantity::IpPrefix::parse(text).value(); };
        const probe::LocalNetwork local{
            {{"wire", "02:00:5e:10:00:01", at("192.0.2.20"), prefix("192.0.2.0/24")},
             {"vpn", "", at("198.51.100.7"), prefix("198.51.100.7/32")}},
            {{"wire", at("192.0.2.1")}},
            {{"wire", "02:00:5e:10:00:02", at("192.0.2.1")},
             {"wire", "02:00:5e:10:00:03", at("192.0.2.30")}}};
        house::House h = testing::wiredHouse();
        h.addressing.ports = {{"a1", "desk", "lan", "net-1", "192.0.2.20", house::AddressKind::reserved, ""}};
        const auto noted = probe::noteNetwork(h, local);
        QCOMPARE(noted.house.addressing.networks.size(),
                 std::size_t(1)); // an address of its own is no network
        QCOMPARE(noted.house.addressing.networks[0].prefix, std::string("192.0.2.0/24"));
        QCOMPARE(noted.house.addressing.networks[0].gateway, std::string("192.0.2.1"));
        QCOMPARE(noted.house.addressing.ports[0].hardware, std::string("02:00:5e:10:00:01"));
        QCOMPARE(noted.changes.size(), std::size_t(3));
        std::set<std::string> seen;
        for (const probe::SeenAddress& s : noted.seen)
            seen.insert(s.address.text());
        QVERIFY(seen == (std::set<std::string>{"198.51.100.7", "192.0.2.30"})); // the gateway is known
        // A second look changes nothing, and what was typed stays.
        house::House typed = noted.house;
        typed.addressing.networks[0].gateway = "192.0.2.2";
        typed.addressing.ports[0].hardware = "02:00:5e:10:00:99";
        const auto again = probe::noteNetwork(typed, local);
        QVERIFY(again.changes.empty() && again.house == typed);
    }
};

QTEST_GUILESS_MAIN(TestLocalNetwork)
#include "test_local_network.moc"
