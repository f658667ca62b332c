#include "benchmark/remarks.h"
#include "standin/simulate.h"
#include "support/classes.h"
#include "support/diagnosed.h"
#include "support/houses.h"
#include "support/runs.h"
#include "trace/diagnose.h"
#include "trace/trace_json.h"

#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>

using namespace metrodos;
using benchmark::Direction;
using benchmark::Run;
using testing::classes;
using testing::diagnosed;
using testing::steadyRun;

namespace {

bool warns(const trace::Diagnosis& d, const std::string& words) {
    for (const std::string& w : d.warnings)
        if (w.find(words) != std::string::npos) return true;
    return false;
}

bool says(const trace::Suspect& s, const std::string& words) {
    for (const std::string& b : s.because)
        if (b.find(words) != std::string::npos) return true;
    return false;
}

std::vector<Run> both(double mbps, int streams = 4) {
    return {steadyRun(Direction::forward, mbps, streams, 0.002, "a"),
            steadyRun(Direction::backward, mbps, streams, 0.002, "b")};
}

} // namespace

class TestTrace : public QObject {
    Q_OBJECT

  private slots:
    void withoutRunsThePredictionSpeaks() {
        const auto d = diagnosed(testing::coaxHouse("usb2"), {});
        QCOMPARE(d.suspects.front().element, std::string("socket"));
        QVERIFY(d.sentence.starts_with("Expected limit"));
        QVERIFY(!d.nextTests.empty() && d.nextTests.front().id.starts_with("measure"));
    }
    void aUsb2SocketIsNamedAndWhatWouldComeNext() {
        const auto d = diagnosed(testing::coaxHouse("usb2"), both(311));
        const auto& first = d.suspects.front();
        QCOMPARE(first.element, std::string("socket"));
        QVERIFY(first.probability > 0.95);
        QVERIFY(says(first, "flat at 311 Mbit/s"));
        QVERIFY2(first.ifReplaced->bps() > 1.9e9 && first.ifReplaced->bps() < 2.4e9,
                 qPrintable(QString::number(first.ifReplaced->bps())));
        QCOMPARE(d.nextElement, std::string("old aerial coax"));
    }
    void aPortsRateIsRecognised() {
        const auto d = diagnosed(testing::wiredHouse("1000base-t", "1000base-t", "100base-tx"), both(94.1));
        QCOMPARE(d.suspects.front().element, std::string("shelf.lan"));
        QVERIFY(says(d.suspects.front(), "100 Mbit/s link"));
    }
    void flatAtAHundredWithoutSuchAPortPointsAtThePairs() {
        auto h = testing::wiredHouse();
        h.connection("run-1")->goodPairs.reset();
        const auto d = diagnosed(h, both(94.1));
        QCOMPARE(d.suspects.front().element, std::string("run-1")); // a lost pair is in its distribution
        QVERIFY(warns(d, "two pairs or a bad crimp"));
    }
    void aResultAboveThePossibleIsCalledOne() {
        const auto d = diagnosed(testing::wiredHouse(), both(1500));
        QVERIFY(warns(d, "more than"));
        QVERIFY(warns(d, "went another way"));
        QCOMPARE(d.suspects.front().element, std::string(trace::unlisted));
    }
    void farBelowEveryCeilingIsBlamedOnWhatNobodyWroteDown() {
        auto h = testing::wiredHouse();
        const auto d = diagnosed(h, both(212));
        std::string all;
        for (const auto& suspect : d.suspects)
            all += suspect.element + " " + std::to_string(suspect.probability) + " " + suspect.state + "\n";
        QVERIFY2(d.suspects.front().element == trace::unlisted, all.c_str());
        QVERIFY(warns(d, "far below every ceiling"));
    }
    void severalStreamsAgainstOneIsTheWindow() {
        auto runs = both(2100, 4);
        runs.push_back(steadyRun(Direction::forward, 600, 1, 0.002, "c"));
        runs.back().senderLimited = benchmark::SenderLimited{0.05, 0.95, 0};
        const auto d = diagnosed(testing::coaxHouse(), runs);
        QVERIFY(warns(d, "window over the delay"));
        QCOMPARE(d.suspects.front().element, std::string("coax")); // judged by the four streams
    }
    void risingDelayIsARemarkOfTheRun() {
        auto runs = both(311);
        runs[0].rttIdleUs = benchmark::Percentiles{3600, 4000};
        runs[0].rttLoadedUs = benchmark::Percentiles{11000, 12000};
        runs[0].senderLimited = benchmark::SenderLimited{1, 0, 0};
        QVERIFY(!warns(diagnosed(testing::coaxHouse("usb2"), runs), "queue"));
        QVERIFY(benchmark::remarks(runs[0]).front().find("a queue of") != std::string::npos);
    }
    void bytesOverAnotherInterfaceAreNoticed() {
        auto runs = both(311);
        runs[0].interfaceSender = benchmark::InterfaceCount{"eth0", 1000};
        QVERIFY(warns(diagnosed(testing::coaxHouse("usb2"), runs), "eth0"));
    }
    void aFullCoreAndAClosedWindowSpeakOfTheMachine() {
        auto h = testing::wiredHouse("10gbase-t", "10gbase-t", "10gbase-t");
        h.device("switch")->deviceClass = "switch-10g";
        h.device("shelf")->deviceClass = "small-board";
        auto runs = both(1600);
        runs[0].cpuReceiver = 0.99;
        runs[0].senderLimited = benchmark::SenderLimited{0.2, 0.8, 0};
        const auto d = diagnosed(h, runs);
        QCOMPARE(d.suspects.front().element, std::string("shelf"));
        QVERIFY(says(d.suspects.front(), "one core was full"));
        QVERIFY(says(d.suspects.front(), "receive window was closed"));
    }
    void aMetNeedMeansNothingToReplace() {
        auto h = testing::coaxHouse("usb2");
        h.routes[0].needForward = quantity::BitRate::megabits(200);
        QVERIFY(diagnosed(h, both(311)).sentence.find("nothing to replace") != std::string::npos);
        h.routes[0].needForward = quantity::BitRate::megabits(900);
        QVERIFY(diagnosed(h, both(311)).sentence.find("would allow") != std::string::npos);
    }
    void probabilitiesSumToOneAndTestsAreRanked() {
        for (const double mbps : {20.0, 94.1, 311.0, 900.0, 2100.0}) {
            const auto h = testing::coaxHouse("");
            const auto d = diagnosed(h, both(mbps));
            double sum = 0;
            for (const auto& suspect : d.suspects)
                sum += suspect.probability;
            QVERIFY(sum > 0.95 && sum < 1 + 1e-9); // those below 0.5 % are not named
            // Each test also takes a minute to read, to go and to come back.
            for (std::size_t i = 1; i < d.nextTests.size(); ++i)
                QVERIFY(d.nextTests[i - 1].informationBits / (d.nextTests[i - 1].minutes + 1) >=
                        d.nextTests[i].informationBits / (d.nextTests[i].minutes + 1));
            for (std::size_t i = 1; i < d.suspects.size(); ++i)
                QVERIFY(d.suspects[i - 1].probability >= d.suspects[i].probability);
        }
    }
    void simulatedHousesAreJudgedRightly() {
        // The truth is the standin's draw; the trace sees only what was run.
        int right = 0;
        int cases = 0;
        for (int seed = 1; seed <= 60; ++seed) {
            const std::string socket = seed % 3 == 0 ? "usb2" : "usb3-5g";
            const auto h = testing::coaxHouse(socket, seed % 2 == 0 ? "coax-500" : "coax-2500");
            std::vector<Run> runs;
            for (const Direction d : {Direction::forward, Direction::backward}) {
                benchmark::RunConfig config;
                config.direction = d;
                config.streams = 4;
                runs.push_back(
                    standin::simulate(h, classes(), h.routes[0], config, static_cast<std::uint64_t>(seed), 0)
                        .value());
            }
            const auto truth = standin::truthOf(h, classes(), h.routes[0], Direction::forward,
                                                static_cast<std::uint64_t>(seed))
                                   .value();
            const auto prediction = capacity::predict(h, classes(), h.routes[0]).value();
            std::size_t least = 0;
            for (std::size_t i = 0; i < truth.elements.size(); ++i)
                if (truth.elements[i].capacityBps < truth.elements[least].capacityBps) least = i;
            // Where two elements are the limit within a twentieth, neither is the one limiter.
            bool alone = true;
            for (std::size_t i = 0; i < truth.elements.size(); ++i)
                if (i != least && truth.elements[i].capacityBps < 1.05 * truth.elements[least].capacityBps)
                    alone = false;
            if (!alone) continue;
            ++cases;
            const auto d = diagnosed(h, runs);
            if (d.suspects.front().element == prediction.elements[least].element.id) ++right;
        }
        QVERIFY(cases >= 30);
        QVERIFY2(right >= cases * 9 / 10, qPrintable(QString("%1 of %2").arg(right).arg(cases)));
    }
    void theDocumentFollowsTheContract() {
        const auto document = trace::toJson(diagnosed(testing::coaxHouse("usb2"), both(311)));
        QCOMPARE(document.at("format").get<std::string>(), std::string("metrodos-trace"));
        for (const auto& s : document.at("suspects"))
            for (const char* key : {"element", "probability", "ceiling_bps", "if_replaced_bps", "because"})
                QVERIFY2(s.contains(key), key);
        for (const auto& t : document.at("next_tests"))
            for (const char* key : {"id", "do", "information_bits", "minutes"})
                QVERIFY2(t.contains(key), key);
        QVERIFY(document.at("warnings").is_array());
    }
};

QTEST_GUILESS_MAIN(TestTrace)
#include "test_trace.moc"
