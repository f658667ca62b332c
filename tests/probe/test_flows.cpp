// The probe of the delay and both ends of a flow of datagrams, each by itself against a plain socket.
#include "probe/datagram_flow.h"
#include "probe/datagram_format.h"
#include "probe/delay_probe.h"
#include "probe/kernel_time.h"
#include "probe/tolerances.h"

#include <QTest>
#include <array>
#include <atomic>
#include <cstring>
#include <ctime>
#include <linux/errqueue.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <thread>

using namespace metrodos;
using namespace metrodos::probe;
using std::chrono::milliseconds;

namespace {

/// Two UDP sockets on loopback, each connected to the other.
std::pair<Fd, Fd> sockets(const char* host = "127.0.0.1") {
    const auto open = [&] {
        const Address any = numericAddress(host, 0).value();
        Fd fd(::socket(any.storage.ss_family, SOCK_DGRAM | SOCK_CLOEXEC, 0));
        if (::bind(fd.get(), reinterpret_cast<const sockaddr*>(&any.storage), any.length) != 0)
            qFatal("bind");
        return fd;
    };
    const auto join = [](const Fd& a, const Fd& b) {
        const Address to = localAddress(b.get());
        if (::connect(a.get(), reinterpret_cast<const sockaddr*>(&to.storage), to.length) != 0)
            qFatal("connect");
    };
    std::pair<Fd, Fd> out{open(), open()};
    join(out.first, out.second);
    join(out.second, out.first);
    setTimeouts(out.second.get(), milliseconds(50), false);
    return out;
}

using Packet = std::array<std::uint64_t, 8>; // a probe: its number, ns spent at the peer, padding

/// Hands each probe that comes to `answer`, with the socket to answer on.
class Peer {
  public:
    Peer(Fd socket, std::function<void(int, Packet)> answer)
        : m_socket(std::move(socket))
        , m_thread([this, answer = std::move(answer)] {
            Packet packet{};
            while (!m_stop)
                if (::recv(m_socket.get(), packet.data(), sizeof packet, 0) == sizeof packet) {
                    ++seen;
                    answer(m_socket.get(), packet);
                }
        }) {}
    ~Peer() {
        m_stop = true;
        m_thread.join();
    }
    std::atomic<std::uint64_t> seen{0};

  private:
    Fd m_socket;
    std::atomic<bool> m_stop{false};
    std::thread m_thread;
};

void reply(int fd, const Packet& packet) {
    (void)!::send(fd, packet.data(), sizeof packet, MSG_NOSIGNAL);
}

Token token(std::uint8_t first) {
    Token out{};
    out[0] = first;
    return out;
}

struct Datagram {
    FlowHead head;
    std::size_t size = 0;
};

/// What comes until three ends of the flow, or nothing for a second.
std::vector<Datagram> received(int fd) {
    std::vector<Datagram> out;
    std::array<unsigned char, 9216> bytes{};
    int ends = 0;
    setTimeouts(fd, milliseconds(1000), false);
    while (ends < 3) {
        const auto n = ::recv(fd, bytes.data(), bytes.size(), 0);
        if (n < 0) break;
        const auto head = readHead(std::span(bytes).first(static_cast<std::size_t>(n)));
        if (!head) continue;
        if (head->number == endOfFlow)
            ++ends;
        else
            out.push_back({*head, static_cast<std::size_t>(n)});
    }
    return out;
}

benchmark::RunConfig paced(double mbps, int size, double seconds) {
    benchmark::RunConfig config;
    config.protocol = benchmark::Protocol::udp;
    config.rate = quantity::BitRate::megabits(mbps);
    config.segmentBytes = size;
    config.seconds = seconds;
    return config;
}

} // namespace

class TestFlows : public QObject {
    Q_OBJECT

