// Hand-worked ceilings of single elements, and properties over random houses.
#include "capacity/predict.h"
#include "catalog/refit.h"
#include "house/validate.h"
#include "support/classes.h"
#include "support/houses.h"

#include <QTest>
#include <cmath>
#include <random>

using namespace metrodos;
using capacity::RateSpread;
using testing::classes;

namespace {

capacity::Ceiling ceiling(const house::House& h, const std::string& id,
                          const capacity::Framing& framing = {}) {
    const auto elements = house::findRoute(h, h.routes[0].from, h.routes[0].to).value();
    for (const house::Element& e : elements)
        if (e.id == id) return capacity::ceilingOf(h, classes(), e, framing);
    throw std::runtime_error("no element " + id);
}

bool is(const RateSpread& s, double p10, double p50, double p90) {
    const auto near = [](double value, double wanted) { return std::fabs(value / wanted - 1) < 1e-6; };
    return near(s.p10.inMegabits(), p10) && near(s.p50.inMegabits(), p50) && near(s.p90.inMegabits(), p90);
}

/// A house grown by random edits of the kind that a user makes.
house::House randomHouse(std::mt19937& random) {
    house::House h = random() % 2 == 0 ? testing::wiredHouse() : testing::coaxHouse();
    const auto units = catalog::newUnits(classes());
    for (unsigned i = random() % 6; i > 0; --i) {
        const auto elements = house::findRoute(h, h.routes[0].from, h.routes[0].to).value();
        const house::Element& e = elements[random() % elements.size()];
        quantity::Result<house::House> next = h;
        switch (random() % 4) {
        case 0:
            next = house::insertUnit(h, h.routes[0], e.connection, units[random() % units.size()]);
            break;
        case 1:
            next = house::removeUnit(h, h.routes[0], e.device);
            break;
        case 2:
            next = house::moveUnit(h, h.routes[0], e.device, random() % 2 == 0 ? 1 : -1);
            break;
        default: {
            const auto choices = catalog::choicesFor(h, classes(), e);
            next = catalog::withChoice(h, classes(), e, choices[random() % choices.size()].id);
        }
        }
        if (next) h = *next; // what makes no sense was refused and changes nothing
    }
    return h;
}

} // namespace

class TestElements : public QObject {
    Q_OBJECT

