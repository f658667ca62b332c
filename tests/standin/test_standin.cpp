#include "benchmark/run_json.h"
#include "probe/conduct.h"
#include "standin/simulate.h"
#include "standin/simulated_house.h"
#include "support/classes.h"
#include "support/mains_rooms.h"

#include <QElapsedTimer>
#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>

using namespace metrodos;
using benchmark::Direction;
using benchmark::Run;
using benchmark::RunConfig;
using testing::classes;

namespace {

Run simulated(const house::House& h, int streams, std::uint64_t seed = 1, double seconds = 10,
              Direction direction = Direction::forward) {
    RunConfig config;
    config.streams = streams;
    config.seconds = seconds;
    config.direction = direction;
    return standin::simulate(h, classes(), h.routes[0], config, seed, 0).value();
}

standin::SimulationSettings settingsFor(const house::House& h, const probe::Key& key) {
    standin::SimulationSettings settings;
    settings.house = [h] { return h; };
    settings.catalog = classes();
    settings.key = key;
    settings.seed = 5;
    settings.realTime = false;
    return settings;
}

} // namespace

class TestStandin : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { probe::ignoreBrokenPipes(); }

    void theSameSeedGivesTheSameRun() {
        const auto h = testing::coaxHouse();
        QCOMPARE(benchmark::toJson(simulated(h, 2, 7)).dump(), benchmark::toJson(simulated(h, 2, 7)).dump());
        QVERIFY(benchmark::toJson(simulated(h, 2, 7)).dump() != benchmark::toJson(simulated(h, 2, 8)).dump());
    }
    void everyResultSaysThatItIsSimulated() {
        const Run run = simulated(testing::coaxHouse(), 1);
        QVERIFY(run.simulated);
        QVERIFY(run.id.starts_with("simulated"));
        QCOMPARE(run.interfaceSender->name, std::string("simulated"));
    }
    void aPortIsReachedAndNotPassed() {
        for (const auto& [phy, mbps] : {std::pair("100base-tx", 94.148), std::pair("1000base-t", 941.48)}) {
            const Run run = simulated(testing::wiredHouse(phy, phy, phy), 4);
            QVERIFY2(run.goodput.inMegabits() <= mbps * 1.0005,
                     qPrintable(QString::number(run.goodput.inMegabits())));
            QVERIFY2(run.goodput.inMegabits() >= mbps * 0.95,
                     qPrintable(QString::number(run.goodput.inMegabits())));
        }
    }
    void oneStreamOverDelayIsSlowerThanFour() {
        auto h = testing::coaxHouse();
        h.device("shelf")->deviceClass = "small-board"; // 256 KiB of window
        int clear = 0;
        for (std::uint64_t seed = 1; seed <= 10; ++seed) {
            const Run one = simulated(h, 1, seed);
            const Run four = simulated(h, 4, seed);
            const auto truth = standin::truthOf(h, classes(), h.routes[0], Direction::forward, seed).value();
            double least = 1e15;
            for (const auto& e : truth.elements)
                least = std::min(least, e.capacityBps);
            // Little's law: one window per round trip, four of them with four streams, or what the route
            // carries.
            const double law = truth.windowBytes * 8 / (truth.rttUs * 1e-6);
            QVERIFY(one.goodput.bps() < std::min(law, least) * 1.03);
            QVERIFY(four.goodput.bps() > std::min(4 * law, least) * 0.93);
            if (least < 1.5 * law) continue;
            ++clear;
            QVERIFY(four.goodput.bps() > 1.3 * one.goodput.bps());
            QVERIFY(one.senderLimited->receiverWindow > 0.5);
        }
        QVERIFY(clear >= 5);
    }
    void loadRaisesTheDelayByTheQueue() {
        const Run run = simulated(testing::coaxHouse("usb2"), 4);
        QVERIFY(run.rttLoadedUs->p50 > 1.5 * run.rttIdleUs->p50);
        // No more than the buffer of 8 ms in front of the narrowest element, and the jitter.
        QVERIFY(run.rttLoadedUs->p50 < run.rttIdleUs->p50 + 9500);
    }
    void slowStartShowsAtTheBeginning() {
        auto h = testing::coaxHouse();
        const Run run = simulated(h, 1, 3);
        QVERIFY(run.samples[0].goodputBps < 0.95 * run.goodput.bps());
    }
    void mediaWaverAndPortsDoNot() {
        const auto spread = [](const Run& run) {
            double sum = 0;
            double squares = 0;
            for (std::size_t i = 20; i < run.samples.size(); ++i) {
                sum += run.samples[i].goodputBps;
                squares += run.samples[i].goodputBps * run.samples[i].goodputBps;
            }
            const double n = static_cast<double>(run.samples.size() - 20);
            return std::sqrt(std::max(0.0, squares / n - sum * sum / n / n)) / (sum / n);
        };
        auto mains = testing::coaxHouse("usb3-5g", "mains-1200");
        for (const char* id : {"coax-a", "coax-b"})
            mains.device(id)->ports[1].kind = house::PortKind::mains;
        mains.connection("coax")->medium = house::Medium::mains;
        mains.connection("coax")->situation = "same_circuit";
        QVERIFY(spread(simulated(mains, 4)) > 0.03);
        QVERIFY(spread(simulated(testing::wiredHouse(), 4)) < 0.01);
    }
    void theDirectionsOfAMediumDiffer() {
        auto h = testing::coaxHouse();
        h.connection("coax")->situation = "poor";
        const Run there = simulated(h, 4, 4);
        const Run back = simulated(h, 4, 4, 10, Direction::backward);
        QVERIFY(std::fabs(there.goodput.bps() / back.goodput.bps() - 1) > 0.02);
    }
    // A link runs at the slower of its two ports, or as it was seen; plug and socket agree on the slower bus.
    // At another outlet, of which nobody says which, the mains are others; elsewhere nothing changes.
    void anotherOutletIsAnotherDraw() {
        const house::House h = testing::mainsRooms();
        const auto elements = house::findRoute(h, h.routes[0].from, h.routes[0].to).value();
        const auto mains = static_cast<std::size_t>(
            std::find_if(elements.begin(), elements.end(), [](const auto& e) { return e.id == "mains"; }) -
            elements.begin());
        standin::HiddenFault fault;
        auto how = house::AlterationKind::other_outlet;
        const auto carries = [&](const std::string& element, const std::string& place) {
            standin::Situation situation;
            if (!fault.element.empty()) situation.hidden = {fault};
            if (!element.empty()) situation.arrangement.altered = {{element, how, place}};
            return standin::truthOf(h, classes(), h.routes[0], Direction::forward, 3, situation)
                .value()
                .elements.at(mains)
                .capacityBps;
        };
        QVERIFY(carries("mains", "") != carries("", ""));
        // What goes with the appliances of one medium does not go with those of another.
        fault.element = "mains";
        fault.forward = 0.3;
        fault.curedBy = {house::AlterationKind::appliances_off};
        how = house::AlterationKind::appliances_off;
        const double sound = carries("mains", "");
        QVERIFY(carries("", "") < 0.5 * sound);
        QCOMPARE(carries("lead-a", ""), carries("", ""));
        fault = {};
        how = house::AlterationKind::other_outlet;
        QCOMPARE(carries("lead-a", ""), carries("", ""));
    }
    void aMachineSaysWhatItsLinksRunAt() {
        const auto portsOf = [](const house::House& h, std::size_t endpoint) {
            const auto key = probe::Key::generate();
            const auto simulated = standin::SimulatedHouse::start(settingsFor(h, key)).value();
            const auto& at = simulated->endpoints()[endpoint];
            auto link = probe::EndpointLink::connect(at.host + ":" + std::to_string(at.port), key).value();
            return link.facts().value().at("ports");
        };
        house::House h = testing::wiredHouse("2.5gbase-t", "1000base-t");
        auto ports = portsOf(h, 0);
        QCOMPARE(ports.size(), std::size_t(1));
        QVERIFY(ports[0].at("rate_bps") == 1e9 && ports[0].at("duplex") == "full");
        QVERIFY(ports[0].at("supported_bps") == 2.5e9 && ports[0].at("partner_bps") == 1e9);
        QVERIFY(ports[0].at("bus").at("kind").is_null());
        h.connection("run-1")->linkedAt = quantity::BitRate::megabits(100);
        h.connection("run-1")->halfDuplex = true;
        ports = portsOf(h, 0);
        QVERIFY(ports[0].at("rate_bps") == 100e6 && ports[0].at("duplex") == "half");
        h.connection("run-1")->linkedAt.reset();
        h.device("switch")->ports[0].phy.clear();
        ports = portsOf(h, 0);
        QVERIFY(ports[0].at("rate_bps").is_null() && ports[0].at("partner_bps").is_null());
        ports = portsOf(testing::coaxHouse("usb2"), 1);
        QCOMPARE(ports.size(), std::size_t(1));
        const nlohmann::json& bus = ports[0].at("bus");
        QVERIFY(bus.at("kind") == "usb");
        QCOMPARE(bus.at("rate_bps").get<double>(), classes().bus("usb2")->raw.bps());
        QVERIFY(bus.at("possible_rate_bps").get<double>() > bus.at("rate_bps").get<double>());
    }
    void theSimulatedHouseSpeaksTheAgentsProtocol() {
        const auto key = probe::Key::generate();
        const auto house =
            standin::SimulatedHouse::start(settingsFor(testing::coaxHouse("usb2"), key)).value();
        QCOMPARE(house->endpoints().size(), std::size_t(2));
        const auto address = [&](std::size_t i) {
            return house->endpoints()[i].host + ":" + std::to_string(house->endpoints()[i].port);
        };
        auto from = probe::EndpointLink::connect(address(0), key).value();
        auto to = probe::EndpointLink::connect(address(1), key).value();
        QVERIFY(from.simulated());
        QVERIFY(from.facts().value().at("simulated").get<bool>());
        for (const Direction d : {Direction::forward, Direction::backward}) {
            RunConfig config;
            config.direction = d;
            config.streams = 4;
            config.seconds = 5;
            int seen = 0;
            probe::RunObserver observer;
            observer.sample = [&](const benchmark::Sample&) { ++seen; };
            const auto run = probe::conduct(from, to, config, observer, {});
            QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
            QCOMPARE(seen, 50);
            QVERIFY(run->simulated);
            QVERIFY(run->goodput.inMegabits() > 250 && run->goodput.inMegabits() < 370);
            QVERIFY(run->rttIdleUs && run->rttLoadedUs && run->rttLoadedUs->p50 > run->rttIdleUs->p50);
            double busy = 0;
            for (const benchmark::Sample& s : run->samples)
                busy += s.cpuSender.value() / 50;
            QVERIFY(busy > 0 && std::fabs(run->cpuSender.value() - busy) < 0.01);
        }
        // Datagrams have no window and nothing that is sent again.
        RunConfig paced;
        paced.protocol = benchmark::Protocol::udp;
        paced.rate = quantity::BitRate::megabits(100);
        paced.seconds = 1;
        const auto datagrams = probe::conduct(from, to, paced, {}, {}).value();
        QCOMPARE(datagrams.samples.size(), std::size_t(10));
        for (const benchmark::Sample& s : datagrams.samples)
            QVERIFY(!s.tcpRttUs && !s.windowBytes && !s.retransmits && s.lossRatio);
        // It is set up as the order says: in another socket, and on the bench.
        RunConfig elsewhere;
        elsewhere.streams = 4;
        elsewhere.seconds = 2;
        elsewhere.arrangement.bypassed = {"socket"};
        const auto moved = probe::conduct(from, to, elsewhere, {}, {});
        QVERIFY(moved && moved->goodput.inMegabits() > 1000);
        elsewhere.arrangement.bypassed.clear();
        elsewhere.arrangement.setup = house::Setup::baseline;
        const auto bench = probe::conduct(from, to, elsewhere, {}, {});
        QVERIFY(bench && bench->goodput.inMegabits() < 370); // the socket belongs to its machine
        // A wrong key is turned away here as well, and a real end does not mix with a simulated one.
        QVERIFY(!probe::EndpointLink::connect(address(0), probe::Key::generate()));
        auto here = probe::EndpointLink::here("here").value();
        const auto mixed = probe::conduct(here, to, RunConfig{}, {}, {});
        QVERIFY(!mixed);
        QVERIFY(mixed.error().sentence().find("simulated") != std::string::npos);
    }
    void inRealTimeARunCanBeStopped() {
        const auto key = probe::Key::generate();
        auto settings = settingsFor(testing::wiredHouse(), key);
        settings.realTime = true;
        const auto house = standin::SimulatedHouse::start(std::move(settings)).value();
        const auto link = [&](std::size_t i) {
            return probe::EndpointLink::connect(
                       house->endpoints()[i].host + ":" + std::to_string(house->endpoints()[i].port), key)
                .value();
        };
        auto from = link(0);
        auto to = link(1);
        std::stop_source stop;
        QElapsedTimer timer;
        int seen = 0;
        probe::RunObserver observer;
        observer.sample = [&](const benchmark::Sample&) {
            if (++seen == 3) {
                timer.start();
                stop.request_stop();
            }
        };
        const auto run = probe::conduct(from, to, RunConfig{}, observer, stop.get_token());
        QVERIFY(run.has_value() && !run->complete);
        QVERIFY(timer.elapsed() < 200);
    }
    void whatIsEditedIsWhatIsSimulated() {
        house::House h = testing::coaxHouse("usb2");
        const auto key = probe::Key::generate();
        auto settings = settingsFor(h, key);
        settings.house = [&h] { return h; };
        const auto house = standin::SimulatedHouse::start(std::move(settings)).value();
        const auto measure = [&] {
            auto from =
                probe::EndpointLink::connect("127.0.0.1:" + std::to_string(house->endpoints()[0].port), key)
                    .value();
            auto to =
                probe::EndpointLink::connect("127.0.0.1:" + std::to_string(house->endpoints()[1].port), key)
                    .value();
            RunConfig config;
            config.streams = 4;
            return probe::conduct(from, to, config, {}, {}).value().goodput.inMegabits();
        };
        const double before = measure();
        h.device("shelf")->ports[0].phy = "usb3-5g";
        QVERIFY(measure() > 3 * before);
    }
};

QTEST_GUILESS_MAIN(TestStandin)
#include "test_standin.moc"
