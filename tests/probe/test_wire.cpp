// What goes over the wire, byte by byte: raw TLS by the openssl program, which shares no code with ours.
#include "probe/counters.h"
#include "support/agents.h"

#include <QElapsedTimer>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <filesystem>
#include <fstream>
#include <netinet/in.h>
#include <netinet/tcp.h>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

QByteArray hex(const Key& key) {
    const auto secret = key.secret();
    return QByteArray(reinterpret_cast<const char*>(secret.data()), static_cast<qsizetype>(secret.size()))
        .toHex();
}

QByteArray framed(const QByteArray& body) {
    QByteArray out(4, '\0');
    for (int i = 0; i < 4; ++i)
        out[i] = static_cast<char>((body.size() >> (24 - 8 * i)) & 0xff);
    return out + body;
}

/// A TLS client that is told exactly what to send.
struct RawClient {
    QProcess process;

    RawClient(const LoopbackAgent& agent, const QStringList& more) {
        process.start("openssl", QStringList{"s_client", "-connect", QString::fromStdString(agent.address),
                                             "-quiet", "-psk_identity", "metrodos", "-psk", hex(agent.key)} +
                                     more);
        process.waitForStarted();
    }
    ~RawClient() {
        process.kill();
        process.waitForFinished();
    }
    /// What comes back until the agent hangs up or `limit` passes.
    QByteArray answerTo(const QByteArray& bytes, int limit = 3000) {
        process.write(bytes);
        QElapsedTimer timer;
        timer.start();
        while (process.state() == QProcess::Running && timer.elapsed() < limit)
            process.waitForReadyRead(100);
        return process.readAllStandardOutput();
    }
};

const QByteArray hello =
    framed("{\"type\":\"hello\",\"protocol\":" + QByteArray::number(protocolVersion) + "}");

} // namespace

