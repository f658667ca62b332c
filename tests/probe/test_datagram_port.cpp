// The opening of a flow of datagrams, which keeps strangers and forged addresses out, and what a run asks of
// its sockets.
#include "probe/counters.h"
#include "probe/datagram_port.h"
#include "probe/socket_options.h"
#include "support/agents.h"

#include <QTest>
#include <fstream>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <random>

using namespace metrodos;
using namespace metrodos::testing;
using namespace std::chrono_literals;
using benchmark::Protocol;
using benchmark::RunConfig;

namespace {

RunConfig datagrams(double mbps, double seconds) {
    RunConfig config;
    config.protocol = Protocol::udp;
    config.rate = quantity::BitRate::megabits(mbps);
    config.seconds = seconds;
    config.warmup = 0.2;
    return config;
}

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

class TestDatagramPort : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

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
        QCOMPARE(option(SOL_SOCKET, SO_RCVBUF), 128 * 1024);
        QCOMPARE(option(SOL_SOCKET, SO_MAX_PACING_RATE), 80'000'000 / 8 / 4);
        if (const Fd six(::socket(AF_INET6, SOCK_STREAM | SOCK_CLOEXEC, 0)); six) {
            QVERIFY(setOptions(six.get(), config).has_value());
            int field = -1;
            size = sizeof field;
            ::getsockopt(six.get(), IPPROTO_IPV6, IPV6_TCLASS, &field, &size);
            QCOMPARE(field, 46 << 2);
        }
        config.congestion = "nosuch";
        QVERIFY(!setOptions(socket(SOCK_STREAM).get(), config));
        QVERIFY(bindTo(socket(SOCK_DGRAM).get(), "lo").has_value());
        QVERIFY(bindTo(socket(SOCK_DGRAM).get(), "127.0.0.1").has_value());
        const auto wrong = bindTo(socket(SOCK_DGRAM).get(), "nosuch0");
        QVERIFY(!wrong && wrong.error().sentence().find("neither an interface") != std::string::npos);
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

QTEST_GUILESS_MAIN(TestDatagramPort)
#include "test_datagram_port.moc"
