// The predictor of all routes: the same as route by route, and it sees every kind of change.
#include "capacity/predictor.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;
using namespace metrodos::capacity;

class TestPredictor : public QObject {
    Q_OBJECT

  private slots:
    void itSaysWhatEachRouteSaysByItself() {
        Predictor predictor(classes());
        const House h = RandomHouse(3).make({4, 6, 4});
        const auto routes = allRoutes(h);
        const auto all = predictor.summaries(h, routes);
        QVERIFY(!all.empty());
        for (const RouteSummary& s : all) {
            const auto route =
                std::find_if(routes.begin(), routes.end(), [&](const Route& r) { return r.id == s.route; });
            const RoutePrediction one = predict(h, classes(), *route).value();
            QCOMPARE(s.forward, one.forward);
            QCOMPARE(s.backward, one.backward);
            QCOMPARE(s.elements->size(), one.elements.size());
            for (std::size_t i = 0; i < one.elements.size(); ++i) {
                QCOMPARE((*s.elements)[i], one.elements[i].element);
                QCOMPARE(s.limiterForward[i], one.elements[i].limiterForward);
                QCOMPARE(s.ceilings[i]->because, one.elements[i].ceiling.because);
            }
        }
    }
    void routesThatAreNotJoinedAreLeftOutUntilTheyAre() {
        Predictor predictor(classes());
        House h = wiredHouse();
        const Connection lead = h.connections.back();
        h.connections.pop_back();
        QVERIFY(predictor.summaries(h, h.routes).empty());
        h.connections.push_back(lead);
        QCOMPARE(predictor.summaries(h, h.routes).size(), std::size_t(1));
        h.connections.pop_back();
        QVERIFY(predictor.summaries(h, h.routes).empty());
    }
    void framingAndFileProtocolBelongToTheRoute() {
        Predictor predictor(classes());
        const House h = wiredHouse();
        Route jumbo = h.routes[0];
        jumbo.id = "jumbo";
        jumbo.mtu = 9000;
        Route copy = h.routes[0];
        copy.id = "copy";
        copy.fileProtocol = "modern";
        const auto all = predictor.summaries(h, {h.routes[0], jumbo, copy, h.routes[0]});
        QVERIFY(std::fabs(all[0].forward.p50.inMegabits() - 941.48) < 0.1);
        QVERIFY(std::fabs(all[1].forward.p50.inMegabits() - 990.04) < 0.1); // 8948 / 9038
        QVERIFY(all[2].forward.p50 < all[0].forward.p50);
        QCOMPARE(all[2].elements->size(), all[0].elements->size() + 2); // with the disks
        QCOMPARE(all[3].forward, all[0].forward);
    }
    // Remembering must never show: after any row of changes the same is said as by one that knows nothing.
    void manyChangesForthAndBack() {
        const House start = RandomHouse(11).make({5, 6, 4});
        const auto routes = allRoutes(start);
        Predictor old(classes());
        for (int step = 0; step < 40; ++step) {
            House h = start;
            const auto n = static_cast<std::size_t>(step);
            Connection& c = h.connections[(n * 7) % h.connections.size()];
            c.length = quantity::Length::metres(3 + step % 5 * 20);
            if (step % 3 == 1) h.devices[(n * 5) % h.devices.size()].deviceClass.clear();
            if (step % 4 == 2 && !h.circuits.empty())
                h.circuits[n % h.circuits.size()].outlets[0].fromPrevious =
                    quantity::Length::metres(2 + step);
            if (step % 5 == 3 && !h.coaxParts.empty())
                h.coaxParts[n % h.coaxParts.size()].terminated = step % 2 == 0;
            if (step % 6 == 4 && !h.appliances.empty()) h.appliances.pop_back();
            Predictor fresh(classes());
            const auto was = old.summaries(h, routes);
            const auto is = fresh.summaries(h, routes);
            QCOMPARE(was.size(), is.size());
            for (std::size_t i = 0; i < is.size(); ++i) {
                QCOMPARE(was[i].route, is[i].route);
                QCOMPARE(was[i].forward, is[i].forward);
                QCOMPARE(was[i].backward, is[i].backward);
                QCOMPARE(was[i].limiterForward, is[i].limiterForward);
            }
        }
    }
    void aChangedLabelIsSeen() {
        Predictor predictor(classes());
        House h = wiredHouse();
        (void)predictor.summaries(h, h.routes);
        h.connections[0].label = "another name";
        QCOMPARE((*predictor.summaries(h, h.routes)[0].elements)[2].label, std::string("another name"));
    }
};

QTEST_GUILESS_MAIN(TestPredictor)
#include "test_predictor.moc"