  private slots:
    void whatThePeerSpentIsTakenOff_data() {
        QTest::addColumn<bool>("told");
        QTest::newRow("told") << true;
        QTest::newRow("not told") << false;
    }
    void whatThePeerSpentIsTakenOff() {
        QFETCH(bool, told);
        auto [mine, theirs] = sockets();
        Peer peer(std::move(theirs), [&](int fd, Packet packet) {
            const std::int64_t came = monotonicNs();
            std::this_thread::sleep_for(milliseconds(8));
            if (told) packet[1] = static_cast<std::uint64_t>(monotonicNs() - came);
            reply(fd, packet);
        });
        DelayProbe probe(std::move(mine));
        std::this_thread::sleep_for(milliseconds(1000));
        const auto s = probe.statistics();
        QVERIFY2(s.count() >= 25 && s.count() <= 52, qPrintable(QString::number(s.count())));
        const double p50 = s.percentiles()->p50;
        QVERIFY2(told ? p50 > 0 && p50 < 5000 : p50 >= 7900 && p50 < 20'000,
                 qPrintable(QString::number(p50)));
        QCOMPARE(s.lost(), std::uint64_t(0));
        const auto median = probe.takeMedian();
        QVERIFY(median && std::fabs(*median - p50) < 0.3 * p50 + 100);
    }
    // Answers that came twice, of other sizes or to probes that were never sent count for nothing.
    void onlyAnswersToOwnProbesCount() {
        auto [mine, theirs] = sockets();
        std::atomic<std::uint64_t> answered{0};
        std::atomic<std::uint64_t> last{0};
        Peer peer(std::move(theirs), [&](int fd, Packet packet) {
            last = packet[0];
            if (packet[0] % 2 == 1) return;
            Packet other = packet;
            other[0] = packet[0] + 5000; // not sent yet
            reply(fd, other);
            other[0] = UINT64_MAX;
            reply(fd, other);
            (void)!::send(fd, "short", 5, MSG_NOSIGNAL);
            std::array<char, 200> longer{};
            (void)!::send(fd, longer.data(), longer.size(), MSG_NOSIGNAL);
            ++answered;
            reply(fd, packet);
            reply(fd, packet);
        });
        DelayProbe probe(std::move(mine));
        std::this_thread::sleep_for(milliseconds(3200));
        QTRY_VERIFY_WITH_TIMEOUT(probe.statistics().count() + 1 >= answered, 500);
        const auto s = probe.statistics();
        QVERIFY2(s.count() <= answered, qPrintable(QString::number(s.count())));
        // Every second one stays away, and is lost when a hundred more have gone.
        const double due = (static_cast<double>(last) - lostAfter) / 2;
        QVERIFY(due > 10);
        QVERIFY2(std::fabs(static_cast<double>(s.lost()) - due) <= 2, qPrintable(QString::number(s.lost())));
        probe.mark();
        QVERIFY(probe.statistics().count() < 3);
        QCOMPARE(probe.statistics().lost(), std::uint64_t(0));
    }
    void aSenderIsNeverAheadOfItsPace() {
        auto [mine, theirs] = sockets();
        std::vector<Datagram> came;
        std::thread reader([&, fd = theirs.get()] { came = received(fd); });
        const std::int64_t before = monotonicNs();
        DatagramSender sender(std::move(mine), paced(8, 1000, 1), token(7)); // one in a millisecond
        sender.start();
        reader.join();
        const std::uint64_t sent = sender.sent();
        QTRY_VERIFY_WITH_TIMEOUT(sender.ended(), 1000);
        QCOMPARE(sender.bytes(), sent * 1000);
        QVERIFY2(sent <= 1001 && sent + sender.givenUp() >= 990, qPrintable(QString::number(sent)));
        QVERIFY2(came.size() <= sent && came.size() > sent * 8 / 10,
                 qPrintable(QString::number(came.size())));
        std::uint64_t next = 0;
        std::int64_t last = before;
        for (const Datagram& d : came) {
            QCOMPARE(d.size, std::size_t(1000));
            QCOMPARE(d.head.mark, markOf(token(7)));
            QVERIFY(d.head.number >= next && d.head.number < sent);
            next = d.head.number + 1;
            QVERIFY(d.head.sentNs >= last);
            last = d.head.sentNs;
            // Datagram n is due n milliseconds after the start.
            QVERIFY(d.head.sentNs - before >= static_cast<std::int64_t>(d.head.number) * 1'000'000);
        }
    }
    // What is due at once goes out at once, and is not given up for it: at this pace three in a wake-up.
    void aFastPaceIsReached() {
        auto [mine, theirs] = sockets();
        DatagramSender sender(std::move(mine), paced(400, 1000, 0.5), token(7)); // one in 20 µs
        sender.start();
        QTRY_VERIFY_WITH_TIMEOUT(sender.ended(), 3000);
        QVERIFY2(sender.sent() > 12'000 && sender.sent() <= 25'001,
                 qPrintable(QString::number(sender.sent())));
        QVERIFY2(sender.givenUp() < 10'000, qPrintable(QString::number(sender.givenUp())));
    }
    // A bound of bytes is reached, and passed by at most a datagram.
    void aByteBoundEndsASender() {
        for (const auto& [bound, datagrams] :
             {std::pair(10'500, 11), std::pair(999, 1), std::pair(10'000, 11)}) {
            auto [mine, theirs] = sockets();
            benchmark::RunConfig config = paced(8, 1000, 5);
            config.maxBytes = static_cast<std::uint64_t>(bound);
            DatagramSender sender(std::move(mine), config, token(1));
            sender.start();
            QTRY_VERIFY_WITH_TIMEOUT(sender.ended(), 2000);
            QCOMPARE(sender.sent(), static_cast<std::uint64_t>(datagrams));
            QCOMPARE(sender.givenUp(), std::uint64_t(0));
            QCOMPARE(received(theirs.get()).size(), static_cast<std::size_t>(datagrams));
        }
    }
    void whoIsNotThereDoesNotEndASender() {
        auto [mine, theirs] = sockets();
        theirs.reset();
        DatagramSender sender(std::move(mine), paced(8, 1000, 0.5), token(1));
        sender.start();
        QTRY_VERIFY_WITH_TIMEOUT(sender.ended(), 3000);
        QVERIFY(sender.sent() > 100);
    }
    // A datagram that nothing takes, larger than UDP can say, is not tried for ever.
    void whatCannotBeSentEndsASender() {
        auto [mine, theirs] = sockets();
        DatagramSender sender(std::move(mine), paced(1, 70'000, 60), token(1));
        sender.start();
        QTRY_VERIFY_WITH_TIMEOUT(sender.ended(), 2000);
        QCOMPARE(sender.sent(), std::uint64_t(0));
    }
    // The kernel's stamp is of the wall's clock; one that cannot be, since that was set meanwhile, is not
    // taken.
    void aStampIsTakenWhereItCanBe() {
        const auto arrival = [](std::int64_t agoNs, std::int64_t seen) {
            timespec wall{};
            ::clock_gettime(CLOCK_REALTIME, &wall);
            const std::int64_t at = wall.tv_sec * 1'000'000'000 + wall.tv_nsec - agoNs;
            scm_timestamping stamps{};
            stamps.ts[0] = {at / 1'000'000'000, at % 1'000'000'000};
            alignas(cmsghdr) std::array<unsigned char, CMSG_SPACE(sizeof stamps)> control{};
            msghdr message{};
            message.msg_control = control.data();
            message.msg_controllen = control.size();
            *CMSG_FIRSTHDR(&message) = {CMSG_LEN(sizeof stamps), SOL_SOCKET, SCM_TIMESTAMPING};
            std::memcpy(CMSG_DATA(CMSG_FIRSTHDR(&message)), &stamps, sizeof stamps);
            return arrivalNs(message, seen) - seen;
        };
        const std::int64_t now = monotonicNs();
        QVERIFY(std::llabs(arrival(400'000'000, now) + 400'000'000) < 50'000'000);
        QCOMPARE(arrival(2'000'000'000, now), std::int64_t(0));
        QCOMPARE(arrival(-2'000'000'000, now), std::int64_t(0));
    }
    // The kernel says when each datagram came to the queue, numbered as they were sent.
    void departuresAreNumbered() {
        for (const char* host : {"127.0.0.1", "::1"}) {
            auto [mine, theirs] = sockets(host);
            QVERIFY(stampArrivals(mine.get(), true));
            for (std::uint32_t n = 0; n < 3; ++n) {
                const std::int64_t before = monotonicNs();
                QCOMPARE(::send(mine.get(), "datagram", 8, MSG_NOSIGNAL), ssize_t(8));
                std::optional<Departure> left;
                QVERIFY(
                    QTest::qWaitFor([&] { return (left = takeDeparture(mine.get())).has_value(); }, 1000));
                QCOMPARE(left->number, n);
                QVERIFY(left->ns >= before - 1'000'000 && left->ns <= monotonicNs());
            }
            QVERIFY(!takeDeparture(mine.get()));
        }
    }
    // Goodput is what came for the first time; what comes again is counted as that.
    void aReceiverCountsWhatIsItsOwn() {
        auto [mine, theirs] = sockets();
        DatagramReceiver receiver(std::move(mine), token(3));
        receiver.start();
        const auto send = [fd = theirs.get()](std::uint64_t mark, std::uint64_t number, std::size_t size) {
            std::array<unsigned char, 9216> bytes{};
            writeHead({mark, number, monotonicNs()}, bytes.data());
            (void)!::send(fd, bytes.data(), size, MSG_NOSIGNAL);
        };
        const std::uint64_t own = markOf(token(3));
        for (const std::uint64_t number : {0, 1, 2, 2, 5, 4})
            send(own, number, 500);
        send(markOf(token(4)), 3, 500); // of another flow
        send(own, 3, flowHeadBytes - 1);
        QTRY_COMPARE_WITH_TIMEOUT(receiver.bytes(), std::uint64_t(5 * 500), 2000);
        QVERIFY(!receiver.ended());
        send(own, endOfFlow, flowHeadBytes);
        QTRY_VERIFY_WITH_TIMEOUT(receiver.ended(), 2000);
        const benchmark::DatagramCount c = receiver.count();
        QCOMPARE(c.sent, std::uint64_t(6));
        QCOMPARE(c.received, std::uint64_t(5));
        QCOMPARE(c.duplicates, std::uint64_t(1));
        QCOMPARE(c.reordered, std::uint64_t(1));
        QCOMPARE(c.dropped, std::uint64_t(0));
        QCOMPARE(receiver.takeLoss().value(), 1.0 / 6);
        QVERIFY(!receiver.takeLoss());
        QCOMPARE(receiver.bytes(), std::uint64_t(5 * 500));
    }
};

QTEST_GUILESS_MAIN(TestFlows)
#include "test_flows.moc"
