// How results are read: each well-known pattern, made by the simulation or by hand, and what must be said of
// it.
#include "support/judged.h"
#include "support/runs.h"
#include "trace/what_if.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::testing;

class TestReadings : public QObject {
    Q_OBJECT

  private slots:
    void flatAtAPortsRate_data() {
        QTest::addColumn<QString>("phy");
        for (const char* phy : {"100base-tx", "1000base-t", "2.5gbase-t", "5gbase-t", "10gbase-t"})
            QTest::newRow(phy) << phy;
    }
    void flatAtAPortsRate() {
        QFETCH(QString, phy);
        // Every port is faster but that of the shelf computer.
        auto h = testing::wiredHouse("10gbase-t", "10gbase-t", phy.toStdString());
        h.device("switch")->deviceClass = "switch-10g";
        for (const char* run : {"run-1", "run-2"})
            h.connection(run)->cableClass = "cat6a";
        const auto d = judged(h, simulated(h, "desk-shelf"));
        const auto& s = first(d);
        if (phy == "10gbase-t") // all are alike; a machine may be as slow
            QVERIFY2(s.element.ends_with(".lan") || s.element.starts_with("switch.p") ||
                         s.element == "desk" || s.element == "shelf",
                     all(d).c_str());
        else
            QCOMPARE(s.element, std::string("shelf.lan"));
    }
    void theSamePortBehindTwoMedia() {
        // A slow port of the shelf computer that the survey has as fast, reached over coax and over cable.
        auto real = testing::coaxHouse();
        real.device("shelf")->ports.push_back({"lan", "LAN", house::PortKind::ethernet, "100base-tx"});
        real.connection("run-3")->ends = {{"coax-b", "lan"}, {"shelf", "lan"}};
        std::erase_if(real.connections, [](const auto& c) { return c.id == "socket"; });
        real.device("switch")->ports.push_back({"p3", "3", house::PortKind::ethernet, "2.5gbase-t"});
        house::Connection straight = *real.connection("run-1");
        straight.id = "straight";
        straight.label = "new cable";
        straight.ends = {{"switch", "p3"}, {"shelf", "lan"}};
        // Over coax first; then the shelf's port moved to the new cable.
        auto surveyed = real;
        surveyed.device("shelf")->ports.back().phy = "1000base-t";
        const auto overCoax = simulated(real, "desk-shelf");
        auto d = judged(surveyed, overCoax);
        QVERIFY(probability(d, "coax") < 0.05);
        QVERIFY(warns(
            d, "“old aerial coax” was not the limit: of it the runs say only that it carries at least"));
        std::erase_if(real.connections, [](const auto& c) { return c.id == "run-3"; });
        std::erase_if(surveyed.connections, [](const auto& c) { return c.id == "run-3"; });
        real.connections.push_back(straight);
        surveyed.connections.push_back(straight);
        house::Route second = real.routes[0];
        second.id = "by-cable";
        second.label = "By the new cable";
        real.routes.push_back(second);
        surveyed.routes.push_back(second);
        d = judged(surveyed, simulated(real, "by-cable"), 1);
        QVERIFY(std::fabs(first(d).ceiling.inMegabits() / 94.1 - 1) < 0.01);
    }
    void theSameCeilingEverywhereIsTheLaptop() {
        auto real = twoMains();
        real.connection("mains")->situation = "neighbouring";
        real.device("desk")->ports[0].phy = "100base-tx";
        auto surveyed = real;
        surveyed.device("desk")->ports[0].phy = "1000base-t";
        const auto d = judged(surveyed, simulated(real, "desk-shelf") + simulated(real, "desk-table"));
        // What both share, up to the wiring, which carries more.
        double shared = 0;
        for (const char* id : {"desk", "desk.lan", "run-1", "switch.p1", "switch.p2", "run-2", "mains-a.lan"})
            shared += probability(d, id);
        QVERIFY2(shared > 0.9, all(d).c_str());
    }
    void aGigabitTestAdapterInFrontOfAFasterMedium() {
        auto h = testing::coaxHouse();
        h.device("nic")->deviceClass = "usb-nic-1g";
        h.device("nic")->ports[0].phy = "1000base-t";
        const auto d = judged(h, simulated(h, "desk-shelf"));
        QVERIFY2(first(d).element == "nic" || first(d).element == "nic.lan", first(d).element.c_str());
        QVERIFY(warns(d, "was not the limit"));
    }
    void aUsb2SocketUnderAFastAdapter() {
        auto real = testing::coaxHouse("usb2");
        auto surveyed = testing::coaxHouse("usb3-5g");
        const auto d = judged(surveyed, simulated(real, "desk-shelf"));
        QCOMPARE(first(d).element, std::string("socket"));
        QVERIFY(first(d).state.find("USB 2") != std::string::npos);
        QVERIFY(first(d).ifReplaced->inMegabits() > 1500);
    }
    void fewLanesUnderATenGigabitCard() {
        auto real = testing::wiredHouse("10gbase-t", "10gbase-t");
        real.device("switch")->deviceClass = "switch-10g";
        real.device("shelf")->ports = {{"slot", "slot", house::PortKind::pcie, "pcie-gen2-x1"}};
        real.devices.push_back({"card",
                                "Card",
                                house::DeviceKind::adapter,
                                "pcie-nic-10g",
                                "",
                                {{"lan", "LAN", house::PortKind::ethernet, "10gbase-t"},
                                 {"plug", "plug", house::PortKind::pcie, "pcie-gen3-x4"}}});
        real.connection("run-2")->ends = {{"switch", "p2"}, {"card", "lan"}};
        for (const char* run : {"run-1", "run-2"})
            real.connection(run)->cableClass = "cat6a";
        house::Connection slot;
        slot.id = "slot";
        slot.label = "slot";
        slot.medium = house::Medium::bus;
        slot.ends = {{"card", "plug"}, {"shelf", "slot"}};
        real.connections.push_back(slot);
        auto surveyed = real;
        surveyed.device("shelf")->ports[0].phy = "pcie-gen3-x4";
        const auto d = judged(surveyed, simulated(real, "desk-shelf"));
        QCOMPARE(first(d).element, std::string("slot"));
        QVERIFY(first(d).state.find("lanes") != std::string::npos);
    }
    void severalStreamsFarAboveOneIsTheWindow() {
        auto h = testing::coaxHouse();
        h.device("shelf")->deviceClass = "small-board"; // opens a small window
        standin::HiddenFault window = hidden("shelf", 1, 1);
        window.window = 0.5;
        const auto one = simulated(h, "desk-shelf", 1, {{window}});
        auto d = judged(h, one);
        QCOMPARE(first(d).element, std::string("shelf"));
        QVERIFY(first(d).state.find("window") != std::string::npos);
        // With more streams the window no longer counts, and the verdict is about the rest.
        d = judged(h, one + simulated(h, "desk-shelf", 8, {{window}}, 1));
        QVERIFY(warns(d, "one stream is held by its window"));
    }
    void aFullCoreAndNoQueueIsTheMachine() {
        const auto h = testing::wiredHouse();
        const auto d = judged(h, simulated(h, "desk-shelf", 4, {{hidden("shelf", 0.02, 0.02)}}));
        QCOMPARE(first(d).element, std::string("shelf"));
        QVERIFY(first(d).probability > 0.9);
    }
    void aSlowDirectionMovesWithItsMachine() {
        const auto h = testing::wiredHouse();
        standin::HiddenFault driver = hidden("shelf", 0.02, 1); // it receives slowly
        driver.fillsCore = false;
        auto runs = simulated(h, "desk-shelf", 4, {{driver}});
        QVERIFY(runs[0].run.goodput < runs[1].run.goodput * 0.8);
        standin::Situation swapped{{driver}};
        swapped.arrangement.swapped = true;
        const auto exchanged = simulated(h, "desk-shelf", 4, swapped, 1);
        QVERIFY(exchanged[1].run.goodput < exchanged[0].run.goodput * 0.8); // it moved
        const auto before = judged(h, runs);
        const auto after = judged(h, runs + exchanged);
        QCOMPARE(first(after).element, std::string("shelf"));
        QVERIFY(first(after).probability > 0.97);
        QVERIFY(probability(after, "shelf") >= probability(before, "shelf"));
        // Had it stayed where it was, the way would be at fault.
        standin::HiddenFault duplex = hidden("run-2", 0.03, 1);
        duplex.errors = true;
        standin::Situation stays{{duplex}};
        stays.arrangement.swapped = true;
        const auto path =
            judged(h, simulated(h, "desk-shelf", 4, {{duplex}}) + simulated(h, "desk-shelf", 4, stays, 1));
        QVERIFY(probability(path, "shelf") < 0.05);
        QVERIFY2(probability(path, "run-1") + probability(path, "run-2") > 0.8, all(path).c_str());
    }
    void directionsThatDifferOnMainsAreItsReceivers() {
        const auto h = twoMains();
        const auto d = judged(h, simulated(h, "desk-shelf", 4, {{hidden("mains", 0.4, 1)}}));
        QCOMPARE(first(d).element, std::string("mains"));
    }
    void anotherCableThatChangesNothingClearsTheCable() {
        auto real = testing::wiredHouse("1000base-t", "1000base-t", "100base-tx");
        auto surveyed = testing::wiredHouse();
        for (const char* id : {"run-1", "run-2"})
            real.connection(id)->goodPairs.reset(), surveyed.connection(id)->goodPairs.reset();
        const auto whole = simulated(real, "desk-shelf");
        const auto before = judged(surveyed, whole);
        standin::Situation bridged;
        bridged.arrangement.bypassed = {"run-2"};
        const auto after = judged(surveyed, whole + simulated(real, "desk-shelf", 4, bridged, 1));
        QVERIFY(probability(before, "run-2") > 0.1);
        QVERIFY(probability(after, "run-2") < 0.02);
    }
    void frameErrorsPointAtTheCable() {
        // Over the 3.5 ms of the coax 0.4 % of loss leaves a stream 1.22 · 1448 B / (3.5 ms · √0.004), about
        // 64 Mbit/s (Mathis et al. 1997); one stream and four differ by that and show no closed window.
        const auto h = testing::coaxHouse();
        for (const std::string cable : {"run-1", "run-2", "run-3"}) {
            standin::HiddenFault bad = hidden(cable, 1, 1);
            bad.errors = true;
            bad.lossForward = bad.lossBackward = 0.004;
            const auto four = simulated(h, "desk-shelf", 4, {{bad}});
            const auto one = simulated(h, "desk-shelf", 1, {{bad}}, 1);
            const double ratio = four[0].run.goodput.bps() / one[0].run.goodput.bps();
            QVERIFY2(ratio > 3 && ratio < 5, qPrintable(QString::number(ratio)));
            QVERIFY2(std::fabs(std::log(one[0].run.goodput.bps() / 64e6)) < std::log(1.5),
                     qPrintable(QString::number(one[0].run.goodput.inMegabits())));
            const auto d = judged(h, four + one);
            double cables = 0;
            for (const char* id : {"run-1", "run-2", "run-3"})
                cables += probability(d, id);
            QVERIFY2(cables > 0.6, all(d).c_str());
            // The errors at the receiver's own interface point at its own cable; without any it is not that.
            QVERIFY2(probability(d, cable) == std::max({probability(d, "run-1"), probability(d, "run-2"),
                                                        probability(d, "run-3")}),
                     all(d).c_str());
            QVERIFY2(warns(d, "segments are lost on the way"), all(d).c_str());
        }
    }
    void aVaryingRateIsMainsOrAir() {
        const auto h = twoMains();
        const auto d = judged(h, simulated(h, "desk-shelf"));
        QCOMPARE(first(d).element, std::string("mains"));
        QVERIFY(first(d).probability > 0.9);
    }
    void aFileCopyFarBelowTheNetworkIsTheDisk() {
        auto h = testing::wiredHouse("10gbase-t", "10gbase-t", "10gbase-t");
        h.device("switch")->deviceClass = "switch-10g";
        for (const char* run : {"run-1", "run-2"})
            h.connection(run)->cableClass = "cat6a";
        h.device("desk")->storage = house::Storage{"nvme", 1, house::DiskLayout::single};
        h.device("shelf")->storage = house::Storage{"hard-disk", 1, house::DiskLayout::single};
        house::Route copy = h.routes[0];
        copy.id = "copy";
        copy.label = "Copy to the shelf";
        copy.fileProtocol = "modern";
        h.routes.push_back(copy);
        const auto d = judged(h, simulated(h, "desk-shelf") + simulated(h, "copy"), 1);
        QVERIFY2(first(d).element.starts_with("shelf"), first(d).element.c_str());
        QCOMPARE(first(d).element, std::string("shelf.disks"));
    }
    void aRadioHopInsideAWiredChain() {
        const auto h = testing::wiredHouse();
        standin::HiddenFault hop;
        hop.element = trace::unlisted;
        hop.bps = 180e6;
        hop.variation = 0.25;
        const auto d = judged(h, simulated(h, "desk-shelf", 4, {{hop}}));
        QCOMPARE(first(d).element, std::string(trace::unlisted));
        QVERIFY2(first(d).state.find("radio") != std::string::npos, all(d).c_str());
    }
    void aServiceSlowerThanTheHouse() {
        auto h = testing::wiredHouse();
        h.device("switch")->kind = house::DeviceKind::router;
        h.device("switch")->deviceClass = "router-1g";
        h.service = house::Service{"service",
                                   "internet service",
                                   "switch",
                                   quantity::BitRate::megabits(250),
                                   quantity::BitRate::megabits(50),
                                   ""};
        house::Route r = h.routes[0];
        r.id = "service-desk";
        r.label = "Service to desk";
        r.from = "service";
        r.to = "desk-end";
        r.needForward = quantity::BitRate::megabits(100);
        h.routes.push_back(r);
        const auto d = judged(h, simulated(h, "service-desk"), 1);
        QCOMPARE(first(d).element, std::string("service"));
        QVERIFY(d.needMet && d.sentence.find("nothing to replace") != std::string::npos);
    }
    void twoRoutesOfOneMainsShareItsCeiling() {
        const auto h = twoMains();
        const auto both = simulated(h, "desk-shelf") + simulated(h, "desk-table");
        QCOMPARE(first(judged(h, both)).element, std::string("mains"));
        QCOMPARE(first(judged(h, both, 1)).element, std::string("mains"));
        // Both at once: each run says only "at least".
        auto together = both;
        for (auto& [route, run] : together)
            run.config.group = "pair";
        const auto d = judged(h, together);
        QVERIFY(!d.measuredForward);
    }
    void aFastHostOnASlowSwitchPort() {
        auto h = testing::wiredHouse("10gbase-t", "10gbase-t", "10gbase-t");
        h.device("switch")->deviceClass = "switch-10g";
        h.device("switch")->ports[1].phy = "1000base-t";
        for (const char* run : {"run-1", "run-2"})
            h.connection(run)->cableClass = "cat6a";
        const auto d = judged(h, simulated(h, "desk-shelf"));
        QCOMPARE(first(d).element, std::string("switch.p2"));
        QVERIFY(first(d).ifReplaced->inMegabits() > 4000);
    }
    void aReadLinkRateIsEvidenceOfCableAndPortsTogether() {
        auto surveyed = testing::wiredHouse();
        surveyed.connection("run-2")->goodPairs.reset();
        const auto runs =
            simulated(testing::wiredHouse("1000base-t", "1000base-t", "100base-tx"), "desk-shelf");
        surveyed.connection("run-2")->linkedAt = quantity::BitRate::megabits(100);
        const auto d = judged(surveyed, runs);
        const double link =
            probability(d, "run-2") + probability(d, "shelf.lan") + probability(d, "switch.p2");
        QVERIFY(link > 0.97);
        QVERIFY(probability(d, "shelf.lan") > 0.03); // a reading does not tell a cable from a port
    }
    void whatIfMovesThePrediction() {
        const auto h = testing::coaxHouse("usb2");
        const auto prediction = capacity::predict(h, classes(), h.routes[0]).value();
        trace::Case asked{prediction, h, classes()};
        for (auto& [route, run] : simulated(h, "desk-shelf"))
            asked.runs.push_back(run);
        const auto rows = trace::whatIf(asked, "socket");
        const auto row = [&](const std::string& choice) {
            for (const auto& one : rows)
                if (one.choice == choice) return one;
            return trace::WhatIf{};
        };
        std::string choices;
        for (const auto& one : rows)
            choices +=
                one.choice + " " + std::to_string(one.forward.p50.inMegabits()) + (one.now ? " now\n" : "\n");
        QVERIFY2(row("usb2").now && row("usb2").forward.p50.inMegabits() < 370, choices.c_str());
        QVERIFY(row("usb3-5g").forward.p50.inMegabits() > 1500);
        QCOMPARE(row("usb3-5g").limiter, std::string("old aerial coax"));
        QVERIFY(row("streams-1").forward.p50 <= row("streams-16").forward.p50);
        QVERIFY(trace::whatIf(asked, "no-such-thing").empty());
    }
    void twoAlikeRunsThatCannotBothBe() {
        const auto h = testing::wiredHouse();
        benchmark::RouteRuns runs{{"desk-shelf", testing::steadyRun(Direction::forward, 941, 4, 0.002, "a")},
                                  {"desk-shelf", testing::steadyRun(Direction::forward, 310, 4, 0.002, "b")}};
        QVERIFY(warns(judged(h, runs), "two alike runs forward gave 310 Mbit/s and 941 Mbit/s"));
        runs[1].run.conditions.appliances = {"Kettle"};
        QVERIFY(!warns(judged(h, runs), "two alike runs"));
        runs[1].run.conditions.appliances.clear();
        runs[1].run.goodput = quantity::BitRate(); // nothing came: that is no rate to compare
        QVERIFY(!warns(judged(h, runs), "two alike runs"));
    }
    void evidenceIsTiedToItsRuns() {
        const auto d =
            judged(testing::coaxHouse("usb3-5g"), simulated(testing::coaxHouse("usb2"), "desk-shelf"));
        const auto& s = first(d);
        QVERIFY(!s.evidence.empty());
        QVERIFY(std::fabs(s.evidence.back().after - s.probability) < 0.02);
        for (const auto& e : s.evidence)
            QVERIFY(!e.runs.empty() && e.text.find("Mbit/s") != std::string::npos);
    }
    void aDeclinedTestGivesWayToTheNext() {
        auto h = testing::coaxHouse("");
        const auto d = judged(h, {});
        h.routes[0].declined = {d.nextTests.front().id};
        const auto next = trace::diagnoseRoute(h, classes(), h.routes[0], {}).value();
        QVERIFY(!next.nextTests.empty());
        QVERIFY(next.nextTests.front().id != d.nextTests.front().id);
        QVERIFY(!d.nextTests.front().outcomes.empty());
    }
};

QTEST_GUILESS_MAIN(TestReadings)
#include "test_readings.moc"
