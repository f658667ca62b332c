// Each direction has its limit, equal ceilings are one limit, and runs that went another way say nothing.
// Expected rates are those of the standards: 1 Gbit/s carries 941.5 Mbit/s, 2.5 Gbit/s 2353.7 (MTU 1500,
// IPv4, timestamps).
#include "support/judged.h"
#include "support/runs.h"
#include "trace/trace_json.h"

#include <QTest>
#include <nlohmann/json.hpp>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

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

class TestTwoLimits : public QObject {
    Q_OBJECT

  private slots:
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

QTEST_GUILESS_MAIN(TestTwoLimits)
#include "test_two_limits.moc"
