#include "capacity/predict.h"
#include "catalog/check.h"
#include "catalog/refit.h"
#include "house/validate.h"
#include "support/classes.h"
#include "support/houses.h"

#include <QTest>

using namespace metrodos;
using testing::classes;

namespace {

std::vector<house::Element> route(const house::House& h) {
    return house::findRoute(h, h.routes[0].from, h.routes[0].to).value();
}

house::Element element(const house::House& h, const std::string& id) {
    const auto elements = route(h);
    for (const house::Element& e : elements)
        if (e.id == id) return e;
    throw std::runtime_error("no element " + id);
}

bool offers(const house::House& h, const std::string& id, const std::string& choice) {
    for (const catalog::Choice& c : catalog::choicesFor(h, classes(), element(h, id)))
        if (c.id == choice) return true;
    return false;
}

} // namespace

class TestRefit : public QObject {
    Q_OBJECT

  private slots:
    void everyElementOffersWhatItMayBe() {
        const house::House h = testing::coaxHouse();
        QVERIFY(offers(h, "desk", "laptop") && !offers(h, "desk", "switch-1g"));
        QVERIFY(offers(h, "desk.lan", "10gbase-t") && !offers(h, "desk.lan", "usb2"));
        QVERIFY(offers(h, "run-1", "cat8"));
        QVERIFY(offers(h, "switch", "switch-10g") && !offers(h, "switch", "router-1g"));
        QVERIFY(offers(h, "coax-a", "coax-175") && !offers(h, "coax-a", "mains-200"));
        QVERIFY(offers(h, "coax", "poor") && !offers(h, "coax", "same_circuit"));
        QVERIFY(offers(h, "socket", "usb2") && !offers(h, "socket", "pcie-gen3-x4"));
        QVERIFY(offers(h, "nic", "usb-nic-5g") && !offers(h, "nic", "pcie-nic-10g")); // its plug is USB
        const auto elements = route(h);
        for (const house::Element& e : elements) {
            QVERIFY2(offers(h, e.id, ""), e.id.c_str()); // unknown is a legal answer everywhere
            QVERIFY2(offers(h, e.id, catalog::choiceOf(h, e)), e.id.c_str());
        }
    }
    void aChoiceChangesTheElementAndNothingElse() {
        const house::House h = testing::coaxHouse();
        const auto elements = route(h);
        for (const house::Element& e : elements)
            for (const catalog::Choice& choice : catalog::choicesFor(h, classes(), e)) {
                const auto changed = catalog::withChoice(h, classes(), e, choice.id);
                QVERIFY(changed.has_value());
                QVERIFY(house::validate(*changed).empty());
                QVERIFY(catalog::check(*changed, classes()).empty());
                QCOMPARE(catalog::choiceOf(*changed, e), choice.id);
                QCOMPARE(route(*changed), elements);
                QVERIFY(capacity::predict(*changed, classes(), h.routes[0]).has_value());
                QCOMPARE(
                    catalog::withChoice(*changed, classes(), e, catalog::choiceOf(h, e)).value().connections,
                    h.connections);
            }
    }
    void anotherBoxBringsItsPorts() {
        const house::House h = testing::coaxHouse();
        const auto slow = catalog::withChoice(h, classes(), element(h, "coax-a"), "coax-500").value();
        QCOMPARE(slow.port({"coax-a", "lan"})->phy, std::string("1000base-t"));
        QCOMPARE(slow.port({"coax-a", "line"})->phy, std::string());
        const auto nic = catalog::withChoice(h, classes(), element(h, "nic"), "usb-nic-5g").value();
        QCOMPARE(nic.port({"nic", "plug"})->phy, std::string("usb3-10g"));
        QCOMPARE(nic.port({"nic", "lan"})->phy, std::string("5gbase-t"));
        QCOMPARE(nic.port({"shelf", "usb"})->phy, std::string("usb3-5g")); // the socket stays what it is
    }
    void theSocketIsTheHostsEnd() {
        const house::House h = testing::coaxHouse();
        house::Element bus = element(h, "socket");
        QCOMPARE(catalog::socketOf(h, bus), (house::PortRef{"shelf", "usb"}));
        std::swap(bus.entry, bus.exit); // as a route the other way round passes it
        QCOMPARE(catalog::socketOf(h, bus), (house::PortRef{"shelf", "usb"}));
    }
    void whatIsNotOfferedIsRefused() {
        const house::House h = testing::coaxHouse();
        QVERIFY(!catalog::withChoice(h, classes(), element(h, "desk"), "coax-2500"));
        QVERIFY(!catalog::withChoice(h, classes(), element(h, "coax"), "neighbouring"));
    }
    void everyNewUnitFitsIntoACable() {
        const house::House h = testing::wiredHouse();
        const auto units = catalog::newUnits(classes());
        QVERIFY(units.size() >= 10);
        for (const house::NewUnit& unit : units) {
            const auto with = house::insertUnit(h, h.routes[0], "run-1", unit);
            QVERIFY2(with.has_value(), unit.label.c_str());
            QVERIFY2(house::validate(*with).empty(), unit.label.c_str());
            QVERIFY2(catalog::check(*with, classes()).empty(), unit.label.c_str());
            const auto longer = capacity::predict(*with, classes(), h.routes[0]).value();
            QVERIFY(longer.elements.size() > route(h).size());
            const auto before = capacity::predict(h, classes(), h.routes[0]).value();
            QVERIFY(longer.forward.p50.bps() <= before.forward.p50.bps() * 1.001); // a box never adds rate
        }
    }
};

QTEST_GUILESS_MAIN(TestRefit)
#include "test_refit.moc"
