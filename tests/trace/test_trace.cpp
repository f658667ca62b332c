// Verdicts: the limiter of each direction, what would come next, and what may not be said.
// Expected rates are those of the standards: 1 Gbit/s carries 941.5 Mbit/s, 2.5 Gbit/s 2353.7 (MTU 1500,
// IPv4, timestamps).
#include "standin/simulate.h"
#include "support/classes.h"
#include "support/diagnosed.h"
#include "support/houses.h"
#include "support/judged.h"
#include "support/runs.h"
#include "trace/diagnose.h"
#include "trace/probability_text.h"
#include "trace/trace_json.h"

#include <QTest>
#include <nlohmann/json.hpp>

using namespace metrodos;
using benchmark::Direction;
using benchmark::Run;
using namespace metrodos::testing;

namespace {

bool says(const trace::Suspect& s, const std::string& words) {
    for (const std::string& b : s.because)
        if (b.find(words) != std::string::npos) return true;
    return false;
}

std::vector<Run> both(double mbps, int streams = 4) {
    return {steadyRun(Direction::forward, mbps, streams, 0.002, "a"),
            steadyRun(Direction::backward, mbps, streams, 0.002, "b")};
}

benchmark::RouteRuns measured(double forwardMbps, double backwardMbps, int streams = 4) {
    benchmark::RouteRuns out;
    int n = 0;
    for (int repeat = 0; repeat < 2; ++repeat)
        for (const Direction d : {Direction::forward, Direction::backward})
            out.push_back({"desk-shelf", steadyRun(d, d == Direction::forward ? forwardMbps : backwardMbps,
                                                   streams, 0.002, "run-" + std::to_string(++n))});
    return out;
}

// Ports of 1 Gbit/s at both machines and at both sides of a switch: four that allow the same.
house::House fourEqualPorts() {
    house::House h = wiredHouse();
    for (const char* run : {"run-1", "run-2"}) {
        h.connection(run)->cableClass = "cat6a";
        h.connection(run)->goodPairs = 4;
    }
    return h;
}

} // namespace

class TestTrace : public QObject {
    Q_OBJECT

