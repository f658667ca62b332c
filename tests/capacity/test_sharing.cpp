// Sharing against divisions worked by hand.
#include "capacity/sharing.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/plant.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;
using namespace metrodos::capacity;

namespace {

// A resource of `mbps` for every flow alike.
Resource pipe(double mbps, std::initializer_list<std::size_t> flows) {
    Resource r{"pipe", "pipe", {}};
    for (const std::size_t f : flows)
        r.loads.push_back({f, 1 / (mbps * 1e6)});
    return r;
}

std::vector<double> megabits(const std::vector<FairShare>& shares) {
    std::vector<double> out;
    for (const FairShare& s : shares)
        out.push_back(std::round(s.bps / 1e3) / 1e3);
    return out;
}

// Three machines on one switch of 1 Gbit/s ports; the third behind a coax pair.
House threeMachines() {
    House h = coaxHouse("usb3-5g");
    h.device("switch")->ports.push_back({"p3", "3", PortKind::ethernet, "2.5gbase-t"});
    Device third = *h.device("desk");
    third.id = "third";
    h.devices.push_back(third);
    Connection c = *h.connection("run-1");
    c.id = "run-4";
    c.ends = {{"third", "lan"}, {"switch", "p3"}};
    h.connections.push_back(c);
    h.endpoints.push_back({"third-end", "Third", "third", ""});
    return h;
}

Route route(const Id& from, const Id& to) {
    Route r;
    r.id = from + to;
    r.from = from;
    r.to = to;
    return r;
}

} // namespace

class TestSharing : public QObject {
    Q_OBJECT

  private slots:
    void onePipeIsHalved() {
        QCOMPARE(megabits(maxMinShares({pipe(100, {0, 1})}, 2)), (std::vector<double>{50, 50}));
    }
    void whatOneCannotUseTheOtherGets() {
        // Flow 0 is held to 20 by its own port; flow 1 gets the 80 that are left.
        const auto shares = maxMinShares({pipe(100, {0, 1}), pipe(20, {0})}, 2);
        QCOMPARE(megabits(shares), (std::vector<double>{20, 80}));
        QCOMPARE(shares[0].limit, std::size_t(1));
        QCOMPARE(shares[1].limit, std::size_t(0));
    }
    void demandsAreMetAndNoMore() {
        const auto shares = maxMinShares({pipe(100, {0, 1, 2})}, 3, {10, 0, 0});
        QCOMPARE(megabits(maxMinShares({pipe(100, {0, 1, 2})}, 3, {10e6, 0, 0})),
                 (std::vector<double>{10, 45, 45}));
        QCOMPARE(shares[0].limit, std::size_t(1)); // its own demand
    }
    void aHalfDuplexMediumSharesAirTime() {
        // Pairs that alone would get 100 and 50: equal rates x need x/100 + x/50 = 1.
        Resource medium{"mains", "mains", {{0, 1e-8}, {1, 2e-8}}};
        QCOMPARE(megabits(maxMinShares({medium}, 2)), (std::vector<double>{33.333, 33.333}));
    }
    void threePipesInARow() {
        // The long flow shares both pipes with a short one each.
        QCOMPARE(megabits(maxMinShares({pipe(100, {0, 1}), pipe(40, {0, 2})}, 3)),
                 (std::vector<double>{20, 80, 20}));
    }
    void oneMoreFlowCanFreeAnother() {
        // A on pipe 1 alone with B; B crosses pipe 2 as well. C on pipe 2 slows B, and that frees A: the
        // reason why no bound on single rates is claimed.
        const auto two = maxMinShares({pipe(100, {0, 1}), pipe(60, {1})}, 2);
        const auto three = maxMinShares({pipe(100, {0, 1}), pipe(60, {1, 2})}, 3);
        QCOMPARE(megabits(two), (std::vector<double>{50, 50}));
        QCOMPARE(megabits(three), (std::vector<double>{70, 30, 30}));
    }
    void fullDuplexCarriesBothDirectionsWhole() {
        const House h = wiredHouse();
        const auto shares =
            shareFlows(h, classes(), {{h.routes[0], true, {}}, {h.routes[0], false, {}}}).value();
        for (const FlowForecast& f : shares)
            QVERIFY(f.shared.inMegabits() > 941 && f.shared.inMegabits() < 942);
    }
    void aHalfDuplexMediumCarriesBothDirectionsTogether() {
        const House h = coaxHouse("usb3-5g");
        const auto shares =
            shareFlows(h, classes(), {{h.routes[0], true, {}}, {h.routes[0], false, {}}}).value();
        for (const FlowForecast& f : shares) {
            QVERIFY(std::fabs(f.shared.bps() / f.alone.bps() - 0.5) < 0.05);
            QCOMPARE(f.limit, Id("coax"));
            QVERIFY(f.because.find("1 other flow") != std::string::npos);
        }
    }
    void mixedGraph() {
        // desk → third over the switch only, desk → shelf over coax: they share what leaves the desk.
        const House h = threeMachines();
        const auto shares = shareFlows(h, classes(),
                                       {{route("desk-end", "third-end"), true, {}},
                                        {route("desk-end", "shelf-end"), true, {}},
                                        {route("third-end", "shelf-end"), true, {}}})
                                .value();
        // The two towards the shelf halve the coax of about 2150; the desk's port of 2354 leaves the first
        // the rest.
        QVERIFY(std::fabs(shares[1].shared.inMegabits() - shares[2].shared.inMegabits()) < 1);
        QCOMPARE(shares[1].limit, Id("coax"));
        QVERIFY(std::fabs(shares[0].shared.inMegabits() + shares[1].shared.inMegabits() - 2353.7) < 2);
        QCOMPARE(shareFlows(h, classes(), {{route("desk-end", "nowhere"), true, {}}}).has_value(), false);
    }
};

QTEST_GUILESS_MAIN(TestSharing)
#include "test_sharing.moc"
