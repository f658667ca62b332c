// The search for the loss-free rate, on links whose capacity is known.
#include "benchmark/search_report.h"

#include <QTest>
#include <random>

using namespace metrodos;
using namespace metrodos::benchmark;

namespace {

// A trial over a link that drops what it cannot carry, and a little anyway.
Run trial(const RunConfig& config, double capacity, double always = 0) {
    Run run;
    run.config = config;
    const double pace = config.rate->bps();
    const double loss = std::max(always, pace > capacity ? 1 - capacity / pace : 0);
    run.datagrams = DatagramCount{};
    run.datagrams->sent = 1'000'000;
    run.datagrams->received = static_cast<std::uint64_t>(1e6 * (1 - loss));
    return run;
}

SearchResult search(double capacity, const SearchSettings& settings = {}, double always = 0) {
    return searchRate(settings, {}, [&](const RunConfig& config) { return trial(config, capacity, always); })
        .value();
}

} // namespace

class TestRateSearch : public QObject {
    Q_OBJECT

  private slots:
    void itFindsTheCapacity() {
        std::mt19937_64 random(5);
        std::uniform_real_distribution<double> decades(std::log(1.5e6), std::log(9e8));
        for (int i = 0; i < 500; ++i) {
            const double capacity = std::exp(decades(random));
            const SearchResult found = search(capacity);
            QVERIFY(found.best && found.failed);
            QVERIFY2(found.best->bps() <= capacity * 1.002, qPrintable(QString::number(capacity)));
            QVERIFY2(found.best->bps() >= capacity * 0.985, qPrintable(QString::number(capacity)));
            QVERIFY2(found.trials.size() <= 5, qPrintable(QString::number(found.trials.size())));
            QVERIFY(*found.failed > *found.best);
        }
    }
    void oneSimulatedTrialMakesItSimulated() {
        SearchResult found = search(300e6);
        QVERIFY(found.trials.size() > 2 && !reportOf(found, {}).head.simulated);
        found.trials[1].simulated = true;
        QVERIFY(reportOf(found, {}).head.simulated);
    }
    void theUpperEndIsAnAnswer() {
        const SearchResult found = search(5e9);
        QCOMPARE(found.trials.size(), std::size_t(1));
        QCOMPARE(*found.best, BitRate::gigabits(1));
        QVERIFY(!found.failed);
        QVERIFY(sentences(reportOf(found, {})).back().find("may carry more") != std::string::npos);
    }
    void whereNothingPassesItEnds() {
        SearchSettings settings;
        const SearchResult found = search(1e9, settings, 0.05); // always a twentieth lost
        QVERIFY(!found.best);
        QVERIFY(found.failed.has_value());
        QVERIFY(static_cast<int>(found.trials.size()) <= settings.maxTrials);
        QVERIFY(sentences(reportOf(found, settings)).front().find("No rate that was tried") == 0);
    }
    void theAcceptedLossDecides() {
        SearchSettings strict;
        strict.acceptedLoss = 0;
        SearchSettings loose;
        loose.acceptedLoss = 0.1;
        const double capacity = 1e8;
        QVERIFY(search(capacity, strict).best->bps() <= capacity);
        QVERIFY(search(capacity, loose).best->bps() > capacity * 1.05);
    }
    void trialsAreBounded() {
        SearchSettings settings;
        settings.maxTrials = 4;
        settings.resolution = 1e-9;
        QCOMPARE(search(123'456'789, settings).trials.size(), std::size_t(4));
    }
    // 1M to 1G with a hundredth of resolution: half of the decades are half of the work.
    void howMuchIsDoneIsTold() {
        SearchSettings settings;
        QCOMPARE(doneOf(settings, {}), 0.0);
        std::vector<Run> trials;
        RunConfig config;
        config.protocol = Protocol::udp;
        config.rate = BitRate::megabits(1000);
        trials.push_back(trial(config, 30e6)); // failed: only what was tried counts
        QCOMPARE(doneOf(settings, trials), 1.0 / 16);
        config.rate = BitRate::megabits(30);
        trials.push_back(trial(config, 30e6)); // passed: log 33 of log 1000 is left
        QVERIFY(std::fabs(doneOf(settings, trials) - 0.49) < 0.01);
        config.rate = BitRate::megabits(30.2);
        trials.push_back(trial(config, 30e6)); // failed, within the resolution
        QCOMPARE(doneOf(settings, trials), 1.0);
        double before = 0;
        std::vector<Run> soFar;
        for (const Run& one : search(123'456'789, settings).trials) {
            soFar.push_back(one);
            const double done = doneOf(settings, soFar);
            QVERIFY(done >= before - 1e-9 && done <= 1);
            before = done;
        }
        QVERIFY(before > 0.99);
    }
    void aStoppedTrialEndsIt() {
        int asked = 0;
        const auto found = searchRate({}, {}, [&](const RunConfig& config) {
            Run run = trial(config, 1e8);
            run.complete = ++asked < 2;
            return quantity::Result<Run>(run);
        });
        QCOMPARE(asked, 2);
        QVERIFY(found.has_value());
        const auto failed = searchRate({}, {}, [](const RunConfig&) -> quantity::Result<Run> {
            return quantity::problem("the cable was pulled");
        });
        QVERIFY(!failed);
    }
    void itAsksForOneFlowOfDatagrams() {
        RunConfig config;
        config.streams = 8;
        config.seconds = 2;
        (void)searchRate({}, config, [&](const RunConfig& o) {
            [&] {
                QCOMPARE(o.streams, 1);
                QCOMPARE(o.protocol, Protocol::udp);
                QCOMPARE(o.seconds, 2.0);
            }();
            return quantity::Result<Run>(trial(o, 1e7));
        });
    }
};

QTEST_GUILESS_MAIN(TestRateSearch)
#include "test_rate_search.moc"