  private slots:
    void nothingIsSaidToBeCertain() {
        QCOMPARE(trace::probabilityText(0.86), std::string("86 %"));
        QCOMPARE(trace::probabilityText(0.9949), std::string("99 %"));
        for (const double sure : {0.995, 0.999, 1.0})
            QCOMPARE(trace::probabilityText(sure), std::string(">99 %"));
    }
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
    void eachDirectionHasItsVerdict() {
        // 1.84 Gbit/s to the loft over coax, 2.35 back, where the adapters' 2.5 Gbit/s ports end.
        const auto d = judged(coaxHouse(), measured(1840, 2352));
        QVERIFY(d.limitForward && d.limitBackward);
        QCOMPARE(d.limitForward->element, std::string("coax"));
        QVERIFY2(d.limitBackward->element != "coax", d.limitBackward->element.c_str());
        QVERIFY(std::fabs(d.limitForward->ceiling.inMegabits() / 1840 - 1) < 0.01);
        QVERIFY(std::fabs(d.limitBackward->ceiling.inMegabits() / 2353 - 1) < 0.01);
        const auto json = trace::toJson(d);
        QCOMPARE(json.at("limiters").at("forward").at("element").get<std::string>(), std::string("coax"));
        QVERIFY(json.at("limiters").at("backward").at("ceiling_bps").get<double>() > 2.3e9);
        QVERIFY2(d.sentence.find("; back it is ") != std::string::npos, d.sentence.c_str());
        // One limit both ways is said once.
        QVERIFY(judged(coaxHouse(), measured(1840, 1840)).sentence.find("; back") == std::string::npos);
    }
    void equalCeilingsAreOneLimit() {
        const auto h = fourEqualPorts();
        const auto d = judged(h, measured(941, 941));
        const trace::Suspect& s = first(d);
        QVERIFY(s.equalIds.size() >= 3);
        QVERIFY(std::find(s.equalIds.begin(), s.equalIds.end(), s.element) == s.equalIds.end());
        // One of them exchanged is the same rate again.
        QVERIFY(std::fabs(s.ifReplaced->inMegabits() / 941 - 1) < 0.01);
        // All of them together lift the route.
        QVERIFY(!d.lifts.empty());
        QVERIFY(d.lifts.front().exchange.size() >= 4);
        QVERIFY(d.lifts.front().then.inMegabits() > 2000);
        const auto json = trace::toJson(d);
        QCOMPARE(json.at("suspects").at(0).at("equals").size(), s.equalIds.size());
        QVERIFY(json.at("lift").at(0).at("then_bps").get<double>() > 2e9);
        QVERIFY(json.at("lift").at(0).at("exchange").size() >= 4);
        QVERIFY2(d.sentence.find("exchanged as well") != std::string::npos, d.sentence.c_str());
    }
    void aVerdictPromisesNoMoreThanTheNextPort() {
        // A port of 100 Mbit/s in front of three of 1 Gbit/s: without it the next ports allow 941, whatever
        // lies behind.
        const auto d = judged(wiredHouse("1000base-t", "1000base-t", "100base-tx"), measured(94.1, 94.1));
        QCOMPARE(first(d).element, std::string("shelf.lan"));
        QVERIFY(first(d).ifReplaced->inMegabits() < 945);
        QVERIFY(d.lifts.front().then.inMegabits() < 945);
    }
    void liftsGoUpToTheNeed() {
        auto h = wiredHouse("1000base-t", "1000base-t", "100base-tx");
        h.routes[0].needForward = quantity::BitRate::megabits(500);
        const auto d = judged(h, measured(94.1, 94.1));
        QCOMPARE(d.lifts.size(), std::size_t(1));
        QVERIFY(d.forwardMet == false && !d.backwardMet);
        const auto json = trace::toJson(d);
        QCOMPARE(json.at("need").at("forward_met").get<bool>(), false);
        QVERIFY(json.at("need").at("backward_met").is_null());
        h.routes[0].needForward = quantity::BitRate::megabits(2000);
        const auto more = judged(h, measured(94.1, 94.1));
        QVERIFY(more.lifts.size() >= 2);
        QVERIFY(more.lifts[1].then > more.lifts[0].then);
        QVERIFY(more.lifts[1].exchange.size() > more.lifts[0].exchange.size());
        h.routes[0].needForward = h.routes[0].needBackward = quantity::BitRate::megabits(50);
        const auto met = judged(h, measured(94.1, 94.1));
        QVERIFY(met.needMet && met.forwardMet == true && met.backwardMet == true);
    }
    void aRunThatWentAnotherWayJudgesNothing() {
        const auto h = wiredHouse();
        const auto good = measured(941, 941);
        const auto with = [&](const char* sender, const char* receiver, std::optional<bool> radio,
                              std::uint64_t bytes) {
            auto runs = good;
            benchmark::Run stray = steadyRun(Direction::forward, 80, 4, 0.002, "stray");
            stray.interfaceSender = benchmark::InterfaceCount{sender, bytes, {}, radio, {}, {}};
            stray.interfaceReceiver = benchmark::InterfaceCount{receiver, bytes, {}, false, {}, {}};
            runs.push_back({"desk-shelf", stray});
            return judged(h, runs);
        };
        const auto plain = judged(h, good);
        const std::uint64_t all = 120'000'000; // 80 Mbit/s for 10 s and headers
        for (const auto& [d, words] :
             {std::pair(with("wlan0", "eth0", true, all), "over radio (wlan0 of the sender)"),
              {with("lo", "lo", false, all), "both ends are one machine"},
              {with("eth0", "eth0", false, 1'000'000), "did not carry its bytes"}}) {
            QCOMPARE(d.leftOut, std::vector<std::string>{"stray"});
            QVERIFY2(warns(d, words), words);
            QCOMPARE(first(d).element, first(plain).element);
            QCOMPARE(first(d).probability, first(plain).probability);
            QVERIFY(d.measuredForward == plain.measuredForward);
        }
        // Over the cable it counts.
        const auto kept = with("eth0", "eth0", false, all);
        QVERIFY(kept.leftOut.empty());
        // A simulated one does not know these interfaces.
        auto simulatedRuns = good;
        simulatedRuns[0].run.simulated = true;
        simulatedRuns[0].run.interfaceSender = benchmark::InterfaceCount{"lo", 1, {}, {}, {}, {}};
        simulatedRuns[0].run.interfaceReceiver = benchmark::InterfaceCount{"lo", 1, {}, {}, {}, {}};
        QVERIFY(judged(h, simulatedRuns).leftOut.empty());
    }
    void aRunThatWasStoppedOnItsWayUpJudgesNothing() {
        auto runs = measured(941, 941);
        benchmark::Run stopped = steadyRun(Direction::forward, 300, 4, 0.002, "stopped");
        stopped.complete = false;
        stopped.seconds = 1.2;
        runs.push_back({"desk-shelf", stopped});
        const auto d = judged(wiredHouse(), runs);
        QCOMPARE(d.leftOut, std::vector<std::string>{"stopped"});
        QVERIFY(warns(d, "stopped before it had got up to speed"));
        stopped.seconds = 8;
        runs.back().run = stopped;
        QVERIFY(judged(wiredHouse(), runs).leftOut.empty());
    }
    // 1.22 × 1448 bytes × 8 ÷ (3 ms × √0.0045) = 70 Mbit/s.
    void lossIsReadAndTheWindowIsInnocent() {
        auto runs = measured(900, 900, 8);
        benchmark::Run one = steadyRun(Direction::forward, 70, 1, 0.002, "one");
        one.rttLoadedUs = benchmark::Percentiles{3000, 4000};
        one.retransmits = static_cast<std::uint64_t>(70e6 / 8 * 10 / 1448 * 0.0045);
        one.senderLimited = benchmark::SenderLimited{0.98, 0.01, 0.01};
        runs.push_back({"desk-shelf", one});
        const auto d = judged(wiredHouse(), runs);
        QVERIFY(warns(
            d,
            "segments are lost on the way (0.45 % were sent again, with which one stream carries about 70."));
        QVERIFY(!warns(d, "window"));
        runs.back().run.senderLimited = benchmark::SenderLimited{0.1, 0.9, 0};
        QVERIFY(warns(judged(wiredHouse(), runs), "held by its window"));
        runs.back().run.senderLimited.reset();
        runs.back().run.retransmits = 0;
        QVERIFY(warns(judged(wiredHouse(), runs), "its figures do not say why"));
    }
    void warningsDoNotContradictTheVerdict() {
        auto h = wiredHouse();
        h.connection("run-2")->goodPairs.reset();
        auto runs = measured(60, 60);
        for (auto& r : runs) {
            r.run.rttIdleUs = benchmark::Percentiles{400, 500};
            r.run.rttLoadedUs = benchmark::Percentiles{9000, 12000};
        }
        const auto d = judged(h, runs);
        QVERIFY(!warns(d, "delay rises")); // a remark of the run
        QVERIFY(warns(d, "far below every ceiling"));
        QCOMPARE(warns(d, "not in the survey holds it back"), first(d).element == trace::unlisted);
        QCOMPARE(warns(d, "in the way is not as it should be"), first(d).element != trace::unlisted);
        for (std::size_t i = 0; i < d.warnings.size(); ++i)
            for (std::size_t k = 0; k < i; ++k)
                QVERIFY(d.warnings[i] != d.warnings[k]);
    }
    void noDuplexMismatchAtAGigabit() {
        auto h = wiredHouse();
        auto runs = measured(941, 60);
        const auto mismatch = [&](const trace::Diagnosis& d) {
            for (const auto& s : d.suspects)
                if (s.state.find("duplex") != std::string::npos) return true;
            return false;
        };
        const bool before = mismatch(judged(h, runs));
        for (const char* run : {"run-1", "run-2"})
            h.connection(run)->linkedAt = quantity::BitRate::megabits(1000);
        QVERIFY(before);
        const auto after = judged(h, runs);
        QVERIFY2(!mismatch(after), all(after).c_str());
    }
};

QTEST_GUILESS_MAIN(TestTrace)
#include "test_trace.moc"
