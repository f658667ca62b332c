// What the ways of shipped and of random houses are said to carry, as it was kept.
#include "capacity/predictor.h"
#include "support/classes.h"
#include "support/kept.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;
using testing::classes;

namespace {

json megabits(const catalog::RateSpread& s) {
    return json::array({s.p10.inMegabits(), s.p50.inMegabits(), s.p90.inMegabits()});
}

json predicted(const house::House& house, const std::vector<house::Route>& routes) {
    json out;
    capacity::Predictor predictor(classes());
    for (const capacity::RouteSummary& s : predictor.summaries(house, routes)) {
        json& of = out[s.route];
        of["forward"] = megabits(s.forward);
        of["backward"] = megabits(s.backward);
        for (std::size_t i = 0; i < s.ceilings.size(); ++i) {
            const capacity::Ceiling& c = *s.ceilings[i];
            of["elements"].push_back({(*s.elements)[i].id, c.forward.spread().p50.inMegabits(),
                                      c.backward.spread().p50.inMegabits(), s.limiterForward[i],
                                      s.limiterBackward[i]});
        }
    }
    return out;
}

} // namespace

class TestKeptPredictions : public QObject {
    Q_OBJECT

  private slots:
    void ofShippedHouses() {
        json all;
        for (const auto& [name, house] : testing::shippedHouses())
            all[name] = predicted(house, house.routes);
        QVERIFY_KEPT("predictions", all, 1e-4);
    }
    void ofRandomHouses() {
        json all;
        for (std::uint32_t seed = 1; seed <= 5; ++seed) {
            const house::House house = testing::RandomHouse(seed).make({});
            all[std::to_string(seed)] = predicted(house, testing::allRoutes(house));
        }
        QVERIFY_KEPT("predictions-random", all, 1e-4);
    }
};

QTEST_GUILESS_MAIN(TestKeptPredictions)
#include "test_kept_predictions.moc"