class TestWire : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        ignoreBrokenPipes();
        QProcess probe;
        probe.start("openssl", {"version"});
        if (!probe.waitForFinished()) QSKIP("the openssl program is not installed");
    }
    void anotherImplementationCanTalkToTheAgent() {
        const LoopbackAgent agent("wire");
        RawClient client(agent, {"-tls1_3"});
        const QByteArray answer = client.answerTo(hello + framed(R"({"type":"facts"})"), 1500);
        QVERIFY2(answer.contains("\"name\":\"wire\""), answer);
        QVERIFY(answer.contains("\"cores\""));
    }
    void olderTlsIsRefused() {
        const LoopbackAgent agent;
        RawClient client(agent, {"-tls1_2"});
        QVERIFY(client.process.waitForFinished(5000));
        QVERIFY(client.process.exitCode() != 0);
    }
    void anotherIdentityIsRefused() {
        const LoopbackAgent agent;
        QProcess process;
        process.start("openssl", {"s_client", "-connect", QString::fromStdString(agent.address), "-quiet",
                                  "-tls1_3", "-psk_identity", "somebody", "-psk", hex(agent.key)});
        QVERIFY(process.waitForFinished(5000));
        QVERIFY(process.exitCode() != 0);
    }
    void withoutAKeyNothingIsSaid() {
        const LoopbackAgent agent("secret name");
        QProcess process;
        process.start("openssl",
                      {"s_client", "-connect", QString::fromStdString(agent.address), "-quiet", "-tls1_3"});
        QVERIFY(process.waitForFinished(5000));
        QVERIFY(!process.readAllStandardOutput().contains("secret name"));
    }
    void oversizedAndEmptyMessagesEndTheSession() {
        const LoopbackAgent agent;
        for (const QByteArray& bad : {QByteArray("\xff\xff\xff\xff"), QByteArray("\x00\x04\x00\x01", 4),
                                      QByteArray("\x00\x00\x00\x00", 4)}) {
            RawClient client(agent, {"-tls1_3"});
            QElapsedTimer timer;
            timer.start();
            (void)client.answerTo(hello + bad, 4000);
            QVERIFY2(client.process.state() == QProcess::NotRunning, bad.toHex());
            QVERIFY(timer.elapsed() < 4000);
        }
        QVERIFY(EndpointLink::connect(agent.address, agent.key).has_value());
    }
    void aMessageCutOffHoldsNobodyUp() {
        const LoopbackAgent agent;
        RawClient cut(agent, {"-tls1_3"});
        (void)cut.answerTo(hello + QByteArray("\x00\x00\x01\x00{\"type\":", 12), 300);
        QVERIFY(EndpointLink::connect(agent.address, agent.key).value().facts().has_value());
    }
    void noiseInsideTheChannelEndsTheSession() {
        const LoopbackAgent agent;
        for (const char* body : {"", "[]", "{", "nonsense", "\"hello\"", "{\"type\":5}"}) {
            if (*body == '\0') continue;
            RawClient client(agent, {"-tls1_3"});
            (void)client.answerTo(framed(body), 4000);
            QVERIFY2(client.process.state() == QProcess::NotRunning, body);
        }
    }
    void messagesMayComeInPieces() {
        const LoopbackAgent agent("patient");
        RawClient client(agent, {"-tls1_3"});
        for (int i = 0; i < hello.size(); ++i) {
            client.process.write(hello.mid(i, 1));
            client.process.waitForBytesWritten(50);
        }
        QVERIFY(client.answerTo({}, 1000).contains("patient"));
    }
    void countersReadTheKernel() {
        const auto server = listenOn(resolve("127.0.0.1:0").value()).value();
        const auto client = connectTo(localAddress(server.get()), std::chrono::seconds(1)).value();
        const Fd accepted(::accept4(server.get(), nullptr, nullptr, SOCK_CLOEXEC));
        QCOMPARE(interfaceOf(localAddress(client.get())), std::string("lo"));
        QVERIFY(interfaceOf(resolve("192.0.2.1").value()).empty());
        QVERIFY(!readInterface("no-such-interface", true));
        const auto before = readInterface("lo", true)->bytes;
        const std::string data(10'000, 'x');
        QCOMPARE(::send(client.get(), data.data(), data.size(), 0), ssize_t(10'000));
        QVERIFY(readInterface("lo", true)->bytes >= before + 10'000);
        QVERIFY(tcpFigures(client.get())->windowBytes > 1000);
        QVERIFY(!tcpFigures(server.get() + 1000));
        // A process of cgroup v2, of v1, of neither; cpu.stat of the kernel's documentation (cgroup-v2.rst).
        QCOMPARE(quotaFilesIn("0::/system.slice/agent.service\n").at(0).string(),
                 std::string("/sys/fs/cgroup/system.slice/agent.service/cpu.stat"));
        QCOMPARE(quotaFilesIn("3:cpuset:/\n2:cpuacct:/x\n4:cpu,cpuacct:/box\n").size(), std::size_t(2));
        QCOMPARE(quotaFilesIn("4:cpu,cpuacct:/box\n").at(0).string(),
                 std::string("/sys/fs/cgroup/cpu,cpuacct/box/cpu.stat"));
        for (const char* nothing : {"", "x", "::", "1:cpuset:/", "5"})
            QVERIFY(quotaFilesIn(nothing).empty());
        QCOMPARE(heldBackSeconds("usage_usec 9\nnr_throttled 3\nthrottled_usec 250000\n"),
                 std::optional<double>(0.25));
        QCOMPARE(heldBackSeconds("nr_periods 11\nthrottled_time 764813740\n"), std::optional(0.76481374));
        QVERIFY(!heldBackSeconds("usage_usec 9\n") && !heldBackSeconds("") && !heldBackSeconds("a b c"));
        CpuMeter meter;
        QVERIFY(!meter.busiestCore()); // one reading is no difference
        volatile double burn = 1;
        QElapsedTimer timer;
        timer.start();
        while (timer.elapsed() < 300)
            burn = burn * 1.0000001;
        const auto busy = meter.busiestCore();
        QVERIFY(busy && *busy > 0.2 && *busy <= 1);
    }
    // Files written by hand in the forms of proc(5) and of the kernel's cgroup-v2.rst.
    void countersOfAnotherRoot() {
        const QTemporaryDir folder;
        const std::filesystem::path root = folder.path().toStdString();
        const auto put = [&](const char* path, const char* text) {
            std::filesystem::create_directories((root / path).parent_path());
            std::ofstream(root / path) << text;
        };
        const char* const before = "cpu  9 9 9 9\ncpu0 100 0 50 800 50 0 0 0 7 7\ncpu1 10 0 0 90\nintr 5\n";
        const char* const after = "cpu  9 9 9 9\ncpu0 130 0 60 900 90 10 5 5 9 9\ncpu1 11 0 0 99\nintr 5\n";
        put("proc/stat", before);
        CpuMeter meter(root);
        QVERIFY(!meter.busiestCore());
        put("proc/stat", after); // 60 of 200 ticks of the one core, 1 of 10 of the other
        QCOMPARE(meter.busiestCore(), std::optional(0.3));
        put("proc/stat", "cpu0 1 0 0 1\ncpu1 21 0 0 109\n"); // the first began anew
        QCOMPARE(meter.busiestCore(), std::optional(0.5));
        put("proc/stat", "cpu0 1 0 0 1\n");
        QVERIFY(!meter.busiestCore());
        // Held back for a fifth of the time, then for all of it.
        put("proc/self/cgroup", "0::/box\n");
        put("sys/fs/cgroup/box/cpu.stat", "throttled_usec 7000000\n");
        for (const char* held : {"throttled_usec 7020000\n", "throttled_usec 999000000\n"}) {
            put("proc/stat", before);
            CpuMeter limited(root);
            (void)limited.busiestCore();
            QTest::qSleep(100);
            put("sys/fs/cgroup/box/cpu.stat", held);
            put("proc/stat", after);
            const double busy = limited.busiestCore().value();
            QVERIFY2(held[15] == '7' ? busy > 0.4 && busy < 0.501 : busy == 1,
                     qPrintable(QString::number(busy)));
            put("sys/fs/cgroup/box/cpu.stat", "throttled_usec 7000000\n");
        }
        put("proc/self/net/dev",
            "Inter-| Receive\n lan0: 100 1 2 3 0 0 0 0 700 7 20 30 0 0 0 0\n lan1: 1 2\n");
        QCOMPARE(readInterface("lan0", true, root)->bytes, 700U);
        QCOMPARE(readInterface("lan0", false, root)->bytes, 100U);
        QCOMPARE(readInterface("lan0", true, root)->errors, 55U);
        QVERIFY(!readInterface("lan1", true, root) && !readInterface("lan", true, root));
        put("sys/class/net/lo/carrier", "1");
        put("sys/class/net/bridge0/carrier", "1");
        put("sys/class/net/air0/wireless/status", "");
        put("sys/class/net/air1/phy80211/name", "");
        put("sys/class/net/air1/device/vendor", "");
        put("sys/class/net/air1/carrier", "1");
        put("sys/class/net/lan0/device/vendor", "");
        put("sys/class/net/lan0/carrier", "0");
        QVERIFY(isRadio("air0", root) && isRadio("air1", root) && !isRadio("lan0", root));
        QVERIFY(!hasCable(root)); // a bridge, a radio, a port that is down
        put("sys/class/net/lan0/carrier", "1");
        QVERIFY(hasCable(root));
    }
};

QTEST_GUILESS_MAIN(TestWire)
#include "test_wire.moc"
