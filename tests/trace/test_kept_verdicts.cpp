// What is said of shipped and random houses after the same runs, as it was kept. Probabilities come from
// draws: a difference in the last digit of a processor's arithmetic may move one of them, by far less than a
// hundredth.
#include "benchmark/summary.h"
#include "capacity/predict.h"
#include "support/classes.h"
#include "support/kept.h"
#include "support/random_house.h"
#include "trace/diagnose.h"
#include "trace/trace_json.h"
#include "trace/what_if.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;
using testing::classes;

namespace {

// As fast as the middle of what is predicted in one direction, and in the other a little more than half of
// it.
benchmark::RouteRuns runsLike(const capacity::RoutePrediction& p, const house::Id& route) {
    benchmark::RouteRuns out;
    for (int n = 0; n < 4; ++n) {
        const bool forward = n % 2 == 0;
        const double mbps = (forward ? p.forward.p50 : p.backward.p50).inMegabits();
        benchmark::Run run =
            testing::steadyRun(forward ? benchmark::Direction::forward : benchmark::Direction::backward,
                               mbps * (forward ? 1 : 0.6) * (1 + 0.005 * n), 4, forward ? 0.003 : 0.08,
                               route + std::to_string(n));
        run.rttIdleUs = benchmark::Percentiles{900, 1300};
        run.rttLoadedUs = benchmark::Percentiles{forward ? 6000.0 : 1000.0, 9000};
        run.senderLimited = benchmark::SenderLimited{0.3, forward ? 0.0 : 0.7, 0.0};
        run.retransmits = forward ? 5 : 900;
        out.push_back({route, std::move(run)});
    }
    return out;
}

json verdictOn(const house::House& house, const house::Route& route, const benchmark::RouteRuns& runs) {
    const auto verdict = trace::diagnoseRoute(house, classes(), route, runs);
    return verdict ? trace::toJson(*verdict) : json(verdict.error().sentence());
}

} // namespace

class TestKeptVerdicts : public QObject {
    Q_OBJECT

  private slots:
    void ofShippedHouses() {
        json all;
        for (const auto& [name, house] : testing::shippedHouses()) {
            const benchmark::RouteRuns runs = testing::visited(house);
            for (const house::Route& route : house.routes) {
                all[name][route.id]["visited"] = verdictOn(house, route, runs);
                if (const auto p = capacity::predict(house, classes(), route))
                    all[name][route.id]["predicted"] = verdictOn(house, route, runsLike(*p, route.id));
            }
        }
        QVERIFY_KEPT("verdicts", all, 1e-4);
    }
    // Runs in which something was left out, exchanged or set up on a bench, and what would be with other
    // parts.
    void ofOtherArrangements() {
        json all;
        for (const auto& [name, house] : testing::shippedHouses()) {
            const house::Route& route = house.routes.front();
            const auto p = capacity::predict(house, classes(), route);
            if (!p) continue;
            const benchmark::RouteRuns usual = runsLike(*p, route.id);
            for (std::size_t i = 0; i < p->elements.size(); ++i) {
                const house::Id& element = p->elements[i].element.id;
                benchmark::RouteRuns runs = usual;
                for (std::size_t n = 0; n < usual.size(); ++n) {
                    benchmark::RouteRun other = usual[n];
                    other.run.id += "-other";
                    for (benchmark::Sample& s : other.run.samples.change())
                        s.goodputBps *= 1.6;
                    benchmark::finish(other.run);
                    benchmark::Arrangement& a = other.run.config.arrangement;
                    if (i % 3 == 0)
                        a.bypassed = {element};
                    else if (i % 3 == 1)
                        a.setup = n % 2 == 0 ? house::Setup::baseline : house::Setup::bench;
                    else
                        a.altered = {{element, house::AlterationKind::appliances_off, {}}};
                    runs.push_back(std::move(other));
                }
                json& of = all[name][element];
                of["verdict"] = verdictOn(house, route, runs);
                for (const trace::WhatIf& w : trace::whatIfRoute(house, classes(), route, usual, element))
                    of["what-if"].push_back({w.choice, w.now, w.label, w.forward.p50.inMegabits(),
                                             w.backward.p50.inMegabits(), w.limiter,
                                             w.price ? w.price->inUnits() : -1.0});
            }
        }
        QVERIFY_KEPT("verdicts-arranged", all, 1e-4);
    }
    // One direction only, one stream only, nothing yet; and a way back over the same things, which has runs
    // of its own.
    void ofFewRunsAndOfTheWayBack() {
        json all;
        for (const auto& [name, surveyed] : testing::shippedHouses()) {
            house::House house = surveyed;
            house::Route back = house.routes.front();
            std::swap(back.from, back.to);
            back.id = "back";
            house.routes.push_back(back);
            const house::Route& route = house.routes.front();
            const auto p = capacity::predict(house, classes(), route);
            const auto q = capacity::predict(house, classes(), back);
            if (!p || !q) continue;
            const benchmark::RouteRuns usual = runsLike(*p, route.id);
            json& of = all[name];
            of["none"] = verdictOn(house, route, {});
            of["forward"] = verdictOn(house, route, {usual[0], usual[2]});
            of["backward"] = verdictOn(house, route, {usual[1]});
            benchmark::RouteRuns single{usual[0], usual[1]};
            for (benchmark::RouteRun& r : single)
                r.run.config.streams = 1;
            of["single"] = verdictOn(house, route, single);
            benchmark::RouteRuns both = usual;
            for (benchmark::RouteRun& r : runsLike(*q, back.id))
                both.push_back(r);
            of["both"] = verdictOn(house, route, both);
            of["back"] = verdictOn(house, back, usual);
        }
        QVERIFY_KEPT("verdicts-few", all, 1e-4);
    }
    void ofRandomHouses() {
        json all;
        for (std::uint32_t seed = 1; seed <= 8; ++seed) {
            house::House house = testing::RandomHouse(seed).make({});
            house.routes = testing::allRoutes(house);
            for (std::size_t i = 0; i < house.routes.size(); i += 4)
                if (const auto p = capacity::predict(house, classes(), house.routes[i]))
                    all[std::to_string(seed)][house.routes[i].id] =
                        verdictOn(house, house.routes[i], runsLike(*p, house.routes[i].id));
        }
        QVERIFY_KEPT("verdicts-random", all, 1e-4);
    }
};

QTEST_GUILESS_MAIN(TestKeptVerdicts)
#include "test_kept_verdicts.moc"
