// What was sold against what was measured, and ports that are slower than they need be: by hand calculation.
#include "support/diagnosed.h"
#include "support/houses.h"
#include "support/runs.h"
#include "trace/promises.h"
#include "trace/trace_json.h"

#include <QTest>
#include <algorithm>
#include <nlohmann/json.hpp>

using namespace metrodos;
using benchmark::Direction;
using testing::classes;
using testing::steadyRun;

namespace {

std::vector<std::string> slow(const house::House& h) {
    return trace::slowPorts(capacity::predict(h, classes(), h.routes[0]).value(), h, classes());
}

} // namespace

class TestPromises : public QObject {
    Q_OBJECT

  private slots:
    void theLeastPromiseOfTheWayIsHeldAgainstTheRuns() {
        const house::House h = testing::coaxHouse();
        const auto both = testing::diagnosed(h, {steadyRun(Direction::forward, 300, 4, 0.002, "f"),
                                                 steadyRun(Direction::backward, 1500, 4, 0.002, "b")});
        // 300 of the 2,500 that are printed on the adapters are 12 %, 1,500 are 60 %.
        QCOMPARE(both.sold.substr(0, both.sold.find(", Coax")),
                 std::string("Sold against measured: forward 300 Mbit/s of 2.50 Gbit/s (12 %"));
        QVERIFY2(both.sold.find("), backward 1.50 Gbit/s of 2.50 Gbit/s (60 %);") != std::string::npos,
                 both.sold.c_str());
        QVERIFY(both.sold.find("not of payload.") != std::string::npos);
        const auto one = testing::diagnosed(h, {steadyRun(Direction::backward, 25, 4, 0.002, "b")});
        QVERIFY2(one.sold.starts_with("Sold against measured: backward 25.0 Mbit/s of 2.50 Gbit/s (1 %"),
                 one.sold.c_str());
        QVERIFY(one.sold.find("forward") == std::string::npos);
        QVERIFY(testing::diagnosed(h, {}).sold.empty());
        // A way of cables alone has nothing printed on it.
        const auto wired = testing::wiredHouse();
        QVERIFY2(testing::diagnosed(wired, {steadyRun(Direction::forward, 900, 4, 0.002, "f")}).sold.empty(),
                 testing::diagnosed(wired, {steadyRun(Direction::forward, 900, 4, 0.002, "f")}).sold.c_str());
    }
    void theServiceIsSoldByDirection() {
        house::House h = testing::wiredHouse();
        h.service = house::Service{"service",
                                   "the service",
                                   "switch",
                                   quantity::BitRate::bitsPerSecond(500e6),
                                   quantity::BitRate::bitsPerSecond(50e6),
                                   ""};
        for (const bool isFrom : {true, false}) {
            house::Route& r = h.routes[0];
            const std::string machine = testing::wiredHouse().routes[0].from;
            r.from = isFrom ? "service" : machine;
            r.to = isFrom ? machine : "service";
            const auto d = testing::diagnosed(h, {steadyRun(Direction::forward, 25, 4, 0.002, "f")});
            const std::string wanted = isFrom ? "25.0 Mbit/s of 500 Mbit/s (5 %, the service)"
                                              : "25.0 Mbit/s of 50.0 Mbit/s (50 %, the service)";
            QVERIFY2(d.sold.find(wanted) != std::string::npos, d.sold.c_str());
            QVERIFY(d.sold.find("payload") == std::string::npos); // what is sold is payload, or nearly
        }
    }
    void aSlowPortBesideAFreeFasterOneIsSaid() {
        const house::House h = testing::wiredHouse();
        QVERIFY(slow(h).empty());
        const auto with = [&](const house::Port& more) {
            house::House other = h;
            other.device("switch")->ports.push_back(more);
            return other;
        };
        const house::Port fast{"p9", "LAN 9", house::PortKind::ethernet, "2.5gbase-t"};
        const auto said = slow(with(fast));
        QCOMPARE(said.size(), std::size_t(2)); // the way goes in by one port and out by another
        QVERIFY2(said.front().find(
                     "is made for 1.00 Gbit/s and “LAN 9” of the same box, made for 2.50 Gbit/s, is free") !=
                     std::string::npos,
                 said.front().c_str());
        // Not free, no faster, or for another plug.
        house::Port taken = fast;
        taken.jack = "somewhere";
        QVERIFY(slow(with(taken)).empty());
        house::House joined = with(fast);
        house::Connection lead;
        lead.id = "lead-9";
        lead.ends = {{"switch", "p9"}};
        joined.connections.push_back(lead);
        QVERIFY(slow(joined).empty());
        house::Port same = fast;
        same.phy = "1000base-t";
        QVERIFY(slow(with(same)).empty());
        house::Port other = fast;
        other.kind = house::PortKind::coax;
        QVERIFY(slow(with(other)).empty());
        house::Port unknown = fast;
        unknown.phy.clear();
        QVERIFY(slow(with(unknown)).empty());
        // It is one of the warnings of the verdict.
        const auto d = testing::diagnosed(with(fast), {});
        QVERIFY(std::find(d.warnings.begin(), d.warnings.end(), said.front()) != d.warnings.end());
    }
    void theExchangeOfASuspectHasItsPrice() {
        bool isAnyPriced = false;
        for (const char* cls : {"coax-2500", "coax-ghn-850", "coax-ghn-1700", "coax-175"})
            for (const double mbps : {100.0, 130.0, 430.0, 880.0, 2300.0}) {
                const house::House h = testing::coaxHouse("usb3-5g", cls);
                const auto d = testing::diagnosed(h, {steadyRun(Direction::forward, mbps, 4, 0.002, "f"),
                                                      steadyRun(Direction::forward, mbps, 4, 0.002, "g")});
                const auto json = trace::toJson(d);
                for (std::size_t i = 0; i < d.suspects.size(); ++i) {
                    const trace::Suspect& s = d.suspects[i];
                    QCOMPARE(json.at("suspects")[i].at("cost").is_null(), !s.cost.has_value());
                    // A price is that of a box of the same family; what is no box has none.
                    const house::Device* box =
                        h.device(s.element.substr(0, s.element.find('.'))); // or its port
                    if (box == nullptr) QVERIFY2(!s.cost, s.label.c_str());
                    if (!s.cost) continue;
                    isAnyPriced = true;
                    QVERIFY(
                        std::any_of(classes().devices.begin(), classes().devices.end(), [&](const auto& one) {
                            return one.family == classes().device(box->deviceClass)->family &&
                                   one.price == *s.cost;
                        }));
                    QCOMPARE(json.at("suspects")[i].at("cost").get<double>(), s.cost->inUnits());
                }
            }
        QVERIFY(isAnyPriced);
    }
};

QTEST_GUILESS_MAIN(TestPromises)
#include "test_promises.moc"
