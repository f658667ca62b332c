// Hostile and broken peers: the agent goes on, and a run beside them finishes.
#include "probe/datagram_port.h"
#include "support/agents.h"

#include <QElapsedTimer>
#include <QTest>
#include <random>
#include <unistd.h>

using namespace metrodos;
using namespace metrodos::testing;
using namespace std::chrono_literals;

namespace {

benchmark::RunConfig streams(int count) {
    benchmark::RunConfig config;
    config.streams = count;
    return config;
}

// One connection that is garbage in one of several ways.
void bother(const Address& address, std::mt19937& random) {
    Fd fd(::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0));
    if (::connect(fd.get(), reinterpret_cast<const sockaddr*>(&address.storage), address.length) != 0) return;
    std::string bytes(random() % 300, '\0');
    for (char& c : bytes)
        c = static_cast<char>(random());
    switch (random() % 4) {
    case 0:
        break; // opens and leaves
    case 1:
        bytes = "GET / HTTP/1.1\r\n\r\n";
        [[fallthrough]]; // speaks something else
    case 2:
        (void)!::send(fd.get(), bytes.data(), bytes.size(), MSG_NOSIGNAL);
        break;
    default: // the head of a handshake, cut off
        bytes = std::string("\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03\x03", 11) + bytes;
        (void)!::send(fd.get(), bytes.data(), bytes.size(), MSG_NOSIGNAL);
    }
    if (random() % 2 == 0) resetOnClose(fd.get());
}

} // namespace

class TestRobustness : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }
    void tenThousandGarbageConnectionsDoNotHurtARun() {
        const LoopbackAgent agent;
        auto from = EndpointLink::here("here").value();
        auto to = EndpointLink::connect(agent.address, agent.key).value();
        const Address address = resolve(agent.address).value();
        std::atomic<bool> running{false};
        std::atomic<int> sent{0};
        std::thread pest([&] {
            while (!running)
                std::this_thread::yield();
            std::mt19937 random(1);
            for (; sent < 10'000; ++sent)
                bother(address, random);
        });
        benchmark::RunConfig config;
        config.seconds = 4;
        RunObserver observer;
        observer.started = [&](const benchmark::Run&) { running = true; };
        const auto result = conduct(from, to, config, observer, {});
        pest.join();
        QVERIFY2(result.has_value(), result ? "" : result.error().sentence().c_str());
        QVERIFY(result->complete);
        QCOMPARE(result->samples.size(), std::size_t(40));
        QCOMPARE(sent.load(), 10'000);
        // Who has the key still gets in, at once.
        QVERIFY(EndpointLink::connect(agent.address, agent.key).has_value());
    }
    void garbageOnTheDataPortDoesNotDisturbItsOpening() {
        const Token token = newToken().value();
        auto port = DataPort::open("127.0.0.1", token, streams(2), {}).value();
        const DataTarget target{"127.0.0.1", port.port(), 0, token};
        const Address address = resolve("127.0.0.1:" + std::to_string(port.port())).value();
        const std::atomic<bool> stop{false};
        std::thread pest([&] {
            std::mt19937 random(2);
            for (int i = 0; i < 200; ++i)
                bother(address, random);
        });
        quantity::Result<std::vector<Fd>> joined = quantity::problem("not run");
        std::thread friendly([&] { joined = joinDataPort(target, streams(2), 3s); });
        const auto accepted = port.accept(5s, stop);
        friendly.join();
        pest.join();
        QVERIFY2(accepted.has_value(), accepted ? "" : accepted.error().sentence().c_str());
        QVERIFY(joined.has_value());
        QCOMPARE(accepted->size(), std::size_t(2));
    }
    void aWrongTokenOpensNothing() {
        const Token token = newToken().value();
        auto port = DataPort::open("127.0.0.1", token, streams(1), {}).value();
        DataTarget target{"127.0.0.1", port.port(), 0, token};
        target.token[3] ^= 1U;
        const std::atomic<bool> stop{false};
        quantity::Result<std::vector<Fd>> joined = quantity::problem("not run");
        std::thread thief([&] { joined = joinDataPort(target, streams(1), 1s); });
        const auto accepted = port.accept(1500ms, stop);
        thief.join();
        QVERIFY(!joined);
        QVERIFY(!accepted);
        QVERIFY(accepted.error().sentence().find("firewall") != std::string::npos);
    }
    void peersThatAreNotAllowedOpenNothing() {
        const Token token = newToken().value();
        auto port =
            DataPort::open("127.0.0.1", token, streams(1), [](const Address&) { return false; }).value();
        const DataTarget target{"127.0.0.1", port.port(), 0, token};
        const std::atomic<bool> stop{false};
        quantity::Result<std::vector<Fd>> joined = quantity::problem("not run");
        std::thread peer([&] { joined = joinDataPort(target, streams(1), 1s); });
        QVERIFY(!port.accept(1s, stop));
        peer.join();
        QVERIFY(!joined);
    }
    void aPeerThatStopsReadingIsLeft() {
        const LoopbackAgent agent;
        // Asks for facts without ever reading an answer: the agent must not wait for it for ever.
        auto fd = connectTo(resolve(agent.address).value(), 2s).value();
        const int small = 4096;
        ::setsockopt(fd.get(), SOL_SOCKET, SO_RCVBUF, &small, sizeof small);
        auto channel = TlsContext(agent.key).connect(std::move(fd), 2s).value();
        QVERIFY(channel->send({{"type", "hello"}, {"protocol", protocolVersion}}).has_value());
        QElapsedTimer timer;
        timer.start();
        bool refused = false;
        while (!refused && timer.elapsed() < 30'000)
            refused = !channel->send({{"type", "facts"}}).has_value();
        QVERIFY2(refused, "the agent kept a peer that does not read");
        QVERIFY(EndpointLink::connect(agent.address, agent.key).has_value());
    }
};

QTEST_GUILESS_MAIN(TestRobustness)
#include "test_robustness.moc"
