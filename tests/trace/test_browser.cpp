// A device with a browser at an end: its port is found, and no wire is blamed for what a browser cannot do.
#include "support/diagnosed.h"
#include "support/houses.h"
#include "support/runs.h"
#include "trace/diagnose.h"

#include <QTest>

using namespace metrodos;
using benchmark::Direction;
using benchmark::Run;
using testing::diagnosed;
using testing::steadyRun;

namespace {

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

class TestBrowser : public QObject {
    Q_OBJECT

  private slots:
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

QTEST_GUILESS_MAIN(TestBrowser)
#include "test_browser.moc"
