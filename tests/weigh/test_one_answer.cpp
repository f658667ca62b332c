// What a plan says of a way is what the prediction says of it once it is there: random houses are planned
// with a random way pinned, the plan is made real, and the way that then joins the spot is predicted from the
// survey alone.
#include "house/validate.h"
#include "support/served_house.h"
#include "weigh/apply_plan.h"
#include "weigh/objectives.h"

#include <QTest>
#include <cmath>
#include <random>

using namespace metrodos;
using namespace metrodos::weigh;
using namespace metrodos::testing;

namespace {

// One spot of a house with coax and mains in the walls, at a machine of any class with any port or socket.
house::House randomServed(std::mt19937& random) {
    const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    house::House h = servedHouse(900, 300, 1);
    h.connections.clear();
    h.rooms[1].floor = below(3);
    house::Device& machine = *h.device("machine-1");
    const char* hosts[] = {"workstation", "desktop", "laptop", "small-board", ""};
    machine.deviceClass = hosts[below(5)];
    const char* phys[] = {"100base-tx", "1000base-t", "2.5gbase-t", "10gbase-t", ""};
    machine.ports[0].phy = phys[below(5)];
    if (below(3) == 0) {
        const char* sockets[] = {"usb2", "usb3-5g"};
        machine.ports = {{"usb", "USB", house::PortKind::usb, sockets[below(2)]}};
        h.devices.push_back({"nic",
                             "Adapter",
                             house::DeviceKind::adapter,
                             "usb-nic-2.5g",
                             "room-1",
                             {{"lan", "LAN", house::PortKind::ethernet, "2.5gbase-t"},
                              {"plug", "plug", house::PortKind::usb, "usb3-5g"}}});
        house::Connection bus;
        bus.id = bus.label = "socket";
        bus.medium = house::Medium::bus;
        bus.ends = {{"nic", "plug"}, {"machine-1", "usb"}};
        h.connections.push_back(bus);
    }
    h.coaxParts = {{"split", "Splitter", house::CoaxPartKind::splitter, "hall", 2 + below(4), {}, {}, {}}};
    if (below(2) == 0) h.coaxParts[0].rated = below(2) == 0;
    for (const auto& [jack, room, port] :
         {std::tuple("hall-coax", "hall", "out-1"), {"room-coax", "room-1", "out-2"}}) {
        h.jacks.push_back({jack, jack, room, house::JackKind::coax});
        house::Connection run;
        run.id = run.label = std::string(jack) + "-run";
        run.medium = house::Medium::coax;
        run.ends = {{"split", port}, {jack, ""}};
        if (below(2) == 0) run.length = quantity::Length::metres(2 + below(40));
        h.connections.push_back(run);
    }
    h.panels = {{"panel", "Panel", "hall", ""}};
    house::Circuit ring;
    ring.id = ring.label = "ring";
    ring.panel = "panel";
    for (const auto& [jack, room] : {std::pair("hall-outlet", "hall"), {"room-outlet", "room-1"}}) {
        h.jacks.push_back({jack, jack, room, house::JackKind::mains});
        ring.outlets.push_back({jack, quantity::Length::metres(2 + below(20))});
    }
    h.circuits = {ring};
    h.spots[0].needDown = BitRate::megabits(10 + below(3000));
    h.spots[0].needUp = BitRate::megabits(5 + below(200));
    return h;
}

} // namespace

class TestOneAnswer : public QObject {
    Q_OBJECT

  private slots:
    void aWayIsWhatThePredictionSaysOnceItIsThere() {
        // 2,000 take some minutes: all of them only when there is time.
        const int houses = qEnvironmentVariableIntValue("METRODOS_DEEP") > 0 ? 2000 : 40;
        std::mt19937 random(4711);
        std::map<std::string, int> seen;
        for (int n = 0; n < houses; ++n) {
            house::House h = randomServed(random);
            const Options open = optionsOf(h, classes()).value();
            std::vector<const SpotWay*> possible;
            for (const SpotWay& way : open.spots[0].ways)
                if (way.isPossible() &&
                    (way.means == catalog::WayMeans::coax || way.means == catalog::WayMeans::mains ||
                     way.means == catalog::WayMeans::new_hired))
                    possible.push_back(&way);
            if (possible.empty()) continue;
            // Each means as often as the others, whatever the number of its classes.
            const catalog::WayMeans means = possible[random() % possible.size()]->means;
            const catalog::WayMeans wanted = n % 3 == 0   ? catalog::WayMeans::new_hired
                                             : n % 3 == 1 ? catalog::WayMeans::coax
                                                          : means;
            std::vector<const SpotWay*> chosen;
            for (const SpotWay* way : possible)
                if (way->means == wanted) chosen.push_back(way);
            if (chosen.empty()) continue;
            h.spots[0].pin = chosen[random() % chosen.size()]->key();
            const Options options = optionsOf(h, classes()).value();
            const Plan plan = planBy(Objective::cheapest, options, Prices(classes(), {})).value();
            const SpotResult& result = plan.spots[0];
            if (result.way < 0) continue;
            const SpotWay& planned = options.spots[0].way(result.way);
            const AppliedPlan made = applyPlan(h, classes(), options, plan).value();
            const auto faults = house::validate(made.house);
            QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().sentence().c_str());
            const Options after = optionsOf(made.house, classes()).value();
            const auto there =
                std::find_if(after.spots[0].ways.begin(), after.spots[0].ways.end(),
                             [](const SpotWay& w) { return w.means == catalog::WayMeans::as_is; });
            const std::string what = std::to_string(n) + " " + planned.label;
            QVERIFY2(there->isPossible(), (what + ": " + there->ruledOut).c_str());
            ++seen[planned.id];
            for (const bool down : {true, false}) {
                const double before = (down ? planned.down : planned.up).p50.bps();
                const double now = (down ? there->down : there->up).p50.bps();
                // The same, but for the port at the hub, which is no part of the way before it is chosen: the
                // router's 1 Gbit/s, or one of a switch that the plan buys.
                const bool boughtSwitch =
                    std::any_of(plan.parts.begin(), plan.parts.end(),
                                [](const PartLine& line) { return line.item.starts_with("switch-"); });
                const double wanted = boughtSwitch ? before : std::min(before, 941.5e6);
                QVERIFY2(std::fabs(now / wanted - 1) < 0.01 ||
                             (boughtSwitch &&
                              (std::fabs(now / 941.5e6 - 1) < 0.01 || std::fabs(now / 2353.7e6 - 1) < 0.01) &&
                              now < before),
                         (what + ": planned " + std::to_string(before / 1e6) + ", there " +
                          std::to_string(now / 1e6))
                             .c_str());
            }
        }
        qInfo("%d coax, %d mains, %d new cables", seen["coax"], seen["mains"], seen["new-hired"]);
        QVERIFY(seen["coax"] > 3 && seen["mains"] > 3 && seen["new-hired"] > 3);
    }
};

QTEST_GUILESS_MAIN(TestOneAnswer)
#include "test_one_answer.moc"
