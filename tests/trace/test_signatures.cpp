// What the shape of single runs says, and what a browser at an end does to it. By hand: 100BASE-TX leaves
// 1448 of 1538 bytes of each frame (IEEE 802.3, RFC 894 with time stamps), 94.15 Mbit/s.
#include "capacity/predict.h"
#include "support/classes.h"
#include "support/diagnosed.h"
#include "support/houses.h"
#include "support/runs.h"
#include "trace/diagnose.h"
#include "trace/signatures.h"

#include <QTest>
#include <algorithm>

using namespace metrodos;
using benchmark::Direction;
using benchmark::Run;
using testing::classes;
using testing::diagnosed;
using testing::steadyRun;

namespace {

constexpr double fastEthernet = 100.0 * 1448 / 1538; // Mbit/s

benchmark::SenderLimited heldBy(double window, double buffer) {
    benchmark::SenderLimited out;
    out.receiverWindow = window;
    out.sendBuffer = buffer;
    return out;
}

// Every tenth of a second the same.
Run even(Direction d, double mbps, int streams = 4) {
    return testing::steadyRun(d, mbps, streams, 0);
}

std::vector<std::string> said(const std::vector<Run>& runs, const house::House& h = testing::coaxHouse()) {
    std::vector<std::string> out;
    for (const trace::Reading& r :
         trace::readSignatures(capacity::predict(h, classes(), h.routes[0]).value(), classes(), runs))
        out.push_back(r.text);
    return out;
}

int count(const std::vector<std::string>& texts, const char* words) {
    return static_cast<int>(std::count_if(texts.begin(), texts.end(), [&](const std::string& t) {
        return t.find(words) != std::string::npos;
    }));
}

// Desk, switch, and a device of which nothing is known but that it has a browser.
house::House withBrowser() {
    house::House h = testing::wiredHouse();
    h.device("shelf")->deviceClass = "browser";
    h.device("shelf")->ports[0].phy.clear();
    h.connection("run-2")->goodPairs.reset();
    return h;
}

std::vector<Run> both(double mbps, double variation) {
    return {steadyRun(Direction::forward, mbps, 4, variation, "a"),
            steadyRun(Direction::backward, mbps, 4, variation, "b")};
}

double chanceOf(const trace::Diagnosis& d, const std::vector<std::string>& elements) {
    double out = 0;
    for (const trace::Suspect& s : d.suspects)
        if (std::find(elements.begin(), elements.end(), s.element) != elements.end()) out += s.probability;
    return out;
}

} // namespace

class TestSignatures : public QObject {
    Q_OBJECT

