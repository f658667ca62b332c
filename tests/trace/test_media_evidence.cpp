// What tells about a shared medium besides runs over it: what its adapters show, another outlet, quiet
// appliances, others on it, datagrams.
#include "quantity/parse.h"
#include "support/judged.h"
#include "support/runs.h"
#include "trace/observation.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

// The PHY rates that the adapters of the mains show, both ways.
void show(house::House& h, double mbps) {
    h.connection("mains")->phyRates = {{"mains-a", "mains-b", quantity::BitRate::megabits(mbps)},
                                       {"mains-b", "mains-a", quantity::BitRate::megabits(mbps)}};
}

standin::HiddenFault onMains(double share, std::optional<house::AlterationKind> cure = {}) {
    standin::HiddenFault out = hidden("mains", share, share);
    if (cure) out.curedBy = {*cure};
    return out;
}

standin::Situation altered(const standin::HiddenFault& fault, house::AlterationKind how) {
    standin::Situation out{{fault}};
    out.arrangement.altered = {{"mains", how}};
    return out;
}

std::string stateOf(const trace::Diagnosis& d, const std::string& element) {
    for (const auto& s : d.suspects)
        if (s.element == element) return s.state;
    return "";
}

// Alike runs both ways over the first route.
benchmark::RouteRuns steady(double mbps, double variation) {
    return {{"desk-shelf", steadyRun(Direction::forward, mbps, 4, variation, "a")},
            {"desk-shelf", steadyRun(Direction::backward, mbps, 4, variation, "b")}};
}

// As from machines that the program measured, not from a simulation.
benchmark::RouteRuns real(benchmark::RouteRuns runs) {
    for (auto& [route, run] : runs)
        run.simulated = false;
    return runs;
}

// Two places on the mains of which nobody knows how they lie, and cables that nobody tested.
house::House unsure() {
    house::House h = twoMains();
    h.connection("mains")->situation.clear();
    for (house::Connection& c : h.connections)
        c.goodPairs.reset();
    return h;
}

bool suggests(const trace::Diagnosis& d, const std::string& test) {
    return std::any_of(d.nextTests.begin(), d.nextTests.end(),
                       [&](const auto& t) { return t.id.starts_with(test); });
}

} // namespace

class TestMediaEvidence : public QObject {
    Q_OBJECT

