// What must hold in every house, tried over ten thousand random ones (fewer when sanitized); and that the
// predictor of all routes, which remembers, says the same as route by route.
#include "capacity/predictor.h"
#include "capacity/sharing.h"
#include "house/validate.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;
using namespace metrodos::capacity;

namespace {

// One thing made worse; false when this house has nothing to make worse in that way.
bool worsen(House& h, RandomHouse& random) {
    const auto longer = [](std::optional<quantity::Length>& length) {
        length = quantity::Length::metres(length->inMetres() * 1.5 + 2);
    };
    switch (random.upTo(6)) {
    case 0: // a longer run
        for (Connection& c : h.connections)
            if (c.length && c.medium != Medium::air) {
                longer(c.length);
                return true;
            }
        return false;
    case 1: // bad connectors
        for (Connection& c : h.connections)
            if (c.medium == Medium::coax && c.badConnectors == 0) {
                c.badConnectors = 2;
                return true;
            }
        return false;
    case 2: // wire; it would also damp what an appliance sends, and that helps
        if (!h.appliances.empty()) return false;
        for (Circuit& c : h.circuits)
            for (CircuitOutlet& o : c.outlets)
                if (o.fromPrevious) {
                    longer(o.fromPrevious);
                    return true;
                }
        return false;
    case 3: // a device that damps more
        for (Circuit& c : h.circuits)
            if (c.protection == Protection::breaker) {
                c.protection = Protection::arc_fault;
                return true;
            }
        return false;
    case 4: // another wall
        for (Connection& c : h.connections)
            if (c.medium == Medium::air && c.walls) {
                ++*c.walls;
                return true;
            }
        return false;
    default: // a lost pair
        for (Connection& c : h.connections)
            if (c.medium == Medium::data_cable && c.goodPairs == 4) {
                c.goodPairs = 2;
                return true;
            }
        return false;
    }
}

bool notAbove(const RateSpread& a, const RateSpread& b) {
    constexpr double rounding = 1 + 1e-6;
    return a.p10.bps() <= b.p10.bps() * rounding && a.p50.bps() <= b.p50.bps() * rounding &&
           a.p90.bps() <= b.p90.bps() * rounding;
}

} // namespace

class TestProperties : public QObject {
    Q_OBJECT