  private slots:
    void flatAtARateWithinTwoPerCent() {
        for (const double share : {0.981, 1.0, 1.019})
            QCOMPARE(count(said({even(Direction::forward, fastEthernet * share)}), "flat at"), 1);
        for (const double share : {0.979, 1.021})
            QCOMPARE(count(said({even(Direction::forward, fastEthernet * share)}), "flat at"), 0);
        // As uneven as a medium is: three per cent from second to second.
        Run uneven = even(Direction::forward, fastEthernet);
        int n = 0;
        for (benchmark::Sample& s : uneven.samples.change())
            s.goodputBps *= n++ / 10 % 2 == 0 ? 1.04 : 0.96;
        QCOMPARE(count(said({uneven}), "flat at"), 0);
        // Half a second is the least that says anything; this is more than the ports can.
        Run few = even(Direction::forward, 5000);
        few.samples.change().resize(5);
        QVERIFY(!said({few}).empty());
        few.samples.change().resize(4);
        QVERIFY(said({few}).empty());
    }
    void theNewestFlatRunOfADirectionSpeaks() {
        const Run slow = even(Direction::forward, fastEthernet);
        const Run fast = even(Direction::forward, 500);
        const Run back = even(Direction::backward, fastEthernet);
        QCOMPARE(count(said({fast, slow}), "flat at"), 1);
        QCOMPARE(count(said({slow, fast}), "flat at"), 0);       // it was so, and is not any more
        QCOMPARE(count(said({back, fast}), "flat at"), 1);       // the other direction still is
        QCOMPARE(count(said({slow, slow, back}), "flat at"), 1); // the same words once
    }
    void windowsAndBuffersAboveHalfOfTheTime() {
        Run run = even(Direction::forward, 500);
        for (const double share : {0.49, 0.5, 0.51}) {
            run.senderLimited = heldBy(share, 0);
            QCOMPARE(count(said({run}), "its receive window was closed"), share > 0.5 ? 1 : 0);
            run.senderLimited = heldBy(0, share);
            QCOMPARE(count(said({run}), "its send buffer ran empty"), share > 0.5 ? 1 : 0);
        }
        run.senderLimited = heldBy(0.62, 0);
        QCOMPARE(count(said({run}), "closed 62 % of the time with 4 streams"), 1);
        run.config.streams = 1;
        QCOMPARE(count(said({run}), "with 1 stream"), 1);
        run.cpuSender = 0.95 - 0.01;
        run.cpuReceiver = 0.95;
        QCOMPARE(count(said({run}), "one core was full while it sent"), 0);
        QCOMPARE(count(said({run}), "one core was full while it received"), 1);
    }
    void manyStreamsAgainstOne() {
        const Run many = even(Direction::forward, 500);
        Run one = even(Direction::forward, 500 / 1.31, 1);
        QCOMPARE(count(said({many, one}), "does not fill the way, and its figures do not say why"), 1);
        QCOMPARE(count(said({many, even(Direction::forward, 500 / 1.29, 1)}), "several streams"), 0);
        one.senderLimited = heldBy(0.6, 0);
        QCOMPARE(count(said({many, one}), "held by its window over the delay"), 1);
        one.senderLimited = heldBy(0.4, 0);
        one.retransmits = 9000; // of 10 s at 382 Mbit/s in segments of 1448 bytes: 329,000
        QCOMPARE(count(said({many, one}), "segments are lost on the way (2.7 %"), 1);
        one.retransmits = 3;
        QCOMPARE(count(said({many, one}), "figures do not say why"), 1);
        // From three tenths more on.
        Run exactly = one;
        exactly.goodput = many.goodput;
        Run more = many;
        more.goodput = many.goodput * 1.3;
        QCOMPARE(count(said({more, exactly}), "several streams"), 1);
        // The other direction is no comparison.
        QCOMPARE(count(said({even(Direction::backward, 500), one}), "several streams"), 0);
    }
    void farBelowIsBelowHalf() {
        const house::House h = testing::coaxHouse();
        const double least = capacity::predict(h, classes(), h.routes[0])->forward.p10.inMegabits();
        QCOMPARE(count(said({even(Direction::forward, least * 0.49)}), "far below every ceiling forward"), 1);
        QCOMPARE(count(said({even(Direction::forward, least * 0.51)}), "far below"), 0);
        Run half = even(Direction::forward, least * 0.5);
        half.goodput = capacity::predict(h, classes(), h.routes[0])->forward.p10 * 0.5;
        QCOMPARE(count(said({half}), "far below"), 0);
        QCOMPARE(count(said({even(Direction::backward, least * 0.3)}), "far below every ceiling backward"),
                 1);
    }
    // The television of which nobody read the port: flat at what 100BASE-TX leaves.
    void aPortOf100IsFoundInOneRunEachWay() {
        const auto d = diagnosed(withBrowser(), both(94.1, 0.001));
        QCOMPARE(d.suspects.front().element, std::string("shelf.lan"));
        // A bad pair and any port slower than written down do the same (IEEE 802.3, 40.1): it is the
        // likeliest, and what is suggested next parts it from them.
        QVERIFY2(d.suspects.front().probability > 0.3, d.sentence.c_str());
        QVERIFY(d.suspects.front().probability > 1.5 * d.suspects[1].probability);
        QVERIFY(!d.nextTests.empty());
        house::House measured = withBrowser();
        measured.connection("run-2")->goodPairs = 4;
        QVERIFY(diagnosed(measured, both(94.1, 0.001)).suspects.front().probability >
                d.suspects.front().probability);
    }
    // Unsteady and at no rate that a port has: the device, never a cable.
    void noWireIsBlamedForABrowser() {
        for (const double mbps : {230.0, 430.0, 610.0}) {
            const auto d = diagnosed(withBrowser(), both(mbps, 0.06));
            QCOMPARE(d.suspects.front().element, std::string("shelf"));
            const double wires = chanceOf(d, {"run-1", "run-2"});
            QVERIFY2(wires < 0.25,
                     (std::to_string(mbps) + ": " + std::to_string(wires) + " " + d.sentence).c_str());
        }
    }
    // What a browser can do is too uncertain to judge anything by: it is measured before the rest.
    void itsBaselineIsAskedForFirst() {
        const auto before = diagnosed(withBrowser(), {});
        QVERIFY(!before.nextTests.empty());
        QCOMPARE(before.nextTests.front().id, std::string("baseline"));
        QCOMPARE(before.nextTests.front().shape.arrangement.setup, house::Setup::baseline);
        std::vector<Run> runs = both(940, 0.002);
        for (Run& run : runs)
            run.config.arrangement.setup = house::Setup::baseline;
        const auto after = diagnosed(withBrowser(), runs);
        for (const trace::NextTest& test : after.nextTests)
            QVERIFY(test.id != "baseline");
        // Of machines that are known it is one test of many.
        house::House known = withBrowser();
        known.device("shelf")->deviceClass = "laptop";
        const auto others = diagnosed(known, {});
        QVERIFY(others.nextTests.empty() || !others.nextTests.front().isFirst);
    }
    // What goes by radio tells nothing of the cables of the route.
    void overRadioTheRunBelongsToTheAir() {
        std::vector<Run> runs = both(60, 0.1);
        for (Run& run : runs)
            (run.config.direction == Direction::forward ? run.interfaceReceiver : run.interfaceSender) =
                benchmark::InterfaceCount{"the device", 200'000'000, {}, true};
        const auto with = diagnosed(withBrowser(), runs);
        const auto without = diagnosed(withBrowser(), {});
        QCOMPARE(with.suspects.front().element, without.suspects.front().element);
        QVERIFY(std::any_of(with.warnings.begin(), with.warnings.end(),
                            [](const std::string& w) { return w.find("radio") != std::string::npos; }));
    }
};

QTEST_GUILESS_MAIN(TestSignatures)
#include "test_signatures.moc"
