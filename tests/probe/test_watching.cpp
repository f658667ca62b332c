// A watch over real sockets on loopback: it outlives what it watches, and leaves nothing behind.
#include "probe/watch.h"
#include "support/agents.h"

#include <QTest>
#include <atomic>
#include <thread>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

benchmark::RunConfig lowDuty() {
    benchmark::RunConfig config;
    config.protocol = benchmark::Protocol::udp;
    config.rate = quantity::BitRate::bitsPerSecond(200e3);
    config.segmentBytes = 500;
    config.seconds = 2;
    return config;
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
            WatchConfig config;
            config.from = [](const std::stop_token&) { return EndpointLink::here("here"); };
            config.to = [&](const std::stop_token&) { return EndpointLink::connect(a.address, a.key); };
            config.run = lowDuty();
            config.seconds = 6;
            std::atomic<int> kept{0};
            WatchObserver observer;
            observer.kept = [&](const benchmark::WatchReport&) { ++kept; };
            const auto report = watch(config, observer, {});
            QVERIFY2(report.has_value(), report ? "" : report.error().sentence().c_str());
            QCOMPARE(report->dropOutCount, std::uint64_t(0));
            QVERIFY(kept >= 2);
            QVERIFY(report->measuredSeconds > 2.5);
            QVERIFY(report->rttUs.has_value());
        }
        QTRY_COMPARE(threads(), running);
        QTRY_COMPARE(openFiles(), files);
    }
    void anAgentThatWasStartedAgainIsFoundAgain() {
        auto a = std::make_unique<LoopbackAgent>();
        const Key key = a->key;
        const std::string address = a->address;
        WatchConfig config;
        config.from = [](const std::stop_token&) { return EndpointLink::here("here"); };
        config.to = [&](const std::stop_token&) { return EndpointLink::connect(address, key); };
        config.run = lowDuty();
        config.seconds = 14;
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
            const AgentSettings settings{address, "again", ringOf(key), {}};
            again =
                Agent::start(settings, [](const PeerFilter& f) { return makePerformer("again", f); }).value();
            (void)wait.wait(lock, stop.get_token(), [] { return false; });
        });
        const auto report = watch(config, observer, {});
        stop.request_stop();
        QVERIFY2(report.has_value(), report ? "" : report.error().sentence().c_str());
        QCOMPARE(report->dropOutCount, std::uint64_t(1));
        const benchmark::DropOut& d = report->dropOuts.front();
        QVERIFY(!d.lost.empty());
        QVERIFY2(std::fabs(d.start - gone) < 0.5, qPrintable(QString::number(d.start)));
        // It was away for 2 s; it is found again within a try and its time-out.
        QVERIFY2(d.seconds > 1.9 && d.seconds < 8, qPrintable(QString::number(d.seconds)));
        QVERIFY(heard > d.start + d.seconds);
    }
    void aStopEndsIt() {
        LoopbackAgent a;
        WatchConfig config;
        config.from = [](const std::stop_token&) { return EndpointLink::here("here"); };
        config.to = [&](const std::stop_token&) { return EndpointLink::connect(a.address, a.key); };
        config.run = lowDuty();
        config.run.seconds = 60;
        config.seconds = maxWatch;
        std::stop_source stop;
        WatchObserver observer;
        observer.sample = [&](double, const benchmark::Sample&) { stop.request_stop(); };
        const auto before = std::chrono::steady_clock::now();
        const auto report = watch(config, observer, stop.get_token());
        QVERIFY(report.has_value());
        QVERIFY(std::chrono::steady_clock::now() - before < std::chrono::seconds(5));
    }
    void whoIsNotThereAtFirstIsAProblem() {
        WatchConfig config;
        config.from = [](const std::stop_token&) { return EndpointLink::here("here"); };
        config.to = [](const std::stop_token&) {
            return EndpointLink::connect("127.0.0.1:1", Key::generate());
        };
        config.run = lowDuty();
        const auto report = watch(config, {}, {});
        QVERIFY(!report);
    }
};

QTEST_GUILESS_MAIN(TestWatching)
#include "test_watching.moc"