  private slots:
    void moreLossNeverRaisesARateAndNoRouteIsAboveAnyOfItsElements() {
        Predictor predictor(classes());
        int tried = 0;
        for (std::uint32_t seed = 1; tried < METRODOS_RANDOM_HOUSES; ++seed) {
            RandomHouse random(seed);
            const House before = random.make({3, 3, 3});
            QVERIFY2(validate(before).empty(),
                     validate(before).empty() ? "" : validate(before).front().sentence().c_str());
            House after = before;
            if (!worsen(after, random)) continue;
            ++tried;
            const auto routes = allRoutes(before);
            const auto was = predictor.summaries(before, routes);
            const auto is = predictor.summaries(after, routes);
            QCOMPARE(was.size(), is.size());
            for (std::size_t i = 0; i < was.size(); ++i)
                QVERIFY2(notAbove(is[i].forward, was[i].forward) && notAbove(is[i].backward, was[i].backward),
                         qPrintable(QString("house %1, route %2").arg(seed).arg(was[i].route.c_str())));
            for (const RouteSummary& s : was)
                for (std::size_t i = 0; i < s.elements->size(); ++i)
                    QVERIFY2(notAbove(s.forward, s.ceilings[i]->forward.spread()) &&
                                 notAbove(s.backward, s.ceilings[i]->backward.spread()),
                             qPrintable(QString("house %1, %2 at %3")
                                            .arg(seed)
                                            .arg(s.route.c_str(), (*s.elements)[i].id.c_str())));
        }
    }
    // In a max–min fair division one more flow can free another of a competitor (test_sharing shows a case),
    // so the single rates cannot all be bounded. What holds: the others together are no better off in the
    // max–min sense, and the slowest of them is not faster.
    void addingAFlowNeverHelpsTheOthersTogether() {
        for (std::uint32_t seed = 1; seed <= METRODOS_RANDOM_HOUSES; ++seed) {
            RandomHouse random(seed);
            const std::size_t flows = 2 + static_cast<std::size_t>(random.upTo(5));
            std::vector<Resource> resources;
            for (std::size_t f = 0; f < flows; ++f) { // everyone uses something
                resources.push_back({"own-" + std::to_string(f), "", {{f, 1e-9 / (1 + random.upTo(9))}}});
            }
            for (int r = 0; r < 5; ++r) {
                Resource shared{"shared-" + std::to_string(r), "", {}};
                for (std::size_t f = 0; f < flows; ++f)
                    if (random.chance(0.5)) shared.loads.push_back({f, 1e-9 / (1 + random.upTo(9))});
                resources.push_back(shared);
            }
            const auto with = maxMinShares(resources, flows);
            std::vector<Resource> fewer = resources;
            for (Resource& r : fewer)
                std::erase_if(r.loads, [&](const SharedLoad& load) { return load.flow == flows - 1; });
            const auto without = maxMinShares(fewer, flows);
            std::vector<double> a;
            std::vector<double> b;
            for (std::size_t f = 0; f + 1 < flows; ++f) {
                a.push_back(with[f].bps);
                b.push_back(without[f].bps);
            }
            std::sort(a.begin(), a.end());
            std::sort(b.begin(), b.end());
            for (std::size_t i = 0; i < a.size(); ++i) {
                if (std::abs(a[i] - b[i]) <= 1e-6 * b[i]) continue;
                QVERIFY2(a[i] < b[i], qPrintable(QString::number(seed)));
                break;
            }
            for (const Resource& r : resources) { // nothing is filled beyond its room
                double sum = 0;
                for (const SharedLoad& load : r.loads)
                    sum += load.weight * with[load.flow].bps;
                QVERIFY(sum <= 1 + 1e-6);
            }
        }
    }
    void whereOneThingIsSharedByAllAddingAFlowNeverRaisesAnother() {
        for (std::uint32_t seed = 1; seed <= METRODOS_RANDOM_HOUSES; ++seed) {
            RandomHouse random(seed);
            const std::size_t flows = 2 + static_cast<std::size_t>(random.upTo(6));
            std::vector<Resource> resources{{"medium", "", {}}};
            for (std::size_t f = 0; f < flows; ++f) {
                resources[0].loads.push_back({f, 1e-9 / (1 + random.upTo(9))});
                resources.push_back({"port", "", {{f, 1e-9 / (1 + random.upTo(3))}}});
            }
            const auto with = maxMinShares(resources, flows);
            for (Resource& r : resources)
                std::erase_if(r.loads, [&](const SharedLoad& load) { return load.flow == flows - 1; });
            const auto without = maxMinShares(resources, flows);
            for (std::size_t f = 0; f + 1 < flows; ++f)
                QVERIFY(with[f].bps <= without[f].bps * (1 + 1e-9));
        }
    }
    void predictingTwiceIsTheSameAndAChangeIsSeen() {
        Predictor predictor(classes());
        for (std::uint32_t seed = 1; seed <= 100; ++seed) {
            RandomHouse random(seed);
            House h = random.make({3, 4, 3});
            const auto routes = allRoutes(h);
            (void)predictor.summaries(h, routes);
            if (!worsen(h, random)) continue;
            // What is remembered must be what a fresh prediction says.
            const auto remembered = predictor.summaries(h, routes);
            for (std::size_t i = 0, found = 0; i < routes.size() && found < remembered.size(); ++i) {
                const auto fresh = predict(h, classes(), routes[i]);
                if (!fresh) continue;
                QCOMPARE(remembered[found].route, routes[i].id);
                QCOMPARE(remembered[found].forward.p50, fresh->forward.p50);
                QCOMPARE(remembered[found].backward.p10, fresh->backward.p10);
                ++found;
            }
        }
    }
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

QTEST_GUILESS_MAIN(TestProperties)
#include "test_properties.moc"
