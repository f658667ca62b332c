// Who is let in, and how much each may ask for: strangers, networks, sessions, messages. On loopback, whose
// addresses 127.x.y.z stand for as many machines.
#include "probe/datagram_port.h"
#include "probe/message_budget.h"
#include "probe/reception.h"
#include "probe/stream_token.h"
#include "support/agents.h"

#include <QElapsedTimer>
#include <QTest>
#include <thread>

using namespace metrodos;
using namespace metrodos::probe;
using namespace std::chrono_literals;

namespace {

// A connection from this address of loopback.
Fd from(const std::string& host, const Address& to) {
    auto fd = connectTo(to, 2s, [&](int socket) -> quantity::Result<void> {
        const auto own = numericAddress(host, 0);
        if (::bind(socket, reinterpret_cast<const sockaddr*>(&own->storage), own->length) != 0)
            return quantity::problem("not bound");
        return {};
    });
    return fd ? std::move(*fd) : Fd();
}

bool isClosed(const Fd& fd) {
    char byte = 0;
    return waitFor(fd.get(), false, 0ms) && ::recv(fd.get(), &byte, 1, MSG_PEEK | MSG_DONTWAIT) <= 0;
}

// A waiting room of its own, without an agent around it.
struct Room {
    Key key = Key::generate();
    TlsContext tls{ringOf(key)};
    Fd listener = listenOn(numericAddress("127.0.0.1", 0).value()).value();
    Address address = localAddress(listener.get());
    Reception reception;

