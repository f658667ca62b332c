// Causes that are not the ceiling of an element, each as it shows: over time, in the delay, by loss, by
// counters, or only beside others. The records are made by hand, not by a simulation.
#include "support/judged.h"
#include "support/runs.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

using benchmark::Percentiles;
using benchmark::Run;

// A run of ten seconds as all would have it that is held by a queue in the network.
Run plainRun(Direction d, double mbps, double variation = 0.002) {
    static int number = 0;
    Run run = steadyRun(d, mbps, 4, variation, "c" + std::to_string(++number));
    run.rttIdleUs = Percentiles{400, 500};
    run.rttLoadedUs = Percentiles{4400, 5000};
    run.senderLimited = benchmark::SenderLimited{0.98, 0.01, 0.01};
    run.cpuSender = run.cpuReceiver = 0.2;
    run.retransmits = 3;
    run.interfaceSender = run.interfaceReceiver = benchmark::InterfaceCount{"lan0", 1'300'000'000, 0};
    return run;
}

benchmark::RouteRuns bothWays(const std::function<void(Run&)>& change, double mbps, double variation = 0.002,
                              const char* route = "desk-shelf") {
    benchmark::RouteRuns out;
    for (const Direction d : {Direction::forward, Direction::backward})
        for (int repeat = 0; repeat < 2; ++repeat) {
            Run run = plainRun(d, mbps, variation);
            change(run);
            benchmark::finish(run);
            run.interfaceSender->bytes = run.interfaceReceiver->bytes =
                static_cast<std::uint64_t>(run.goodput.bps() * run.seconds / 8 * 1.06) + 100'000;
            out.push_back({route, std::move(run)});
        }
    return out;
}

// From the given second on the samples have so much of their rate.
void fallTo(Run& run, double share, double from) {
    for (benchmark::Sample& s : run.samples.change())
        if (s.t > from) s.goodputBps *= share;
}

std::string stateOf(const trace::Diagnosis& d, const std::string& element) {
    for (const auto& s : d.suspects)
        if (s.element == element) return s.state;
    return "";
}

house::House fastHouse() {
    auto h = wiredHouse("10gbase-t", "10gbase-t", "10gbase-t");
    h.device("switch")->deviceClass = "switch-10g";
    for (const char* run : {"run-1", "run-2"})
        h.connection(run)->cableClass = "cat6a";
    return h;
}

// Sold `down`, at the switch, and asked for from the desk.
house::House soldHouse(double down) {
    auto h = fastHouse();
    const auto sold = quantity::BitRate::megabits(down);
    h.service = house::Service{"service", "internet service", "switch", sold, sold, ""};
    house::Route r;
    r.id = "service-desk";
    r.label = "Service to desk";
    r.from = "service";
    r.to = "desk-end";
    h.routes = {r};
    return h;
}

benchmark::RouteRuns fromService(const std::function<void(Run&)>& change, double mbps,
                                 double variation = 0.002) {
    auto runs = bothWays(change, mbps, variation, "service-desk");
    std::erase_if(runs, [](const auto& r) { return r.run.config.direction == Direction::backward; });
    return runs;
}

} // namespace

class TestCauses : public QObject {
    Q_OBJECT

