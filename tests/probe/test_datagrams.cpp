// UDP over loopback: pace, counts and timing; the opening that keeps strangers and forged addresses out; and
// what a run asks of its sockets.
#include "probe/counters.h"
#include "probe/datagram_port.h"
#include "probe/delay_probe.h"
#include "probe/socket_options.h"
#include "support/agents.h"

#include <QElapsedTimer>
#include <QTest>
#include <fstream>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <random>

using namespace metrodos;
using namespace metrodos::testing;
using namespace std::chrono_literals;
using benchmark::Direction;
using benchmark::Protocol;
using benchmark::Run;
using benchmark::RunConfig;

namespace {

RunConfig datagrams(double mbps, double seconds, Direction direction = Direction::forward) {
    RunConfig config;
    config.protocol = Protocol::udp;
    config.direction = direction;
    config.rate = quantity::BitRate::megabits(mbps);
    config.seconds = seconds;
    config.warmup = 0.2;
    return config;
}

struct Ends {
    LoopbackAgent agent;
    EndpointLink from = EndpointLink::here("here").value();
    EndpointLink to = EndpointLink::connect(agent.address, agent.key).value();
    quantity::Result<Run> run(const RunConfig& config) { return conduct(from, to, config, {}, {}); }
};

// A datagram socket of a stranger on loopback.
struct Stranger {
    Fd fd{::socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC, 0)};
    explicit Stranger(std::uint16_t port) {
        const Address to = numericAddress("127.0.0.1", port).value();
        (void)::connect(fd.get(), reinterpret_cast<const sockaddr*>(&to.storage), to.length);
    }
    void send(const std::vector<unsigned char>& bytes) {
        (void)!::send(fd.get(), bytes.data(), bytes.size(), MSG_NOSIGNAL);
    }
    // Bytes of what came back within 150 ms; nothing: −1.
    ssize_t answer(std::vector<unsigned char>* into = nullptr) {
        if (!waitFor(fd.get(), false, 150ms)) return -1;
        std::vector<unsigned char> buffer(2000);
        const ssize_t n = ::recv(fd.get(), buffer.data(), buffer.size(), MSG_DONTWAIT);
        if (into != nullptr && n > 0) into->assign(buffer.begin(), buffer.begin() + n);
        return n;
    }
};

std::vector<unsigned char> opening(unsigned char kind, const Token& token,
                                   const std::vector<unsigned char>& cookie = {}) {
    std::vector<unsigned char> out(40, 0);
    const std::string magic = "MTRD\x02";
    std::copy(magic.begin(), magic.end(), out.begin());
    out[5] = kind;
    std::copy(token.begin(), token.end(), out.begin() + 8);
    std::copy(cookie.begin(), cookie.end(), out.begin() + 24);
    return out;
}

/// A port that waits in a thread of its own.
struct WaitingPort {
    Token token = newToken().value();
    std::atomic<bool> stop{false};
    quantity::Result<Fd> accepted = quantity::problem("nobody came");
    std::uint16_t port = 0;
    std::thread thread;

    explicit WaitingPort(PeerFilter filter = {}) {
        auto opened = std::make_shared<DatagramPort>(
            DatagramPort::open("127.0.0.1", token, datagrams(1, 1), std::move(filter)).value());
        port = opened->port();
        thread = std::thread([this, opened] { accepted = opened->accept(5s, stop); });
    }
    ~WaitingPort() {
        stop = true;
        if (thread.joinable()) thread.join();
    }
};

} // namespace

