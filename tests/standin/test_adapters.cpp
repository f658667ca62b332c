// The status pages of simulated adapters.
#include "fit/adapter_reading.h"
#include "probe/adapter_status.h"
#include "standin/simulate.h"
#include "standin/simulated_adapters.h"
#include "support/classes.h"
#include "support/mains_rooms.h"

#include <QTest>

using namespace metrodos;
using testing::classes;

namespace {

standin::SimulationSettings settingsFor(const house::House& h) {
    standin::SimulationSettings settings;
    settings.house = [h] { return h; };
    settings.catalog = classes();
    settings.seed = 3;
    return settings;
}

} // namespace

class TestAdapters : public QObject {
    Q_OBJECT

  private slots:

    void eachAdapterHasAPageThatSaysSimulated() {
        const house::House h = testing::mainsRooms();
        const auto adapters = standin::SimulatedAdapters::start(settingsFor(h)).value();
        QCOMPARE(adapters->pages().size(), std::size_t(2));
        for (const standin::SimulatedPage& p : adapters->pages()) {
            const auto status = probe::readAdapterStatus(p.url);
            QVERIFY2(status.has_value(), status ? "" : status.error().sentence().c_str());
            QVERIFY(status->simulated);
            QCOMPARE(status->name, h.device(p.adapter)->label);
            QVERIFY(status->isPrivate == false); // out of the box
            QCOMPARE(status->peers.size(), std::size_t(1));
            QVERIFY(status->peers[0].to && status->peers[0].from);
        }
        QVERIFY(!probe::readAdapterStatus(adapters->pages()[0].url + "-other")); // 404
        // What one calls "to" is the other's "from".
        const auto a = probe::readAdapterStatus(adapters->pages()[0].url).value().peers[0];
        const auto b = probe::readAdapterStatus(adapters->pages()[1].url).value().peers[0];
        QVERIFY(a.to == b.from && a.from == b.to && a.to != a.from);
    }
    // One that no route passes shows no rates, nor do the others of their way to it.
    void withoutARouteNoRates() {
        house::House h = testing::mainsRooms();
        house::Device third = *h.device("mains-a");
        third.id = "mains-c";
        third.label = "Third adapter";
        h.devices.push_back(third);
        for (house::Connection& c : h.connections)
            if (c.medium == house::Medium::mains) c.ends.push_back({"mains-c", c.ends[0].port});
        const auto adapters = standin::SimulatedAdapters::start(settingsFor(h)).value();
        QCOMPARE(adapters->pages().size(), std::size_t(3));
        for (const standin::SimulatedPage& p : adapters->pages()) {
            const auto status = probe::readAdapterStatus(p.url).value();
            QCOMPARE(status.peers.size(), std::size_t(2));
            for (const house::PeerRates& peer : status.peers) {
                const bool passed = p.adapter != "mains-c" && peer.name != "Third adapter";
                QCOMPARE(peer.to.has_value(), passed);
                QCOMPARE(peer.from.has_value(), passed);
            }
        }
    }
    // What the page shows stands for about what a run over the same simulated wiring gives.
    void theRateShownStandsForTheGoodput() {
        const house::House h = testing::mainsRooms();
        const auto adapters = standin::SimulatedAdapters::start(settingsFor(h)).value();
        const auto status = probe::readAdapterStatus(adapters->pages()[0].url).value(); // of mains-a
        benchmark::RunConfig config;
        config.streams = 4;
        for (const bool forward : {true, false}) {
            config.direction = forward ? benchmark::Direction::forward : benchmark::Direction::backward;
            const double run =
                standin::simulate(h, classes(), h.routes[0], config, 3, 0).value().goodput.inMegabits();
            const auto implied = fit::impliedGoodput(classes(), house::Medium::mains,
                                                     *(forward ? status.peers[0].to : status.peers[0].from))
                                     .value();
            QVERIFY2(run > implied.p10.inMegabits() * 0.8 && run < implied.p90.inMegabits() * 1.2,
                     (std::to_string(run) + " against " + std::to_string(implied.p50.inMegabits())).c_str());
        }
    }
    void thePageFollowsTheJob() {
        auto h = std::make_shared<house::House>(testing::mainsRooms());
        standin::SimulationSettings settings = settingsFor(*h);
        settings.house = [h] { return *h; };
        const auto adapters = standin::SimulatedAdapters::start(settings).value();
        h->device("mains-a")->setUp.name = "hall-unit";
        h->device("mains-a")->setUp.pairedAt = "2026-05-04T10:00:00Z";
        const auto status = probe::readAdapterStatus(adapters->pages()[0].url).value();
        QCOMPARE(status.name, std::string("hall-unit"));
        QVERIFY(status.isPrivate == true);
    }
};

QTEST_GUILESS_MAIN(TestAdapters)
#include "test_adapters.moc"
