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