    explicit Room(ReceptionLimits limits)
        : reception(tls, limits) {
        setBlocking(listener.get(), false);
    }
    Fd admit(const std::string& host) {
        Fd mine = from(host, address);
        Fd theirs(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
        reception.admit(std::move(theirs));
        return mine;
    }
};

// A greeted session from this address of loopback; empty: it was turned away.
std::unique_ptr<Channel> session(const std::string& host, const testing::LoopbackAgent& agent) {
    auto channel = TlsContext(agent.key).connect(from(host, resolve(agent.address).value()), 5s);
    if (!channel || !(*channel)->send({{"type", "hello"}, {"protocol", protocolVersion}})) return nullptr;
    const auto answer = (*channel)->receive(5s);
    if (!answer || !*answer || (**answer).value("type", "") != "hello") return nullptr;
    return std::move(*channel);
}

} // namespace

class TestReception : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void whoFillsTheRoomPushesOutHisOwn() {
        Room room({8, 6, 5s});
        const Fd quiet = room.admit("127.0.0.9");
        std::vector<Fd> many;
        for (int i = 0; i < 20; ++i)
            many.push_back(room.admit("127.0.0.1"));
        QCOMPARE(room.reception.size(), std::size_t(7)); // six of the one, and the quiet one
        QVERIFY(!isClosed(quiet));
        QTRY_VERIFY(isClosed(many.front()));
        QVERIFY(!isClosed(many.back()) && !isClosed(many[14]) && isClosed(many[13]));
        // With a third in it the room is full; the fullest network gives way, not the oldest connection.
        const Fd third = room.admit("127.0.0.3");
        QCOMPARE(room.reception.size(), std::size_t(8));
        const Fd fourth = room.admit("127.0.0.4");
        QCOMPARE(room.reception.size(), std::size_t(8));
        QVERIFY(isClosed(many[14]) && !isClosed(quiet) && !isClosed(third) && !isClosed(fourth));
    }
    // From the flooder's own network somebody who has the key is not pushed out once he has said so.
    void whoHasSaidWhichKeyHeHasIsNotPushedOut() {
        Room room({8, 4, 5s});
        Fd mine = from("127.0.0.1", room.address);
        Fd theirs(::accept4(room.listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
        room.reception.admit(std::move(theirs));
        // The first words of a client: sent, and then it waits.
        quantity::Result<std::unique_ptr<Channel>> shown = quantity::problem("not run");
        std::thread holder([&] { shown = TlsContext(room.key).connect(std::move(mine), 5s); });
        Reception::Outcome outcome = room.reception.wait(room.listener.get(), 2000ms);
        std::vector<Fd> many;
        for (int i = 0; i < 20; ++i)
            many.push_back(room.admit("127.0.0.1"));
        QCOMPARE(room.reception.size(), std::size_t(4));
        while (outcome.known.empty() && outcome.refused.empty())
            outcome = room.reception.wait(room.listener.get(), 1000ms);
        holder.join();
        QVERIFY(shown.has_value() && outcome.known.size() == 1);
    }
    void aStrangerHasHisTimeAndNoMore() {
        Room room({8, 8, 100ms});
        const Fd silent = room.admit("127.0.0.1");
        QElapsedTimer timer;
        timer.start();
        while (room.reception.size() > 0 && timer.elapsed() < 5000)
            (void)room.reception.wait(room.listener.get(), 10ms);
        QVERIFY(timer.elapsed() >= 99 && timer.elapsed() < 2000);
        QVERIFY(isClosed(silent));
    }
    void aHandshakeGoesOnWhileOthersSaySlowly() {
        Room room({8, 8, 5s});
        const Fd silent = room.admit("127.0.0.1");
        const Fd slow = room.admit("127.0.0.2");
        QCOMPARE(::send(slow.get(), "\x16\x03", 2, MSG_NOSIGNAL), ssize_t(2));
        Fd mine = from("127.0.0.3", room.address);
        quantity::Result<std::unique_ptr<Channel>> shown = quantity::problem("not run");
        std::thread holder([&] { shown = TlsContext(room.key).connect(std::move(mine), 5s); });
        Reception::Outcome outcome;
        while (!outcome.isKnocking)
            outcome = room.reception.wait(room.listener.get(), 50ms);
        room.reception.admit(Fd(::accept4(room.listener.get(), nullptr, nullptr, SOCK_CLOEXEC)));
        while (outcome.known.empty() && outcome.refused.empty())
            outcome = room.reception.wait(room.listener.get(), 50ms);
        holder.join();
        QVERIFY(shown.has_value());
        QCOMPARE(outcome.known.size(), std::size_t(1));
        QCOMPARE(room.reception.size(), std::size_t(2));
        // Who claims an identity and cannot prove it is named; who claims none is not.
        Credential wrong = credentialOf(Key::generate());
        wrong.identity = sharedIdentity;
        Fd liar = room.admit("127.0.0.4");
        std::thread lies([&] { (void)TlsContext(wrong).connect(std::move(liar), 2s); });
        Reception::Outcome next;
        while (next.refused.empty())
            next = room.reception.wait(room.listener.get(), 50ms);
        lies.join();
        QCOMPARE(next.refused.front(), std::string(sharedIdentity));
        QCOMPARE(::send(silent.get(), "GET / HTTP/1.1\r\n\r\n", 18, MSG_NOSIGNAL), ssize_t(18));
        next = {};
        while (next.refused.empty())
            next = room.reception.wait(room.listener.get(), 50ms);
        QCOMPARE(next.refused.front(), std::string());
    }

    void noMachineTakesAllSessions() {
        const testing::LoopbackAgent agent;
        std::vector<std::unique_ptr<Channel>> held;
        for (int i = 0; i < 20; ++i)
            if (auto one = session("127.0.0.1", agent)) held.push_back(std::move(one));
        QCOMPARE(held.size(), std::size_t(12));
        for (int i = 2; i < 12; ++i)
            if (auto one = session("127.0.0." + std::to_string(i), agent)) held.push_back(std::move(one));
        QCOMPARE(held.size(), std::size_t(16));
        // One that leaves makes room. (QTRY_VERIFY would ask once more, when the room is taken.)
        held.front()->close();
        QVERIFY(QTest::qWaitFor([&] { return session("127.0.0.99", agent) != nullptr; }, 20000));
    }

    void aNetworkIsOneMachine() {
        const auto network = [](const char* host) { return numericAddress(host, 1)->network(); };
        QCOMPARE(network("2001:db8:1:2::1"), network("2001:db8:1:2:ffff::9"));
        QVERIFY(network("2001:db8:1:2::1") != network("2001:db8:1:3::1"));
        QVERIFY(network("192.0.2.1") != network("192.0.2.2"));
        QCOMPARE(network("::ffff:192.0.2.1"), network("192.0.2.1"));
    }

    void whoSaysTooMuchIsHeardLater() {
        MessageBudget budget;
        const auto start = MessageBudget::Clock::now();
        for (int i = 0; i < 400; ++i)
            QCOMPARE(budget.take(1, start).count(), 0);
        QCOMPARE(budget.take(1, start), std::chrono::duration_cast<MessageBudget::Clock::duration>(5ms));
        QCOMPARE(budget.take(20, start), std::chrono::duration_cast<MessageBudget::Clock::duration>(105ms));
        // After a second 200 more; never more than 400 at once, and a clock that is late gives none.
        QCOMPARE(budget.take(0, start + 1s).count(), 0);
        QCOMPARE(budget.take(179, start).count(), 0);
        QVERIFY(budget.take(1, start).count() > 0);
        for (int i = 0; i < 400; ++i)
            QCOMPARE(budget.take(1, start + 1h).count(), 0);
        QVERIFY(budget.take(1, start + 1h).count() > 0);
    }
    void ordersOfOneNetworkShareItsBudget() {
        const testing::LoopbackAgent agent;
        auto one = session("127.0.0.1", agent);
        auto two = session("127.0.0.1", agent);
        auto other = session("127.0.0.2", agent);
        QVERIFY(one && two && other);
        const auto ask = [](Channel& channel, int times) {
            QElapsedTimer timer;
            timer.start();
            for (int i = 0; i < times; ++i) {
                if (!channel.send({{"type", "clock"}}) || !channel.receive(5s)) return -1.0;
            }
            return static_cast<double>(timer.elapsed()) / 1000;
        };
        // 400 are saved up and 200 a second come: 500 of two sessions together take half a second and more,
        // however slow the machine is; of another machine 100 take no time of theirs.
        QElapsedTimer both;
        both.start();
        QVERIFY(ask(*one, 400) >= 0 && ask(*two, 100) >= 0);
        const double spent = static_cast<double>(both.elapsed()) / 1000;
        QVERIFY2(spent > 0.45, qPrintable(QString::number(spent)));
        const double free = ask(*other, 100);
        QVERIFY2(free >= 0 && free < spent, qPrintable(QString::number(free)));
    }

    // A controller whose run hangs may well have a thread that says something.
    void wordsThatKeepASessionDoNotKeepARun() {
        const testing::LoopbackAgent agent;
        for (const bool namesIt : {false, true}) {
            auto channel = session("127.0.0.1", agent);
            QVERIFY(channel != nullptr);
            RunTask task;
            task.run = "run-1";
            task.role = Role::receive;
            task.config.seconds = 30;
            nlohmann::json order = toJson(task);
            order["type"] = "prepare";
            QVERIFY(channel->send(order).has_value());
            auto prepared = channel->receive(5s);
            QVERIFY(prepared && *prepared && (**prepared).value("type", "") == "prepared");
            const auto target = readTarget(**prepared).value();
            std::vector<Fd> streams = joinDataPort(target, task.config, 2s).value();
            QVERIFY(channel->send({{"type", "start"}}).has_value());
            // 3 s after the last word for the run it ends; here it is 4 s, with the session talking all
            // along.
            bool isOpen = true;
            for (int i = 0; i < 16 && isOpen; ++i) {
                nlohmann::json alive{{"type", "alive"}};
                if (namesIt) alive["run"] = "run-1";
                isOpen = channel->send(alive) && channel->send({{"type", "clock"}});
                (void)::send(streams.front().get(), "x", 1, MSG_NOSIGNAL);
                QTest::qWait(250);
                while (isOpen) {
                    const auto said = channel->receive(0ms);
                    isOpen = said.has_value();
                    if (!said || !*said) break;
                }
            }
            QCOMPARE(isOpen, namesIt);
        }
    }

    // Against values of another implementation: Python's hmac, of the bytes 0 to 15.
    void aStreamsTokenIsItsOwn() {
        Token secret{};
        for (std::size_t i = 0; i < secret.size(); ++i)
            secret[i] = static_cast<std::uint8_t>(i);
        QCOMPARE(toHex(streamToken(secret, StreamKind::stream, 0)), "7aaf1c553cc8dbc76d7e2496a093f9d2");
        QCOMPARE(toHex(streamToken(secret, StreamKind::stream, 31)), "248cfef5c6006b172660d714eec60089");
        QCOMPARE(toHex(streamToken(secret, StreamKind::datagrams)), "7bd3856aacdcb28c1d6c951a21a552ec");
        QCOMPARE(toHex(streamToken(secret, StreamKind::delay)), "631e3a0fa232e7d3b519799c497d5197");
    }
    // Whoever reads along on the line has the token of the first stream.
    void aTokenThatWasSeenOpensNothing() {
        const Token secret = newToken().value();
        benchmark::RunConfig two;
        two.streams = 2;
        auto port = DataPort::open("127.0.0.1", secret, two, {}).value();
        const Address address = numericAddress("127.0.0.1", port.port()).value();
        const auto knock = [&](const std::string& host, const Token& token, unsigned char index,
                               std::size_t atOnce = 24) {
            Fd fd = from(host, address);
            std::array<unsigned char, 24> hello{'M', 'T', 'R', 'D', 3, index};
            std::copy(token.begin(), token.end(), hello.begin() + 8);
            for (std::size_t at = 0; at < hello.size(); at += atOnce) {
                if (at > 0) std::this_thread::sleep_for(20ms);
                const std::size_t size = std::min(atOnce, hello.size() - at);
                if (::send(fd.get(), hello.data() + at, size, MSG_NOSIGNAL) != ssize_t(size)) return Fd();
            }
            unsigned char answer = 0;
            if (!waitFor(fd.get(), false, 1000ms) || ::recv(fd.get(), &answer, 1, 0) != 1 || answer != 1)
                return Fd();
            return fd;
        };
        const std::atomic<bool> stop{false};
        quantity::Result<std::vector<Fd>> accepted = quantity::problem("not run");
        std::thread acceptor([&] { accepted = port.accept(20s, stop); });
        const Token first = streamToken(secret, StreamKind::stream, 0);
        const Token second = streamToken(secret, StreamKind::stream, 1);
        QVERIFY(!knock("127.0.0.1", secret, 0)); // the secret itself is no token
        QVERIFY(!knock("127.0.0.1", second, 0));
        QVERIFY(!knock("127.0.0.1", streamToken(secret, StreamKind::delay), 0));
        const Fd joined = knock("127.0.0.1", first, 0);
        QVERIFY(bool(joined));
        QVERIFY(!knock("127.0.0.1", first, 0));  // used
        QVERIFY(!knock("127.0.0.1", first, 1));  // for another stream
        QVERIFY(!knock("127.0.0.2", second, 1)); // from elsewhere, though it is right
        QVERIFY(!knock("127.0.0.1", streamToken(secret, StreamKind::stream, 2), 2)); // there is no third
        const Fd last = knock("127.0.0.1", second, 1, 7);                            // in pieces
        QVERIFY(bool(last));
        acceptor.join();
        QVERIFY(accepted.has_value() && accepted->size() == 2);
        // The delay probe belongs to the same run, and comes from the same place.
        Joiner joiner;
        QVERIFY(joiner.claims(numericAddress("127.0.0.1", 5).value()));
        QVERIFY(joiner.claims(numericAddress("127.0.0.1", 6).value()));
        QVERIFY(!joiner.claims(numericAddress("127.0.0.2", 5).value()));
    }

    // Each form that --allow takes, against each form that an address comes in.
    void rangesMeanTheAddressesThatTheyName() {
        struct Case {
            const char* range;
            const char* inside;
            const char* outside;
        };
        for (const Case& c :
             {Case{"192.0.2.0/24", "192.0.2.255", "192.0.3.0"},
              Case{"192.0.2.0/24", "::ffff:192.0.2.7", "::ffff:192.0.3.7"},
              Case{"::ffff:192.0.2.0/120", "192.0.2.7", "192.0.3.7"},
              Case{"::ffff:192.0.2.0/120", "::ffff:192.0.2.7", "2001:db8::c000:207"},
              Case{"::ffff:192.0.2.7", "192.0.2.7", "192.0.2.6"},
              Case{"::ffff:0:0/96", "203.0.113.9", "2001:db8::1"},
              Case{"100.64.0.0/10", "100.64.0.1", "100.63.255.255"},
              Case{"100.64.0.0/10", "100.127.255.255", "100.128.0.0"},
              Case{"2001:db8::/32", "2001:db8:ffff::1", "2001:db9::1"},
              Case{"2001:db8::1", "2001:db8::1", "2001:db8::2"}, Case{"2000::/3", "3fff::1", "fc00::1"},
              Case{"0.0.0.0/0", "::ffff:8.8.8.8", "2001:db8::1"}, Case{"::/0", "2001:db8::1", "192.0.2.1"}}) {
            const auto range = AddressRange::parse(c.range);
            QVERIFY2(range.has_value(), c.range);
            QVERIFY2(range->contains(numericAddress(c.inside, 0).value()), c.range);
            QVERIFY2(!range->contains(numericAddress(c.outside, 0).value()), c.range);
        }
        for (const char* bad : {"::ffff:192.0.2.0/95", "192.0.2.0/33", "2001:db8::/129", "100.64.0.0/", "/10",
                                "overlay", "", "192.0.2.0/-1"})
            QVERIFY2(!AddressRange::parse(bad), bad);
        QVERIFY(numericAddress("::ffff:127.0.0.1", 0)->isNearby());
        QVERIFY(numericAddress("::ffff:192.168.1.1", 0)->isNearby());
        QVERIFY(!numericAddress("::ffff:192.0.2.1", 0)->isNearby());
        QVERIFY(!numericAddress("100.64.0.1", 0)->isNearby());
        const std::vector<AddressRange> overlay{AddressRange::parse("100.64.0.0/10").value()};
        QVERIFY(mayReach(numericAddress("::ffff:100.64.0.1", 0).value(), overlay));
        QVERIFY(!mayReach(numericAddress("192.0.2.1", 0).value(), overlay));
    }
};

QTEST_GUILESS_MAIN(TestReception)
#include "test_reception.moc"