  private slots:
    void aPhyRateOf400With180IsNormalForMains() {
        auto h = twoMains();
        const auto runs = steady(180, 0.08);
        const auto before = judged(h, runs);
        show(h, 400);
        const auto after = judged(h, runs);
        QCOMPARE(first(after).element, std::string("mains"));
        QVERIFY(probability(after, "mains") >= probability(before, "mains") - 0.01);
        QVERIFY2(stateOf(after, "mains").empty(), all(after).c_str()); // nothing is wrong with it
    }
    void aHighPhyRateClearsTheMedium() {
        // 40 Mbit/s where the adapters show 700: the wiring carries much more.
        auto h = twoMains();
        const auto runs = steady(40, 0.3);
        const auto before = judged(h, runs);
        show(h, 500);
        const auto after = judged(h, runs);
        // Another node that takes its share of the time does not show in it.
        QVERIFY2(probability(after, "mains") < probability(before, "mains"), all(after).c_str());
    }
    void aPhyRateOfTheOtherPairSaysNothing() {
        auto h = twoMains();
        const auto runs = simulated(h, "desk-shelf");
        const auto before = judged(h, runs);
        h.connection("mains")->phyRates = {{"mains-a", "mains-c", quantity::BitRate::megabits(10)}};
        const auto after = judged(h, runs);
        QCOMPARE(probability(after, "mains"), probability(before, "mains"));
    }
    void anotherOutletLiftsAStrip() {
        const auto h = twoMains();
        const standin::HiddenFault strip = onMains(0.08, house::AlterationKind::other_outlet);
        const auto slow = simulated(h, "desk-shelf", 4, {{strip}});
        const auto moved =
            simulated(h, "desk-shelf", 4, altered(strip, house::AlterationKind::other_outlet), 1);
        QVERIFY(moved[0].run.goodput > slow[0].run.goodput * 3);
        const auto before = judged(h, slow);
        const auto after = judged(h, slow + moved);
        QCOMPARE(first(after).element, std::string("mains"));
        QVERIFY(probability(after, "mains") >= probability(before, "mains") - 0.01);
        QVERIFY2(probability(after, "mains") > 0.97, all(after).c_str());
        // What was measured elsewhere is no figure of the route as it is.
        QVERIFY(after.measuredForward.has_value());
        QCOMPARE(after.measuredForward->bps(), slow[0].run.goodput.bps());
    }
    void appliancesSwitchedOffTellTheirNoise() {
        const auto h = twoMains();
        const standin::HiddenFault noise = onMains(0.35, house::AlterationKind::appliances_off);
        const auto loud = simulated(h, "desk-shelf", 4, {{noise}});
        const auto helped =
            judged(h, loud + simulated(h, "desk-shelf", 4,
                                       altered(noise, house::AlterationKind::appliances_off), 1));
        QVERIFY2(stateOf(helped, "mains").find("appliance") != std::string::npos, all(helped).c_str());
        // Had it been something else, quiet would change nothing.
        const standin::HiddenFault other = onMains(0.35);
        const auto same = judged(
            h, simulated(h, "desk-shelf", 4, {{other}}) +
                   simulated(h, "desk-shelf", 4, altered(other, house::AlterationKind::appliances_off), 1));
        QVERIFY2(stateOf(same, "mains").find("appliance") == std::string::npos, all(same).c_str());
    }
    // A twin stands for one other place of a medium. Another one that is known, or another port, tells
    // nothing of it; an outlet that nobody named is none of those.
    void whichRunsAtOtherPlacesCount() {
        const auto h = twoMains();
        const auto prediction = capacity::predict(h, classes(), h.routes[0]).value();
        const trace::Model model(prediction, h, classes());
        const auto kinds = [&](const std::vector<std::pair<std::string, std::string>>& places) {
            trace::PredictedRuns route{&prediction, {}};
            for (const auto& [element, place] : places) {
                route.runs.push_back(steadyRun(Direction::forward, 100, 4, 0.02, "run " + element + place));
                route.runs.back().config.arrangement.altered = {
                    {element, house::AlterationKind::other_outlet, place}};
            }
            return model.observations(route).size();
        };
        QCOMPARE(kinds({{"mains", ""}, {"mains", "o0-5"}}), std::size_t(2));
        QCOMPARE(kinds({{"mains", "o0-5"}, {"mains", "o0-6"}}), std::size_t(1));
        QCOMPARE(kinds({{"run-1", "switch.p3"}}), std::size_t(0));
    }
    void notedAppliancesMakeTheOthersQuiet() {
        const auto h = twoMains();
        auto loud = simulated(h, "desk-shelf", 4, {{onMains(0.35)}});
        for (auto& [route, run] : loud)
            run.conditions.appliances = {"Kettle"};
        const auto d = judged(h, loud + simulated(h, "desk-shelf", 4, {}, 1));
        QVERIFY2(stateOf(d, "mains").find("appliance") != std::string::npos, all(d).c_str());
    }
    void withOthersOnTheNetworkARunIsABound() {
        const auto h = wiredHouse();
        auto runs = steady(300, 0.002);
        const auto alone = judged(h, runs);
        for (auto& [route, run] : runs)
            run.conditions.othersActive = true;
        const auto busy = judged(h, runs);
        // 300 of 941 needs something wrong; with others on it, it needs nothing.
        double ports = 0;
        for (const char* id : {"desk.lan", "switch.p1", "switch.p2", "shelf.lan"})
            ports += probability(busy, id);
        QVERIFY2(ports > 0.7, all(busy).c_str());
        double before = 0;
        for (const char* id : {"desk.lan", "switch.p1", "switch.p2", "shelf.lan"})
            before += probability(alone, id);
        QVERIFY(before < 0.5);
    }
    void datagramsThatOverrunTheRouteShowItsCeiling() {
        // One stream is held by a small window: datagrams are not.
        auto h = coaxHouse();
        standin::HiddenFault window = hidden("shelf", 1, 1);
        window.window = 0.05;
        const auto one = simulated(h, "desk-shelf", 1, {{window}});
        benchmark::RunConfig config;
        config.protocol = benchmark::Protocol::udp;
        config.seconds = 5;
        config.rate = quantity::BitRate::megabits(2400);
        const Run flood = standin::simulate(h, classes(), h.routes[0], config, 5, 1, {{window}}).value();
        QVERIFY(flood.datagrams && flood.datagrams->lossRatio() > 0.03);
        QVERIFY(flood.goodput > one[0].run.goodput * 2);
        auto runs = one;
        runs.push_back({"desk-shelf", flood});
        const auto d = judged(h, runs);
        QVERIFY(probability(d, "coax") + probability(d, "coax-a.lan") + probability(d, "coax-b.lan") +
                    probability(d, "nic") + probability(d, "socket") + probability(d, "coax-a") +
                    probability(d, "coax-b") >
                0.5);
    }
    void realRunsDoNotReachTheDisks() {
        auto h = wiredHouse();
        h.device("desk")->storage = house::Storage{"nvme", 1, house::DiskLayout::single};
        h.device("shelf")->storage = house::Storage{"hard-disk", 1, house::DiskLayout::single};
        h.routes[0].fileProtocol = "modern";
        auto runs = real(simulated(h, "desk-shelf"));
        for (auto& [route, run] : runs)
            run.config.arrangement.bypassed = {"desk.disks", "shelf.disks"};
        const auto d = judged(h, runs);
        QVERIFY(!suggests(d, "measure"));
        QVERIFY2(suggests(d, "copy-file"), d.sentence.c_str());
        // Before anything ran the usual first test stands.
        QVERIFY(!suggests(judged(h, {}), "copy-file"));
    }
    // Memory to memory over a route of copies: 941 Mbit/s is what the 1 Gbit/s ports give, whatever the file
    // protocol would make of it.
    void aRunFromMemoryIsJudgedWithoutTheProtocolAndTheDisks() {
        auto h = wiredHouse();
        const auto runs = real(simulated(h, "desk-shelf"));
        const auto ports = [](const trace::Diagnosis& d) {
            double sum = 0;
            for (const auto& s : d.suspects)
                if (s.element.ends_with(".lan") || s.element.find(".p") != std::string::npos)
                    sum += s.probability;
            return sum;
        };
        const auto plainHouse = h;
        const double plain = ports(judged(h, runs));
        QVERIFY(plain > 0.8);
        h.device("desk")->storage = h.device("shelf")->storage =
            house::Storage{"nvme", 2, house::DiskLayout::stripe};
        for (const char* protocol : {"modern", "small-files"}) {
            h.routes[0].fileProtocol = protocol;
            const auto d = judged(h, runs);
            QVERIFY2(std::fabs(ports(d) - plain) < 0.1, (std::string(protocol) + ": " + all(d)).c_str());
            QVERIFY2(d.warnings.size() == judged(plainHouse, runs).warnings.size(), all(d).c_str());
        }
        // Over the delay of coax one request at a time carries 130 Mbit/s: the copy is held there, though the
        // same way has carried ten times as much from memory, and nothing of that is a contradiction.
        auto coax = coaxHouse();
        const auto fast = real(simulated(coax, "desk-shelf"));
        QVERIFY(fast.front().run.goodput.inMegabits() > 1300);
        coax.device("desk")->storage = coax.device("shelf")->storage =
            house::Storage{"nvme", 2, house::DiskLayout::stripe};
        coax.routes[0].fileProtocol = "old";
        const auto d = judged(coax, fast);
        QVERIFY2(first(d).element == "desk.disks" || first(d).element == "shelf.disks", all(d).c_str());
        QVERIFY2(probability(d, "desk.disks") + probability(d, "shelf.disks") > 0.9, all(d).c_str());
        QVERIFY2(!warns(d, "more than") && !warns(d, "not in the survey"), all(d).c_str());
    }
    void whatAPhyReadingWouldShowIsAPhyRate() {
        auto h = unsure();
        const auto runs = steady(15, 0.2); // a strip, or something that is not in the survey
        for (int i = 0; i < 30; ++i) {
            const auto d = trace::diagnoseRoute(h, classes(), h.routes[0], runs).value();
            QVERIFY2(!d.nextTests.empty(), "the reading was never first");
            const trace::NextTest& first = d.nextTests.front();
            if (first.phyShare) {
                QCOMPARE(*first.phyShare, classes().medium(house::Medium::mains)->phyShare.p50);
                QVERIFY(first.reads == std::vector<house::Id>{"mains"});
                // Of the mains as the limit: its rate divided by the share.
                for (const trace::Outcome& o : first.outcomes)
                    if (o.means.find("wiring") != std::string::npos) {
                        const auto shown = quantity::parseBitRate(o.sees.substr(o.sees.find(" to ") + 4));
                        QVERIFY2(shown.has_value(), o.sees.c_str());
                        QVERIFY2(shown->inMegabits() > 25 && shown->inMegabits() < 60,
                                 o.sees.c_str()); // 15 Mbit/s ÷ 0.45 = 33 Mbit/s at the most likely
                        return;
                    }
                QFAIL("no outcome speaks of the mains");
            }
            h.routes[0].declined.push_back(first.id);
        }
    }
    void testsOfTheMediumAreOffered() {
        auto h = unsure();
        const auto runs = steady(15, 0.2); // a strip, or something that is not in the survey
        std::vector<std::string> seen;
        for (int i = 0; i < 30; ++i) {
            const auto d = trace::diagnoseRoute(h, classes(), h.routes[0], runs).value();
            if (d.nextTests.empty()) break;
            for (const auto& t : d.nextTests)
                seen.push_back(t.id);
            h.routes[0].declined.push_back(d.nextTests.front().id);
        }
        for (const std::string wanted : {"read-phy-mains", "other-outlet-mains"})
            QVERIFY2(std::find(seen.begin(), seen.end(), wanted) != seen.end(), wanted.c_str());
        show(h, 300);
        const auto known = trace::diagnoseRoute(h, classes(), h.routes[0], {}).value();
        for (const auto& t : known.nextTests)
            QVERIFY(!t.phyShare);
    }
};

QTEST_GUILESS_MAIN(TestMediaEvidence)
#include "test_media_evidence.moc"
