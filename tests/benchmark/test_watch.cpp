// What a watch keeps of its samples: drop-outs at their times, hours, bounded memory.
#include "benchmark/watch_report.h"

#include <QTest>
#include <nlohmann/json.hpp>

using namespace metrodos;
using namespace metrodos::benchmark;

namespace {

constexpr double pace = 1e6;

Sample carrying(double bps, double rttUs = 1000) {
    Sample s;
    s.goodputBps = bps;
    s.rttUs = rttUs;
    return s;
}

/// Tenths of a second from `from` to `to` seconds.
void feed(Watch& watch, double from, double to, double bps = pace) {
    const auto tenth = [](double t) { return std::lround(t * 10); };
    for (long i = tenth(from) + 1; i <= tenth(to); ++i)
        watch.add(static_cast<double>(i) / 10, carrying(bps));
}

Watch paced() {
    return Watch(quantity::BitRate::bitsPerSecond(pace));
}

bool near(double value, double wanted) {
    return std::fabs(value - wanted) < 1e-6;
}

} // namespace

class TestWatch : public QObject {
    Q_OBJECT

  private slots:
    void aDropOutHasItsTimes() {
        Watch watch = paced();
        feed(watch, 0, 10);
        feed(watch, 10, 12.5, 0);
        feed(watch, 12.5, 20);
        feed(watch, 20, 20.2, 0); // too short to count
        feed(watch, 20.2, 30);
        watch.end(30);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(1));
        QVERIFY(near(watch.dropOuts()[0].start, 10) && near(watch.dropOuts()[0].seconds, 2.5));
        QVERIFY(watch.dropOuts()[0].lost.empty());
        QVERIFY(near(watch.measuredSeconds(), 30) && near(watch.seconds(), 30));
    }
    void oneAtTheEndCountsToo() {
        Watch watch = paced();
        feed(watch, 0, 5);
        feed(watch, 5, 6, 0.05 * pace);
        watch.end(6);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(1));
        QVERIFY(near(watch.dropOutSeconds(), 1));
    }
    void withoutAPaceTheMedianSaysWhatIsLow() {
        Watch watch(std::nullopt);
        feed(watch, 0, 20, 900e6);
        feed(watch, 20, 21, 100e6); // slow, but no drop-out
        feed(watch, 21, 22, 20e6);
        feed(watch, 22, 30, 900e6);
        watch.end(30);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(1));
        QVERIFY(near(watch.dropOuts()[0].start, 21) && near(watch.dropOuts()[0].seconds, 1));
    }
    void aLostRunIsOutUntilTheNextByte() {
        Watch watch = paced();
        feed(watch, 0, 10);
        watch.lose(15, "the cable is out");
        watch.lose(17, "still out");
        watch.pause();
        feed(watch, 20, 30);
        watch.end(30);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(1));
        QVERIFY(near(watch.dropOuts()[0].start, 10) && near(watch.dropOuts()[0].seconds, 10));
        QCOMPARE(watch.dropOuts()[0].lost, std::string("the cable is out"));
        QVERIFY(near(watch.measuredSeconds(), 20));
    }
    // It lasts from the last byte until the watch ends, as long as nothing came back; who broke off first
    // says why.
    void aLostRunThatNeverCameBackIsOutToTheEnd() {
        Watch watch = paced();
        feed(watch, 0, 10);
        watch.lose(10.4, "the cable was pulled");
        watch.lose(11, "no answer");
        watch.end(12);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(1));
        QVERIFY(near(watch.dropOuts()[0].start, 10) && near(watch.dropOuts()[0].seconds, 2));
        QCOMPARE(watch.dropOuts()[0].lost, std::string("the cable was pulled"));
        QVERIFY(near(watch.dropOutSeconds(), 2) && near(watch.seconds(), 12));
        // A run that is low, and then breaks, is one drop-out from where it became low.
        Watch low = paced();
        feed(low, 0, 5);
        feed(low, 5, 6, 0);
        low.lose(6.5, "lost");
        feed(low, 7, 9); // the first sample of the next run began at 7
        low.end(9);
        QCOMPARE(low.dropOutCount(), std::uint64_t(1));
        QVERIFY(near(low.dropOuts()[0].start, 5) && near(low.dropOuts()[0].seconds, 2));
    }
    void betweenTwoRunsNothingIsOut() {
        Watch watch = paced();
        feed(watch, 0, 10);
        watch.pause();
        feed(watch, 10.7, 20);
        watch.end(20);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(0));
    }
    void sleepIsNoDropOut() {
        Watch watch = paced();
        feed(watch, 0, 10);
        watch.sleepUntil(5000);
        feed(watch, 5000, 5010);
        watch.end(5010);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(0));
        QVERIFY(near(watch.sleptSeconds(), 4990));
        const auto hours = watch.hours();
        QCOMPARE(hours.size(), std::size_t(2));
        QVERIFY(near(hours[0].seconds, 10) && hours[1].seconds > 9.9);
    }
    // A run that was lost just before is out until then, and no longer.
    void sleepBeginsWhereTheLossWasSeen() {
        Watch watch = paced();
        feed(watch, 0, 10);
        watch.lose(17, "gone");
        watch.sleepUntil(100);
        QVERIFY(near(watch.sleptSeconds(), 83));
        watch.sleepUntil(120); // it slept on
        QVERIFY(near(watch.sleptSeconds(), 103));
        watch.end(121);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(1));
        QVERIFY(near(watch.dropOuts()[0].start, 10) && near(watch.dropOuts()[0].seconds, 7));
    }
    void hoursAreKeptApart() {
        Watch watch = paced();
        feed(watch, 0, 3600, pace);
        feed(watch, 3600, 7200, 0.5 * pace);
        watch.end(7200);
        const auto hours = watch.hours();
        QCOMPARE(hours.size(), std::size_t(2));
        QVERIFY(std::fabs(*hours[0].goodputP50Bps / pace - 1) < 0.01);
        QVERIFY(std::fabs(*hours[1].goodputP10Bps / pace - 0.5) < 0.01);
        QVERIFY(hours[1].rttUs && std::fabs(hours[1].rttUs->p50 / 1000 - 1) < 0.01);
    }
    void memoryIsBounded() {
        Watch watch = paced();
        // Forty days with a drop-out every ten minutes, a sample a second.
        for (int s = 1; s <= 40 * 24 * 3600; ++s)
            watch.add(s, carrying(s % 600 < 2 ? 0 : pace));
        watch.end(40.0 * 24 * 3600);
        QCOMPARE(watch.dropOutCount(), std::uint64_t(40 * 24 * 6));
        QCOMPARE(watch.dropOuts().size(), std::size_t(1000));
        QCOMPARE(watch.hours().size(), std::size_t(720));
    }
    void theDocumentHoldsIt() {
        Watch watch = paced();
        feed(watch, 0, 10);
        watch.lose(12, "gone");
        watch.end(12);
        RunConfig config;
        config.protocol = Protocol::udp;
        config.rate = quantity::BitRate::bitsPerSecond(pace);
        const auto d = toJson(reportOf(watch, {true, "2026-01-01T00:00:00Z"}, config));
        QVERIFY(d.at("format") == nlohmann::json("metrodos-watch"));
        QVERIFY(d.at("simulated") == nlohmann::json(true));
        QVERIFY(d.at("drop_outs").at(0).at("lost") == nlohmann::json("gone"));
        QVERIFY(d.at("drop_out_count") == nlohmann::json(1));
        QVERIFY(d.at("order").at("rate_bps") == nlohmann::json(pace));
        // Nothing measured is null, not 0.
        const auto none = toJson(reportOf(paced(), {}, config));
        QVERIFY(none.at("goodput").at("p50_bps").is_null() && none.at("rtt_us").is_null());
    }
};

QTEST_GUILESS_MAIN(TestWatch)
#include "test_watch.moc"
