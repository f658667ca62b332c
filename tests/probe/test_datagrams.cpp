// Runs of UDP over loopback: pace, counts and timing.
#include "support/agents.h"

#include <QElapsedTimer>
#include <QTest>

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
};

QTEST_GUILESS_MAIN(TestDatagrams)
#include "test_datagrams.moc"
