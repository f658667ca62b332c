// Histograms, datagrams, delays and what a run says about itself, against figures worked out by hand.
#include "benchmark/datagrams.h"
#include "benchmark/delay_statistics.h"
#include "benchmark/remarks.h"
#include "benchmark/run_measures.h"
#include "benchmark/statistics.h"
#include "support/runs.h"

#include <QTest>
#include <random>
#include <set>

using namespace metrodos;
using namespace metrodos::benchmark;
using metrodos::testing::steadyRun;

namespace {

constexpr std::int64_t ms = 1'000'000; // ns

// A run that says all that heldBack looks at, and is held by nothing in particular.
Run telling() {
    Run run = steadyRun(Direction::forward, 500, 1);
    run.senderLimited = SenderLimited{1, 0, 0};
    run.rttIdleUs = Percentiles{3500, 4000};
    run.rttLoadedUs = Percentiles{3600, 4100};
    run.cpuSender = run.cpuReceiver = 0.3;
    run.retransmits = 0;
    return run;
}

bool says(const std::vector<std::string>& lines, const std::string& word) {
    return std::any_of(lines.begin(), lines.end(),
                       [&](const std::string& line) { return line.find(word) != std::string::npos; });
}

} // namespace

class TestMeasures : public QObject {
    Q_OBJECT

