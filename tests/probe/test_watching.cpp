// A watch over real sockets on loopback: it outlives what it watches, and leaves nothing behind.
#include "probe/watch.h"
#include "support/agents.h"

#include <QTest>
#include <atomic>
#include <thread>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

benchmark::RunOrder lowDuty() {
    benchmark::RunOrder order;
    order.protocol = benchmark::Protocol::udp;
    order.rate = quantity::BitRate::bitsPerSecond(200e3);
    order.segmentBytes = 500;
    order.seconds = 2;
    return order;
}

} // namespace

class TestWatching : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void aQuietWatchFindsNothing() {
        LoopbackAgent a;
        const auto files = openFiles();
        const auto running = threads();
        {
            WatchOrder order;
            order.from = [] { return EndpointLink::here("here"); };
            order.to = [&] { return EndpointLink::connect(a.address, a.key); };
            order.run = lowDuty();
            order.seconds = 6;
            std::atomic<int> kept{0};
            WatchObserver observer;
            observer.kept = [&](const WatchReport&) { ++kept; };
            const auto report = watch(order, observer, {});
            QVERIFY2(report.has_value(), report ? "" : report.error().sentence().c_str());
            QCOMPARE(report->watch.dropOutCount(), std::uint64_t(0));
            QVERIFY(kept >= 2);
            QVERIFY(report->watch.measuredSeconds() > 2.5);
            QVERIFY(report->watch.rttUs().has_value());
        }
        QTRY_COMPARE(threads(), running);
        QTRY_COMPARE(openFiles(), files);
    }
    void anAgentThatWasStartedAgainIsFoundAgain() {
        auto a = std::make_unique<LoopbackAgent>();
        const Key key = a->key;
        const std::string address = a->address;
        WatchOrder order;
        order.from = [] { return EndpointLink::here("here"); };
        order.to = [&] { return EndpointLink::connect(address, key); };
        order.run = lowDuty();
        order.seconds = 9;
        std::atomic<double> heard{0};
        WatchObserver observer;
        observer.sample = [&](double t, const benchmark::Sample&) { heard = t; };
        std::stop_source stop;
        std::atomic<double> gone{0};
        std::jthread hand([&] {
            while (heard < 1 && !stop.stop_requested())
                std::this_thread::yield();
            gone = heard.load();
            a.reset(); // ends its sessions
            std::unique_ptr<Agent> again;
            std::mutex mutex;
            std::condition_variable_any wait;
            std::unique_lock lock(mutex);
            (void)wait.wait_for(lock, stop.get_token(), std::chrono::seconds(2), [] { return false; });
            const AgentSettings settings{address, "again", key, {}};
            again =
                Agent::start(settings, [](const PeerFilter& f) { return makePerformer("again", f); }).value();
            (void)wait.wait(lock, stop.get_token(), [] { return false; });
        });
        const auto report = watch(order, observer, {});
        stop.request_stop();
        QVERIFY2(report.has_value(), report ? "" : report.error().sentence().c_str());
        QCOMPARE(report->watch.dropOutCount(), std::uint64_t(1));
        const benchmark::DropOut& d = report->watch.dropOuts().front();
        QVERIFY(!d.lost.empty());
        QVERIFY2(std::fabs(d.start - gone) < 0.5, qPrintable(QString::number(d.start)));
        QVERIFY2(d.seconds > 1.9 && d.seconds < 5, qPrintable(QString::number(d.seconds)));
        QVERIFY(heard > d.start + d.seconds);
    }
    void aStopEndsIt() {
        LoopbackAgent a;
        WatchOrder order;
        order.from = [] { return EndpointLink::here("here"); };
        order.to = [&] { return EndpointLink::connect(a.address, a.key); };
        order.run = lowDuty();
        order.run.seconds = 60;
        order.seconds = longestWatch;
        std::stop_source stop;
        WatchObserver observer;
        observer.sample = [&](double, const benchmark::Sample&) { stop.request_stop(); };
        const auto before = std::chrono::steady_clock::now();
        const auto report = watch(order, observer, stop.get_token());
        QVERIFY(report.has_value());
        QVERIFY(std::chrono::steady_clock::now() - before < std::chrono::seconds(5));
    }
    void whoIsNotThereAtFirstIsAProblem() {
        WatchOrder order;
        order.from = [] { return EndpointLink::here("here"); };
        order.to = [] { return EndpointLink::connect("127.0.0.1:1", Key::generate()); };
        order.run = lowDuty();
        const auto report = watch(order, {}, {});
        QVERIFY(!report);
    }
};

QTEST_GUILESS_MAIN(TestWatching)
#include "test_watching.moc"