class TestDatagrams : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void thePaceIsKept_data() {
        QTest::addColumn<double>("mbps");
        QTest::addColumn<bool>("backward");
        QTest::newRow("1M") << 1.0 << false;
        QTest::newRow("20M backward") << 20.0 << true;
        QTest::newRow("200M") << 200.0 << false;
    }
    void thePaceIsKept() {
        QFETCH(double, mbps);
        QFETCH(bool, backward);
        Ends ends;
        const auto run = ends.run(datagrams(mbps, 1.5, backward ? Direction::backward : Direction::forward));
        QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
        QVERIFY(run->datagrams.has_value());
        const auto wanted = mbps * 1e6 / 8 / benchmark::usualDatagram * 1.5;
        const auto sent = static_cast<double>(run->datagrams->sent);
        QVERIFY2(std::fabs(sent - wanted) <= wanted * 0.01 + 1, qPrintable(QString::number(sent)));
        QVERIFY2(run->datagrams->lossRatio() < 0.01,
                 qPrintable(QString::number(run->datagrams->lossRatio())));
        QCOMPARE(run->datagrams->duplicates, std::uint64_t(0));
        QVERIFY(run->datagrams->jitterUs < 5000);
        QVERIFY(run->datagrams->variationUs.has_value());
        QVERIFY(!run->senderLimited && !run->retransmits); // those are TCP's
        QVERIFY(run->rttIdleUs && run->rttIdleUs->p50 > 0 && run->rttIdleUs->p50 < 50'000);
        QVERIFY(run->rttLoadedUs && run->rttLoadedUs->p99 && run->rttLoadedUs->max);
        QVERIFY(run->samples.back().lossRatio.has_value());
    }
    void aSizeAndAByteBoundAreKept() {
        Ends ends;
        RunConfig config = datagrams(50, 10);
        config.segmentBytes = 200;
        config.maxBytes = 100'000;
        QElapsedTimer timer;
        timer.start();
        const auto run = ends.run(config);
        QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
        QCOMPARE(run->datagrams->sent, std::uint64_t(501));
        QVERIFY2(timer.elapsed() < 5000, qPrintable(QString::number(timer.elapsed()))); // not ten seconds
    }
    void stoppingIsQuickAndLeavesNothing() {
        const auto files = openFiles();
        const auto before = threads();
        {
            Ends ends;
            std::stop_source stop;
            QElapsedTimer timer;
            RunObserver observer;
            int seen = 0;
            observer.sample = [&](const benchmark::Sample&) {
                if (++seen != 3) return;
                timer.start();
                stop.request_stop();
            };
            const auto run = conduct(ends.from, ends.to, datagrams(100, 30), observer, stop.get_token());
            QVERIFY(run.has_value() && !run->complete);
            QVERIFY2(timer.elapsed() < 250, qPrintable(QString::number(timer.elapsed())));
        }
        QTRY_COMPARE(openFiles(), files);
        QTRY_COMPARE(threads(), before);
    }
    void bothWaysAtOnce() {
        Ends one;
        EndpointLink from = EndpointLink::here("here").value();
        EndpointLink to = EndpointLink::connect(one.agent.address, one.agent.key).value();
        RunConfig forward;
        forward.seconds = 1;
        forward.streams = 2;
        RunConfig backward = forward;
        backward.direction = Direction::backward;
        std::vector<Leg> legs{{one.from, one.to, forward, {}}, {from, to, backward, {}}};
        const auto runs = conductAll(legs, {});
        QVERIFY2(runs.has_value(), runs ? "" : runs.error().sentence().c_str());
        QCOMPARE(runs->size(), std::size_t(2));
        QCOMPARE((*runs)[0].config.direction, Direction::forward);
        QCOMPARE((*runs)[1].config.direction, Direction::backward);
        QVERIFY(!(*runs)[0].config.group.empty());
        QCOMPARE((*runs)[0].config.group, (*runs)[1].config.group);
        QVERIFY(!(*runs)[0].showsCeiling());
        for (const Run& run : *runs) {
            QVERIFY(run.complete && run.goodput.inMegabits() > 50);
            QCOMPARE(run.samples.back().streamBps.size(), std::size_t(2));
            double sum = 0;
            for (const double bps : run.samples.back().streamBps)
                sum += bps;
            QVERIFY(std::fabs(sum / run.samples.back().goodputBps - 1) < 1e-6);
        }
    }
    void oneLegThatFailsEndsTheOthers() {
        Ends good;
        LoopbackAgent other;
        auto from = EndpointLink::here("here").value();
        auto to = EndpointLink::connect(other.address, other.key).value();
        RunConfig config;
        config.seconds = 20;
        RunConfig impossible = config;
        impossible.congestion = "nosuch";
        std::vector<Leg> legs{{good.from, good.to, config, {}}, {from, to, impossible, {}}};
        QElapsedTimer timer;
        timer.start();
        const auto runs = conductAll(legs, {});
        QVERIFY(!runs);
        QVERIFY2(runs.error().sentence().find("nosuch") != std::string::npos,
                 runs.error().sentence().c_str());
        QVERIFY(timer.elapsed() < 10'000);
    }

    void withoutTheTokenNothingComesBack() {
        WaitingPort port;
        Stranger stranger(port.port);
        Token wrong = port.token;
        wrong[3] ^= 1U;
        std::mt19937 random(3);
        for (const std::size_t size : {0, 1, 23, 24, 39, 40, 41, 1400}) {
            std::vector<unsigned char> garbage(size);
            for (unsigned char& byte : garbage)
                byte = static_cast<unsigned char>(random());
            stranger.send(garbage);
        }
        stranger.send(opening(1, wrong));
        stranger.send(opening(3, wrong));
        std::vector<unsigned char> longer = opening(1, port.token);
        longer.push_back(0);
        stranger.send(longer);
        std::vector<unsigned char> other = opening(1, port.token);
        other[4] = 1; // an earlier version
        stranger.send(other);
        QCOMPARE(stranger.answer(), ssize_t(-1));
    }
    void aForgedSourceReflectsNothing() {
        WaitingPort port;
        // With the right token there is one answer, shorter than the question, whoever claims to have sent
        // it.
        Stranger first(port.port);
        std::vector<unsigned char> challenge;
        first.send(opening(1, port.token));
        QCOMPARE(first.answer(&challenge), ssize_t(24));
        const std::vector<unsigned char> cookie(challenge.begin() + 8, challenge.end());
        // The cookie is good at the address that it was given to only.
        Stranger second(port.port);
        second.send(opening(3, port.token, cookie));
        QCOMPARE(second.answer(), ssize_t(-1));
        QVERIFY(!port.accepted);
        first.send(opening(3, port.token, cookie));
        QCOMPARE(first.answer(), ssize_t(24));
        port.thread.join();
        QVERIFY(port.accepted.has_value());
        // From now on nobody else is heard, token or not.
        second.send(opening(1, port.token));
        QCOMPARE(second.answer(), ssize_t(-1));
    }
    void aReplayedOpeningIsRefusedByTheNextPort() {
        std::vector<unsigned char> recorded;
        {
            WaitingPort port;
            Stranger peer(port.port);
            std::vector<unsigned char> challenge;
            peer.send(opening(1, port.token));
            QCOMPARE(peer.answer(&challenge), ssize_t(24));
            recorded = opening(3, port.token, {challenge.begin() + 8, challenge.end()});
            peer.send(recorded);
            QCOMPARE(peer.answer(), ssize_t(24));
        }
        WaitingPort next;
        Stranger thief(next.port);
        thief.send(recorded);
        QCOMPARE(thief.answer(), ssize_t(-1));
    }
    void aFilterKeepsPeersOut() {
        WaitingPort port([](const Address&) { return false; });
        Stranger peer(port.port);
        peer.send(opening(1, port.token));
        QCOMPARE(peer.answer(), ssize_t(-1));
    }
    void garbageBesideTheOpeningDoesNotHinderIt() {
        WaitingPort port;
        std::atomic<bool> done{false};
        std::thread pest([&] {
            Stranger stranger(port.port);
            while (!done)
                stranger.send(std::vector<unsigned char>(40, 'M'));
        });
        const auto joined = joinDatagramPort("127.0.0.1", port.port, port.token, datagrams(1, 1), 3s);
        done = true;
        pest.join();
        QVERIFY2(joined.has_value(), joined ? "" : joined.error().sentence().c_str());
    }
    void whoDoesNotAnswerIsASentence() {
        const Token token = newToken().value();
        const auto joined = joinDatagramPort("127.0.0.1", 9, token, datagrams(1, 1), 300ms);
        QVERIFY(!joined);
        QVERIFY(joined.error().sentence().find("firewall") != std::string::npos);
    }

    void optionsReachTheSocket() {
        const auto socket = [](int type) { return Fd(::socket(AF_INET, type | SOCK_CLOEXEC, 0)); };
        RunConfig config;
        config.congestion = "reno";
        config.segmentBytes = 500;
        config.dscp = 46;
        config.windowBytes = 128 * 1024;
        config.rate = quantity::BitRate::megabits(80);
        config.streams = 4;
        const Fd fd = socket(SOCK_STREAM);
        QVERIFY(setOptions(fd.get(), config).has_value());
        const auto option = [&](int level, int name) {
            int value = -1;
            socklen_t size = sizeof value;
            ::getsockopt(fd.get(), level, name, &value, &size);
            return value;
        };
        std::array<char, 16> congestion{};
        socklen_t size = congestion.size();
        ::getsockopt(fd.get(), IPPROTO_TCP, TCP_CONGESTION, congestion.data(), &size);
        QCOMPARE(std::string(congestion.data()), std::string("reno"));
        QCOMPARE(option(IPPROTO_IP, IP_TOS), 46 << 2);
        QCOMPARE(option(SOL_SOCKET, SO_SNDBUF), 128 * 1024);
        QCOMPARE(option(SOL_SOCKET, SO_MAX_PACING_RATE), 80'000'000 / 8 / 4);
        config.congestion = "nosuch";
        QVERIFY(!setOptions(socket(SOCK_STREAM).get(), config));
        QVERIFY(bindTo(socket(SOCK_DGRAM).get(), "lo").has_value());
        QVERIFY(bindTo(socket(SOCK_DGRAM).get(), "127.0.0.1").has_value());
        const auto wrong = bindTo(socket(SOCK_DGRAM).get(), "nosuch0");
        QVERIFY(!wrong && wrong.error().sentence().find("neither an interface") != std::string::npos);
    }
    void aSmallWindowAndAPaceShow() {
        Ends ends;
        RunConfig config;
        config.seconds = 1.5;
        config.warmup = 0.3;
        config.rate = quantity::BitRate::megabits(100);
        config.streams = 2;
        config.congestion = "reno";
        config.bind = "lo";
        const auto paced = ends.run(config);
        QVERIFY2(paced.has_value(), paced ? "" : paced.error().sentence().c_str());
        QVERIFY2(paced->goodput.inMegabits() > 85 && paced->goodput.inMegabits() < 102,
                 qPrintable(QString::number(paced->goodput.inMegabits())));
        QVERIFY(!paced->showsCeiling());
    }
    void itWorksOverIpv6() {
        if (!std::ifstream("/proc/net/if_inet6").good()) QSKIP("this machine has no IPv6");
        const Key key = Key::generate();
        AgentSettings settings{"[::1]:0", "six", ringOf(key), {}};
        auto agent = Agent::start(settings, [](const PeerFilter& f) { return makePerformer("six", f); });
        if (!agent) QSKIP("this machine has no IPv6 loopback");
        auto from = EndpointLink::here("here").value();
        auto to = EndpointLink::connect((*agent)->address().text(), key, AF_INET6).value();
        QVERIFY(!EndpointLink::connect((*agent)->address().text(), key, AF_INET));
        for (RunConfig config : {datagrams(20, 0.6), RunConfig{}}) {
            config.seconds = 0.6;
            config.dscp = 10;
            const auto run = conduct(from, to, config, {}, {});
            QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
            QVERIFY(run->rttIdleUs.has_value());
        }
    }
    void countersOfAnInterface() {
        const auto lo = readInterface("lo", true);
        QVERIFY(lo.has_value());
        QVERIFY(!readInterface("nosuch0", true) && !readInterface("", true));
        QVERIFY(!isRadio("lo"));
        QCOMPARE(interfaceTowards(numericAddress("127.0.0.1", 9).value()), std::string("lo"));
        const double before = processSeconds();
        volatile double sum = 0;
        for (int i = 0; i < 2'000'000; ++i)
            sum = sum + i;
        QVERIFY(processSeconds() > before);
    }
};

QTEST_GUILESS_MAIN(TestDatagrams)
#include "test_datagrams.moc"