  private slots:
    void aRateThatFallsIsHeatOrASaver() {
        const auto h = fastHouse();
        // 7 Gbit/s for six seconds, then a third of it: something gets hot or saves its battery.
        const auto falling = bothWays([](Run& run) { fallTo(run, 0.33, 6); }, 7000);
        const auto d = judged(h, falling);
        QVERIFY2(stateOf(d, first(d).element).find("hot") != std::string::npos ||
                     stateOf(d, first(d).element).find("battery") != std::string::npos,
                 all(d).c_str());
        // The same mean without the fall says nothing of the kind.
        const auto even = judged(h, bothWays([](Run&) {}, 7000 * (0.6 + 0.4 * 0.33)));
        QVERIFY2(stateOf(even, first(even).element).find("hot") == std::string::npos &&
                     stateOf(even, first(even).element).find("battery") == std::string::npos,
                 all(even).c_str());
    }
    // A USB 3 socket that was read carries 3.4 Gbit/s; half of it is left beside another device on its hub.
    void aSharedHubTakesItsShare() {
        auto h = coaxHouse();
        h.device("switch")->deviceClass = "switch-10g";
        std::erase_if(h.connections, [](const auto& c) { return c.id == "coax" || c.id == "run-3"; });
        std::erase_if(h.devices, [](const auto& d) { return d.id == "coax-a" || d.id == "coax-b"; });
        h.connection("run-2")->ends = {{"switch", "p2"}, {"nic", "lan"}};
        for (const char* run : {"run-1", "run-2"})
            h.connection(run)->cableClass = "cat6a";
        for (house::Device& d : h.devices)
            for (house::Port& p : d.ports)
                if (p.kind == house::PortKind::ethernet) p.phy = "5gbase-t";
        h.device("nic")->deviceClass = "usb-nic-5g";
        h.connection("socket")->linkedAt = quantity::BitRate::megabits(5000);
        const auto hostBound = [](Run& run) {
            run.rttIdleUs = Percentiles{300, 350};
            run.rttLoadedUs = Percentiles{900, 1200}; // the queue stands in the machine
        };
        const auto d = judged(h, bothWays(hostBound, 1700, 0.02));
        QVERIFY2(probability(d, "socket") > 0.25, all(d).c_str());
        QVERIFY2(stateOf(d, "socket").find("same hub") != std::string::npos, all(d).c_str());
        // At what the socket carries by itself there is none.
        const auto whole = judged(h, bothWays(hostBound, 3400, 0.02));
        QVERIFY2(first(whole).element == "socket" && stateOf(whole, "socket").empty(), all(whole).c_str());
    }
    void aCopyThatFallsIsTheDisksCache() {
        auto h = fastHouse();
        h.device("desk")->storage = house::Storage{"nvme", 1, house::DiskLayout::single};
        h.device("shelf")->storage = house::Storage{"sata-ssd", 1, house::DiskLayout::single};
        h.routes[0].fileProtocol = "modern";
        auto runs = bothWays(
            [](Run& run) {
                fallTo(run, 0.2, 4);
                // Who writes too slowly closes its window and leaves no queue in the network.
                run.rttLoadedUs = Percentiles{410, 500};
                run.senderLimited = benchmark::SenderLimited{0.15, 0.84, 0.01};
                run.simulated = true;
            },
            4000);
        std::erase_if(runs, [](const auto& r) { return r.run.config.direction == Direction::backward; });
        const auto d = judged(h, runs);
        QVERIFY2(first(d).element == "shelf.disks", all(d).c_str());
        QVERIFY2(first(d).state.find("cache") != std::string::npos, all(d).c_str());
    }
    void lossWithoutAQueueOrErrorsIsASwitchOrAFarCable() {
        auto h = wiredHouse();
        for (const char* run : {"run-1", "run-2"})
            h.connection(run)->goodPairs.reset();
        // 1.22 · 1448 B / (4 ms · √0.002): 79 Mbit/s a stream; clean counters at both ends.
        const auto lossy = [](Run& run) {
            run.rttIdleUs = Percentiles{4000, 4200};
            run.rttLoadedUs = Percentiles{4050, 4300};
            run.retransmits = static_cast<std::uint64_t>(run.goodput.bps() * 10 / 8 / 1448 * 0.002);
        };
        const auto d = judged(h, bothWays(lossy, 4 * 79, 0.05));
        QVERIFY2(probability(d, "switch") + probability(d, "run-1") + probability(d, "run-2") > 0.8,
                 all(d).c_str());
        // Errors at the shelf's own interface while it receives: its own cable.
        auto counted = bothWays(lossy, 4 * 79, 0.05);
        for (auto& [route, run] : counted)
            if (run.config.direction == Direction::forward) run.interfaceReceiver->errors = 500;
        const auto own = judged(h, counted);
        QCOMPARE(QString::fromStdString(first(own).element), QString("run-2"));
        QVERIFY2(first(own).probability > probability(d, "run-2") + 0.2, all(own).c_str());
    }
    void aFlatRateBelowEveryPortIsALimitThatNobodyWroteDown() {
        const auto d = judged(wiredHouse(), bothWays([](Run&) {}, 312));
        QCOMPARE(QString::fromStdString(first(d).element), QString("unlisted"));
        QVERIFY2(first(d).state.find("rate limit") != std::string::npos, all(d).c_str());
        // Wavering it is traffic or a radio hop.
        const auto radio = judged(wiredHouse(), bothWays([](Run&) {}, 140, 0.6));
        QCOMPARE(QString::fromStdString(first(radio).element), QString("unlisted"));
        QVERIFY2(first(radio).state.find("rate limit") == std::string::npos, all(radio).c_str());
    }
    void aLoopIsLossAndDelayAtAFewMegabits() {
        const auto storming = [](Run& run) {
            run.rttLoadedUs = Percentiles{90e3, 200e3};
            run.retransmits = static_cast<std::uint64_t>(run.goodput.bps() * 10 / 8 / 1448 * 0.04);
        };
        const auto d = judged(wiredHouse(), bothWays(storming, 4, 0.8));
        QVERIFY2(stateOf(d, first(d).element).find("loop") != std::string::npos, all(d).c_str());
    }
    void largePacketsThatDoNotPassAreTheMtu() {
        const auto stalling = [](Run& run) {
            for (benchmark::Sample& s : run.samples.change())
                s.goodputBps = s.t < 0.15 ? 20e3 : 0;
            run.rttLoadedUs = Percentiles{420, 500};
        };
        const auto d = judged(wiredHouse(), bothWays(stalling, 1));
        QCOMPARE(QString::fromStdString(first(d).element), QString("unlisted"));
        QVERIFY2(first(d).state.find("MTU") != std::string::npos, all(d).c_str());
    }
    void theServicesOwnPortIsFlatAt941() {
        auto h = soldHouse(2000);
        // The link to the desk was read: it is not that.
        h.connection("run-1")->linkedAt = quantity::BitRate::gigabits(10);
        const auto d = judged(h, fromService([](Run&) {}, 941.3));
        QCOMPARE(QString::fromStdString(first(d).element), QString("service"));
        QVERIFY2(first(d).state.find("own port") != std::string::npos, all(d).c_str());
    }
    // Inside the house first, unless the job goes by the service.
    void theServiceIsTestedFirstWhereTheJobSaysSo() {
        auto h = soldHouse(1000);
        const auto service = [&] {
            const auto d = judged(h, fromService([](Run&) {}, 300, 0.2));
            const auto at =
                std::find_if(d.nextTests.begin(), d.nextTests.end(),
                             [](const trace::NextTest& t) { return t.kind == trace::TestKind::service; });
            return at == d.nextTests.end()
                       ? std::pair(-1L, false)
                       : std::pair(static_cast<long>(at - d.nextTests.begin()), at->isFirst);
        };
        QVERIFY(service().first >= 0);
        QVERIFY(!service().second);
        h.practices.testPlace = house::TestPlace::service;
        QCOMPARE(service(), std::pair(0L, true));
    }
    void aServiceThatIsShapedIsFlatWithLittleDelay() {
        const auto d = judged(soldHouse(1000), fromService(
                                                   [](Run& run) {
                                                       run.rttLoadedUs = Percentiles{430, 500};
                                                   },
                                                   250));
        QCOMPARE(QString::fromStdString(first(d).element), QString("service"));
        QVERIFY2(first(d).state.find("rate limit") != std::string::npos, all(d).c_str());
    }
    void aBoxThatForwardsSlowlyWavers() {
        const auto d = judged(soldHouse(1000), fromService([](Run&) {}, 420, 0.12));
        QCOMPARE(QString::fromStdString(first(d).element), QString("service"));
        QVERIFY2(first(d).state.find("forwards") != std::string::npos ||
                     first(d).state.find("busy") != std::string::npos,
                 all(d).c_str());
        // More than was sold is the service all the same, and nothing is wrong with it.
        const auto more = judged(soldHouse(500), fromService([](Run&) {}, 540));
        QCOMPARE(QString::fromStdString(first(more).element), QString("service"));
        QVERIFY2(first(more).state.empty(), all(more).c_str());
    }
    void slowOnlyWhileOthersWorkAsksForBothAtOnce() {
        auto runs = bothWays([](Run& run) { run.conditions.othersActive = false; }, 940);
        const auto busy = bothWays([](Run& run) { run.conditions.othersActive = true; }, 450, 0.1);
        QVERIFY(!warns(judged(wiredHouse(), runs), "at once"));
        runs.insert(runs.end(), busy.begin(), busy.end());
        QVERIFY(warns(judged(wiredHouse(), runs), "forward 450 Mbit/s while others were on the network"));
        // There is no other route in that house. In one with a second from the same desk both at once are the
        // first thing to do: the desk's own port is passed by both.
        QVERIFY(judged(wiredHouse(), runs).nextTests.empty() ||
                judged(wiredHouse(), runs).nextTests.front().kind != trace::TestKind::together);
        auto h = twoMains();
        const auto d = judged(h, runs);
        QVERIFY2(!d.nextTests.empty() && d.nextTests.front().kind == trace::TestKind::together,
                 all(d).c_str());
        const trace::NextTest& both = d.nextTests.front();
        QCOMPARE(both.beside, h.routes[1].id);
        QCOMPARE(both.outcomes.size(), std::size_t(2));
        const double p = both.outcomes[0].probability;
        QVERIFY(std::fabs(p + both.outcomes[1].probability - 1) < 1e-9);
        QVERIFY(std::fabs(both.informationBits + p * std::log2(p) + (1 - p) * std::log2(1 - p)) < 1e-9);
        h.routes[0].declined = {both.id};
        QVERIFY(judged(h, runs).nextTests.empty() ||
                judged(h, runs).nextTests.front().kind != trace::TestKind::together);
    }
    // Coax to the shelf and mains to the table, both flat at the 94 Mbit/s of the desk's port, which the
    // survey has as one of 1 Gbit/s.
    void theSameFlatRateOverTwoMediaIsNeither() {
        auto h = twoMains();
        for (const char* id : {"coax-a", "coax-b"})
            h.devices.push_back({id,
                                 id,
                                 house::DeviceKind::adapter,
                                 "coax-1000",
                                 "",
                                 {{"lan", "LAN", house::PortKind::ethernet, "1000base-t"},
                                  {"line", "coax", house::PortKind::coax, ""}}});
        h.connection("run-4")->ends = {{"coax-b", "lan"}, {"table", "lan"}};
        house::Connection coax;
        coax.id = "coax";
        coax.label = "coax";
        coax.medium = house::Medium::coax;
        coax.ends = {{"coax-a", "line"}, {"coax-b", "line"}};
        house::Connection lead = *h.connection("run-2");
        lead.id = "run-5";
        lead.ends = {{"switch", "p3"}, {"coax-a", "lan"}};
        h.connections.push_back(coax);
        h.connections.push_back(lead);
        std::erase_if(h.connection("mains")->ends, [](const auto& e) { return e.device == "mains-c"; });
        std::erase_if(h.devices, [](const auto& d) { return d.id == "mains-c"; });
        h.connection("mains")->situation.clear();
        const auto one = bothWays([](Run&) {}, 94.1);
        const auto d = judged(h, one + bothWays([](Run&) {}, 94.1, 0.002, "desk-table"));
        QVERIFY2(probability(d, "mains") + probability(d, "coax") < 0.03,
                 qPrintable(QString("%1 %2").arg(probability(d, "mains")).arg(probability(d, "coax"))));
        const auto other = judged(h, one + bothWays([](Run&) {}, 94.1, 0.002, "desk-table"), 1);
        QVERIFY2(probability(other, "mains") + probability(other, "coax") < 0.03, all(other).c_str());
    }
};

QTEST_GUILESS_MAIN(TestCauses)
#include "test_causes.moc"
