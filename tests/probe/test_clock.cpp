// The clock of the wall is set again and again while a run goes on: nothing is timed by it.
#include "support/agents.h"

#include <QTest>
#include <cmath>
#include <ctime>
#include <sys/syscall.h>
#include <unistd.h>

namespace {

std::atomic<long> offset{0}; // s
std::atomic<int> asked{0};

} // namespace

// Stands before the C library's own: the time of day leaps, the steady clocks are the kernel's.
extern "C" int clock_gettime(clockid_t clock, timespec* t) noexcept {
    const long result = ::syscall(SYS_clock_gettime, clock, t);
    if (clock == CLOCK_REALTIME) {
        ++asked;
        t->tv_sec += offset;
    }
    return static_cast<int>(result);
}

using namespace metrodos;
using namespace metrodos::testing;

class TestClock : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }
    void theLeapsAreSeenHere() {
        const auto before = std::chrono::system_clock::now();
        offset = 86400;
        QVERIFY(std::chrono::system_clock::now() - before > std::chrono::hours(23));
        offset = 0;
        QVERIFY(asked >= 2);
    }
    void aRunDoesNotFeelThem_data() {
        QTest::addColumn<bool>("udp");
        QTest::newRow("streams") << false;
        QTest::newRow("datagrams") << true;
    }
    void aRunDoesNotFeelThem() {
        QFETCH(bool, udp);
        const LoopbackAgent agent;
        auto from = EndpointLink::here("here").value();
        auto to = EndpointLink::connect(agent.address, agent.key).value();
        benchmark::RunConfig config;
        config.seconds = 2;
        if (udp) {
            config.protocol = benchmark::Protocol::udp;
            config.rate = quantity::BitRate::megabits(50);
        }
        RunObserver observer;
        int leap = 0;
        observer.sample = [&](const benchmark::Sample&) {
            ++leap;
            offset = (leap % 2 == 0 ? -40'000 : 40'000) * leap;
        };
        const auto start = std::chrono::steady_clock::now();
        const auto run = conduct(from, to, config, observer, {});
        const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        offset = 0;
        QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
        QVERIFY(run->complete);
        QCOMPARE(run->samples.size(), std::size_t(20));
        // A leap is at least 40,000 s; what a busy machine adds is well below one.
        QVERIFY(std::fabs(run->seconds - 2) < 1 && took < 10);
        for (std::size_t i = 0; i < run->samples.size(); ++i)
            QVERIFY(std::fabs(run->samples[i].t - 0.1 * static_cast<double>(i + 1)) < 1);
        if (udp) QVERIFY(std::fabs(run->goodput.inMegabits() / 50 - 1) < 0.2);
        // Delays are by the kernel's stamps, which are of that clock: a leap may spoil one probe, not the
        // rest.
        QVERIFY(run->rttLoadedUs.has_value());
        const double median = run->rttLoadedUs->p50;
        QVERIFY2(median > 0.1 && median < 100'000, std::to_string(median).c_str());
    }
};

QTEST_GUILESS_MAIN(TestClock)
#include "test_clock.moc"