  private slots:
    void socketsCarryTheTable() {
        const auto carries = [](const char* socket, double p10, double p50, double p90) {
            return is(ceiling(testing::coaxHouse(socket), "socket").forward.spread(), p10, p50, p90);
        };
        QVERIFY(carries("usb2", 280, 315, 350));
        QVERIFY(carries("usb3-5g", 3100, 3400, 3600));
        // Plug and socket agree on the slower: the plug of the adapter is USB 3 at 5 Gbit/s.
        QVERIFY(carries("usb3-10g", 3100, 3400, 3600));
    }
    void pcieLanesAreCodedRateTimesUsableShare() {
        // Coded rate per lane: 2, 4 and 7.88 Gbit/s; 85 % usable at the median.
        QVERIFY(std::fabs(classes().bus("pcie-gen1-x1")->goodput.p50.inMegabits() / (2000 * 0.85) - 1) <
                0.01);
        QVERIFY(std::fabs(classes().bus("pcie-gen2-x1")->goodput.p50.inMegabits() / (4000 * 0.85) - 1) <
                0.01);
        QVERIFY(std::fabs(classes().bus("pcie-gen3-x1")->goodput.p50.inMegabits() / (7880 * 0.85) - 1) <
                0.01);
        QVERIFY(std::fabs(classes().bus("pcie-gen3-x4")->goodput.p50.inMegabits() / (4 * 7880 * 0.85) - 1) <
                0.01);
        // A 10G card in one lane of gen2 or gen3 does not make 10G.
        QVERIFY(classes().bus("pcie-gen2-x1")->goodput.p90.inMegabits() < 9415);
        QVERIFY(classes().bus("pcie-gen3-x1")->goodput.p90.inMegabits() < 9415);
    }
    void mainsStaysInsideItsEnvelope() {
        // TCP, class 1000–1300: the range of each situation, Mbit/s.
        const auto* cls = classes().device("mains-1200");
        const auto within = [&](const char* situation, double low, double high) {
            const RateSpread& s = cls->medium.at(situation);
            return s.p10.inMegabits() >= low && s.p90.inMegabits() <= high;
        };
        QVERIFY(within("neighbouring", 150, 280));
        QVERIFY(within("same_circuit", 90, 200));
        QVERIFY(within("same_panel", 30, 110));
        QVERIFY(within("other_leg", 10, 60));
        for (const auto& device : classes().devices)
            for (const auto& [situation, spread] : device.medium) {
                QVERIFY2(spread.p90 <= device.goodput.p90, (device.id + " " + situation).c_str());
                QVERIFY2(device.goodput.p90 < device.rated, device.id.c_str()); // no box keeps its promise
            }
    }
    void theSlowerAdapterOfAPairDecides() {
        house::House h = testing::coaxHouse();
        h.device("coax-b")->deviceClass = "coax-500";
        const auto mixed = ceiling(h, "coax");
        QCOMPARE(mixed.forward.spread().p50.inMegabits(),
                 classes().device("coax-500")->medium.at("good").p50.inMegabits());
        QVERIFY(mixed.shared);
        QVERIFY(!ceiling(h, "switch").shared);
    }
    void aDeadCableCarriesNothing() {
        house::House h = testing::wiredHouse();
        h.connection("run-1")->goodPairs = 1;
        QVERIFY(ceiling(h, "run-1").because.find("no link") != std::string::npos);
        QVERIFY(capacity::predict(h, classes(), h.routes[0]).value().forward.p90.bps() < 1000);
    }
    void largerFramesCarryMore() {
        const house::House h = testing::wiredHouse();
        capacity::Framing jumbo;
        jumbo.mtu = 9000;
        capacity::Framing tagged;
        tagged.vlanTag = true;
        const double plain = ceiling(h, "desk.lan").forward.spread().p50.inMegabits();
        QVERIFY(std::fabs(ceiling(h, "desk.lan", jumbo).forward.spread().p50.inMegabits() - 990.04) < 0.01);
        QVERIFY(ceiling(h, "desk.lan", tagged).forward.spread().p50.inMegabits() < plain);
    }
    void everyCeilingExplainsItself() {
        const house::House h = testing::coaxHouse("usb2");
        const auto prediction = capacity::predict(h, classes(), h.routes[0]).value();
        for (const auto& e : prediction.elements) {
            QVERIFY2(!e.ceiling.because.empty(), e.element.id.c_str());
            QVERIFY2(!e.ceiling.arithmetic.empty(), e.element.id.c_str());
            QVERIFY2(!e.ceiling.source.empty(), e.element.id.c_str());
        }
    }
    void theDelayIsThatOfTheMedia() {
        const auto wired =
            capacity::predict(testing::wiredHouse(), classes(), testing::wiredHouse().routes[0]).value();
        QVERIFY(wired.rttMicroseconds.p90 < 1000);
        const auto coax =
            capacity::predict(testing::coaxHouse(), classes(), testing::coaxHouse().routes[0]).value();
        QVERIFY(coax.rttMicroseconds.p50 > 3000 && coax.rttMicroseconds.p50 < 4500);
        QVERIFY(coax.rttMicroseconds.p10 <= coax.rttMicroseconds.p50 &&
                coax.rttMicroseconds.p50 <= coax.rttMicroseconds.p90);
    }
    void editedHousesStaySoundAndPredictable() {
        std::mt19937 random(20);
        for (int i = 0; i < 300; ++i) {
            const house::House h = randomHouse(random);
            const auto faults = house::validate(h);
            QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().sentence().c_str());
            const auto p = capacity::predict(h, classes(), h.routes[0]);
            QVERIFY2(p.has_value(), p ? "" : p.error().sentence().c_str());
            QVERIFY(p->forward.p10 <= p->forward.p50 && p->forward.p50 <= p->forward.p90);
            for (const auto& e : p->elements)
                QVERIFY(e.ceiling.forward.cdf(p->forward.p50.bps() * (1 - 1e-6)) <= 0.505);
        }
    }
    void aSlowerPortNeverRaisesTheRoute() {
        const char* phys[] = {"10gbase-t", "5gbase-t", "2.5gbase-t", "1000base-t", "100base-tx"};
        double last = 1e18;
        for (const char* phy : phys) {
            house::House h = testing::coaxHouse();
            h.device("desk")->ports[0].phy = phy;
            const double now = capacity::predict(h, classes(), h.routes[0]).value().forward.p50.bps();
            QVERIFY(now <= last * 1.0001);
            last = now;
        }
    }
};

QTEST_GUILESS_MAIN(TestElements)
#include "test_elements.moc"