  private slots:
    // 500 Mbit/s for 10 s are 625 MB, 431,630 segments of 1448 bytes; 4,360 of them are sent again: 1.0 %.
    void theMetricsOfRfc6349() {
        Run run = telling();
        run.rttIdleUs = Percentiles{4000, 4100};
        run.rttLoadedUs = Percentiles{12'000, 13'000};
        run.retransmits = 4360;
        const RunMeasures m = measuresOf(run, BitRate::megabits(941.5));
        QVERIFY(std::fabs(*m.roundTripsPerMinute - 5000) < 1e-6);
        QVERIFY(std::fabs(*m.bufferDelay - 2.0) < 1e-9);
        QVERIFY(std::fabs(*m.queueBytes / (500e6 / 8 * 8e-3) - 1) < 0.01);
        QVERIFY(std::fabs(*m.tcpEfficiency - 0.99) < 2e-4);
        QVERIFY(std::fabs(*m.transferTimeRatio / 1.883 - 1) < 0.01);
        run.spikes = {{3.2, 48'000}, {5.0, 90'000}, {6.0, 30'000}, {7.5, 60'000}};
        const auto figures = figuresOf(run, BitRate::megabits(941.5));
        QCOMPARE(figures.size(), std::size_t(6));
        const auto text = [](const NamedFigure& f) {
            return QString::fromStdString(f.name + ' ' + f.figure);
        };
        QCOMPARE(text(figures.back()),
                 QString("spikes 48.0 ms at 3.20 s, 90.0 ms at 5.00 s, 60.0 ms at 7.50 s and 1 more"));
        QCOMPARE(text(figures[1]), QString("buffer delay 200 %"));
    }
    void spikesAtASteadyRateAreAPortThatSleeps() {
        Run run = telling();
        run.spikes = {{1, 9000}, {3, 9100}, {5, 9050}, {7, 9000}};
        QVERIFY(says(remarks(run), "saving power"));
        run.spikes.pop_back();
        QVERIFY(!says(remarks(run), "saving power"));
        Run wild = steadyRun(Direction::forward, 500, 1, 0.5);
        wild.spikes = {{1, 9000}, {3, 9100}, {5, 9050}, {7, 9000}};
        QVERIFY(!says(remarks(wild), "saving power"));
    }
    void whatWasNotTakenIsNoFigure() {
        Run run = telling();
        run.rttIdleUs.reset();
        run.rttLoadedUs.reset();
        run.retransmits.reset();
        QVERIFY(figuresOf(run).empty());
        // Below the idle delay no queue can be.
        run.rttIdleUs = Percentiles{5000, 5000};
        run.rttLoadedUs = Percentiles{4000, 4000};
        QCOMPARE(*measuresOf(run).bufferDelay, 0.0);
        QVERIFY(!measuresOf(run).queueBytes);
        run.config.protocol = Protocol::udp;
        run.retransmits = 3;
        QVERIFY(!measuresOf(run, BitRate::megabits(900)).tcpEfficiency);
        QVERIFY(!measuresOf(run, BitRate::megabits(900)).transferTimeRatio);
    }
    void aHistogramIsWithinHalfAPercent() {
        LogHistogram histogram;
        std::vector<double> values;
        std::mt19937_64 random(4);
        std::lognormal_distribution<double> draw(5, 1.5);
        for (int i = 0; i < 20'000; ++i) {
            values.push_back(draw(random));
            histogram.add(values.back());
        }
        for (const double p : {0.01, 0.1, 0.5, 0.9, 0.95, 0.99}) {
            const double is = quantile(values, p);
            QVERIFY2(std::fabs(*histogram.quantile(p) / is - 1) < 0.006, qPrintable(QString::number(p)));
        }
        QCOMPARE(*histogram.percentiles()->max, *std::max_element(values.begin(), values.end()));
        QCOMPARE(histogram.count(), std::uint64_t(20'000));
        histogram.clear();
        QVERIFY(!histogram.quantile(0.5) && !histogram.percentiles());
    }
    void aHistogramTakesAnything() {
        LogHistogram histogram;
        for (const double value : {0.0, -3.0, 1e30, 5.0})
            histogram.add(value);
        QVERIFY(*histogram.quantile(0.5) > 0 && *histogram.quantile(1) <= 1e30);
    }

    void datagramsInOrder() {
        DatagramStatistics s;
        for (std::uint64_t n = 0; n < 1000; ++n)
            QVERIFY(s.take(n, static_cast<std::int64_t>(n) * ms, static_cast<std::int64_t>(n) * ms + 5 * ms));
        const DatagramCount c = s.count();
        QCOMPARE(c.sent, std::uint64_t(1000));
        QCOMPARE(c.received, std::uint64_t(1000));
        QCOMPARE(c.lossRatio(), 0.0);
        QCOMPARE(c.jitterUs, 0.0);
        QCOMPARE(c.reordered + c.duplicates, std::uint64_t(0));
    }
    void lossOrderAndDuplicatesAreToldApart() {
        DatagramStatistics s;
        // 0 1 3 2 2 5: 4 is lost, 2 comes late and twice.
        for (const std::uint64_t n : {0, 1, 3, 2, 2, 5})
            (void)s.take(n, 0, 0);
        const DatagramCount c = s.count();
        QCOMPARE(c.sent, std::uint64_t(6));
        QCOMPARE(c.received, std::uint64_t(5));
        QCOMPARE(c.reordered, std::uint64_t(1));
        QCOMPARE(c.duplicates, std::uint64_t(1));
        QCOMPARE(c.lossRatio(), 1.0 / 6);
        QCOMPARE(*s.takeLoss(), 1.0 / 6);
        QVERIFY(!s.takeLoss()); // nothing was due since
        for (const std::uint64_t n : {6, 7, 9})
            (void)s.take(n, 0, 0);
        QCOMPARE(*s.takeLoss(), 1.0 / 4); // of 6 to 9
    }
    void jitterIsThatOfRfc3550() {
        // Transits of 10, 12, 11 ms: J = 2/16 = 0.125 ms, then 0.125 + (1 − 0.125)/16 = 0.1796875 ms.
        DatagramStatistics s;
        (void)s.take(0, 0, 10 * ms);
        (void)s.take(1, 20 * ms, 32 * ms);
        QCOMPARE(s.count().jitterUs, 125.0);
        (void)s.take(2, 40 * ms, 51 * ms);
        QCOMPARE(s.count().jitterUs, 179.6875);
    }
    void clocksNeedNotAgree() {
        DatagramStatistics s;
        constexpr std::int64_t off = -7'777'777 * ms;
        for (std::uint64_t n = 0; n < 100; ++n) {
            const auto sent = static_cast<std::int64_t>(n) * ms;
            (void)s.take(n, sent, sent + off + (n % 10 == 9 ? 2 * ms : 0));
        }
        // Nine tenths at the least delay, one tenth 2 ms above.
        const DatagramCount c = s.count();
        QVERIFY(c.variationUs->p50 < 1);
        QVERIFY(std::fabs(c.variationUs->p95 - 2000) < 20);
    }
    void longGapsAndStrangersAreBounded() {
        DatagramStatistics s;
        QVERIFY(s.take(0, 0, 0));
        QVERIFY(!s.take(std::uint64_t(1) << 40U, 0, 0)); // absurdly far ahead
        QVERIFY(s.take(1'000'000, 0, 0));
        QVERIFY(!s.take(5, 0, 0)); // far behind
        QVERIFY(s.take(999'999, 0, 0));
        QCOMPARE(s.count().received, std::uint64_t(3));
        QCOMPARE(s.count().reordered, std::uint64_t(1));
        QVERIFY(!s.take(999'999, 0, 0));
        QCOMPARE(s.count().duplicates, std::uint64_t(1));
    }
    // Any row of numbers: each is counted once, whatever order it comes in.
    void randomOrdersCountRight() {
        std::mt19937 random(9);
        for (int round = 0; round < 50; ++round) {
            std::vector<std::uint64_t> numbers;
            std::set<std::uint64_t> unique;
            for (std::uint64_t n = 0; n < 3000; ++n) {
                if (random() % 10 == 0) continue; // lost
                numbers.push_back(n);
                unique.insert(n);
                if (random() % 20 == 0) numbers.push_back(n);
            }
            for (std::size_t i = 0; i + 50 < numbers.size(); i += 50)
                std::shuffle(numbers.begin() + static_cast<std::ptrdiff_t>(i),
                             numbers.begin() + static_cast<std::ptrdiff_t>(i + 50), random);
            DatagramStatistics s;
            std::uint64_t first = 0;
            for (const std::uint64_t n : numbers)
                first += s.take(n, 0, 0) ? 1 : 0;
            QCOMPARE(first, std::uint64_t(unique.size()));
            QCOMPARE(s.count().received, std::uint64_t(unique.size()));
            QCOMPARE(s.count().duplicates, std::uint64_t(numbers.size() - unique.size()));
            QCOMPARE(s.count().sent, *unique.rbegin() + 1);
        }
    }

    void spikesAreTheHighAndLonely() {
        DelayStatistics s;
        for (int i = 0; i < 1000; ++i)
            s.add(i * 0.02, i == 300 || i == 700 ? 80'000 : 3000);
        QCOMPARE(s.spikes().size(), std::size_t(2));
        QVERIFY(std::fabs(s.spikes()[0].t - 6) < 1e-9 && std::fabs(s.spikes()[1].t - 14) < 1e-9);
        QVERIFY(std::fabs(s.percentiles()->p50 / 3000 - 1) < 0.006);
        QCOMPARE(*s.percentiles()->max, 80'000.0);
        s.clear();
        for (int i = 0; i < 100; ++i)
            s.add(i * 0.02, 200 + i); // rises, but by no milliseconds
        QVERIFY(s.spikes().empty());
    }
    void aMedianIsTakenOnce() {
        DelayStatistics s;
        QVERIFY(!s.takeMedian());
        for (const double value : {1000.0, 3000.0, 2000.0})
            s.add(0, value);
        QCOMPARE(*s.takeMedian(), 2000.0);
        QVERIFY(!s.takeMedian());
        QCOMPARE(s.count(), std::uint64_t(3));
    }
    void responsivenessAndQueue() {
        QCOMPARE(roundTripsPerMinute(50'000), 1200.0); // 60 s ÷ 50 ms
        Run run = telling();
        run.rttLoadedUs = Percentiles{13'500, 15'000};
        run.goodput = BitRate::megabits(80);
        QVERIFY(std::fabs(*queueBytes(run) - 100e3) < 1); // 10 ms at 80 Mbit/s
        run.rttLoadedUs = run.rttIdleUs;
        QVERIFY(!queueBytes(run));
        QVERIFY(std::fabs(*bandwidthDelayBytes(run) - 35e3) < 1); // 80 Mbit/s × 3.5 ms
    }

    void eachCauseIsNamed() {
        Run run = telling();
        QCOMPARE(heldBack(run).by, HeldBy::network);
        run.senderLimited = SenderLimited{0.2, 0.8, 0};
        QCOMPARE(heldBack(run).by, HeldBy::receiverWindow);
        QVERIFY(heldBack(run).sentence.find("80.0 %") != std::string::npos);
        run.senderLimited = SenderLimited{0.2, 0, 0.8};
        QCOMPARE(heldBack(run).by, HeldBy::sendBuffer);
        run.cpuSender = 0.99;
        QCOMPARE(heldBack(run).by, HeldBy::senderCore); // explains the empty buffer
        run = telling();
        run.cpuReceiver = 0.95;
        QCOMPARE(heldBack(run).by, HeldBy::receiverCore);
        run = telling();
        run.rttLoadedUs = Percentiles{20'000, 25'000};
        QCOMPARE(heldBack(run).by, HeldBy::queue);
        run = telling();
        run.retransmits = 5000; // of some 430,000 segments
        QCOMPARE(heldBack(run).by, HeldBy::loss);
        run = telling();
        run.config.rate = run.goodput;
        QCOMPARE(heldBack(run).by, HeldBy::pace);
        run.senderLimited.reset();
        QCOMPARE(heldBack(run).by, HeldBy::unknown);
    }
    void datagramsSayWhereTheyWereLost() {
        Run run = steadyRun(Direction::forward, 50, 1);
        run.config.protocol = Protocol::udp;
        run.config.rate = BitRate::megabits(50);
        QCOMPARE(heldBack(run).by, HeldBy::unknown);
        run.datagrams = DatagramCount{};
        run.datagrams->sent = run.datagrams->received = 10'000;
        QCOMPARE(heldBack(run).by, HeldBy::nothing);
        run.datagrams->received = 9'000;
        QCOMPARE(heldBack(run).by, HeldBy::network);
        run.datagrams->dropped = 900;
        QCOMPARE(heldBack(run).by, HeldBy::receiver);
        run.datagrams->unsent = 2'000;
        QCOMPARE(heldBack(run).by, HeldBy::senderSide);
        QCOMPARE(run.datagrams->shortfall(), 0.25);
        QCOMPARE(run.datagrams->lossRatio(), 0.1);
    }
    void aRunThatWentAstraySaysSo() {
        Run run = telling();
        QVERIFY(pathWarnings(run).empty());
        const double payload = payloadBytes(run);
        QVERIFY(std::fabs(payload / (500e6 * 10 / 8) - 1) < 0.01);
        const auto count = [&](double share) {
            return InterfaceCount{"eth0", static_cast<std::uint64_t>(payload * share)};
        };
        run.interfaceSender = count(1.05);
        run.interfaceReceiver = count(1.05);
        QVERIFY(pathWarnings(run).empty());
        run.interfaceSender = count(0.02);
        QVERIFY(says(pathWarnings(run), "did not cross eth0 of the sender"));
        run.interfaceSender = count(1.6);
        QVERIFY(says(pathWarnings(run), "other traffic"));
        run.interfaceSender = count(1.05);
        run.interfaceSender->radio = true;
        QVERIFY(pathWarnings(run).empty()); // radio by itself is no fault
        run.interfaceSender->cableToo = true;
        QVERIFY(says(pathWarnings(run), "by radio"));
        run.interfaceReceiver->elsewhere = "eth1";
        QVERIFY(says(pathWarnings(run), "eth1"));
        run.interfaceReceiver->errors = 12;
        QVERIFY(says(pathWarnings(run), "12 frames"));
        run.spikes = {{2.5, 90'000}};
        QVERIFY(says(pathWarnings(run), "leapt once, to 90"));
        run.delayLost = 3;
        QVERIFY(says(remarks(run), "never came back"));
        QCOMPARE(remarks(run).size(), pathWarnings(run).size() + 1);
    }
};

QTEST_GUILESS_MAIN(TestMeasures)
#include "test_measures.moc"
