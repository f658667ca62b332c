// The plans for a shipped house and for random ones, as they were kept.
#include "house/validate.h"
#include "support/bounds.h"
#include "support/classes.h"
#include "support/kept.h"
#include "support/planned.h"
#include "support/served_house.h"
#include "support/weigh_cases.h"
#include "weigh/against_quote.h"
#include "weigh/apply_plan.h"
#include "weigh/compare.h"
#include "weigh/growth.h"
#include "weigh/measured.h"
#include "weigh/way_choice.h"
#include "weigh/weigh_json.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::weigh;
using nlohmann::json;
using testing::classes;

namespace {

json planned(const Options& options) {
    const auto weighed = weigh::weigh(options, testing::prices(), Objective::cheapest);
    if (!weighed) return weighed.error().sentence();
    json out = toJson(options, testing::prices(), *weighed, Objective::cheapest);
    for (const Plan& plan : weighed->plans) {
        json& of = out["more"][plan.id];
        of = {plan.minutes,  plan.holes, plan.years,        plan.unsteady,   plan.load,
              plan.headroom, plan.notes, plan.carriedShare, plan.soundShare, verdictOf(plan)};
        for (const SpotResult& s : plan.spots)
            of.push_back({s.spot, s.wayId, s.carried, s.isFed, s.p10.bps(), s.p50.bps(), s.need.bps(),
                          s.headroom, s.houseHeadroom, s.carriedShare, s.soundShare, s.limitId});
    }
    for (std::size_t i = 1; i < weighed->plans.size(); ++i) {
        const Plan& plan = weighed->plans[i];
        const Comparison c = compare(options, testing::prices(), weighed->plans[i - 1], plan);
        const auto runs = static_cast<int>(i);
        const AgainstQuote q =
            againstQuote(options, testing::prices(), plan, {"", Money::units(300 * runs), runs}, 8);
        out["compared"].push_back({c.buys, c.costA.inUnits(), c.costB.inUnits(), c.spots.size(),
                                   q.planLess.inUnits(), q.reached, q.cheapestFrom, q.words});
    }
    for (const SpotOptions& spot : options.spots)
        for (const SpotWay& way : spot.ways)
            for (const PartLine& p : partsOf(way, testing::prices()))
                out["parts"][spot.spot + " " + way.key()].push_back({p.label, p.count, p.total.inUnits()});
    const Growth growth = growthOf(options, testing::prices(), 3, 10);
    for (const GrowthLine& line : growth.lines) {
        json& of = out["growth"][line.way];
        of = {line.label, line.everywhere, line.years};
        for (const auto* moneys : {&line.byRooms, &line.byYears})
            for (const Money& m : *moneys)
                of.push_back(m.inUnits());
    }
    for (const auto* crossings : {&growth.overRooms, &growth.overYears})
        for (const Crossing& c : *crossings)
            out["crossings"].push_back({c.before, c.after, c.at});
    return out;
}

} // namespace

class TestKeptPlans : public QObject {
    Q_OBJECT

  private slots:
    void ofShippedHouses() {
        json all;
        for (const auto& [name, house] : testing::variedHouses())
            if (!house.spots.empty()) all[name] = planned(testing::optionsFor(house));
        all["served"] =
            planned(testing::optionsFor(testing::servedHouse(900, 90, 5, "2 4K streams + 1 call")));
        QVERIFY_KEPT("plans", all, 1e-4);
    }
    // The same with what was measured and watched of the ways.
    void withRuns() {
        const house::House house = testing::shippedHouses().front().second;
        const benchmark::RouteRuns runs = testing::visited(house);
        benchmark::WatchReport watch;
        watch.head.route = house.routes.front().id;
        watch.seconds = watch.measuredSeconds = 7200;
        watch.dropOutCount = 3;
        watch.dropOutSeconds = 4;
        watch.goodputP10 = quantity::BitRate::megabits(60);
        watch.goodputP50 = quantity::BitRate::megabits(250);
        watch.goodputP90 = quantity::BitRate::megabits(300);
        json all;
        for (const Measured& m : measuredIn(house, classes(), runs, {watch}))
            all["measured"].push_back({m.roomA, m.roomB, m.medium, m.connection,
                                       m.forward ? m.forward->inMegabits() : -1.0,
                                       m.backward ? m.backward->inMegabits() : -1.0, m.wasLimit, m.variation,
                                       m.loadedUs.value_or(-1), m.watchedForward.has_value()});
        all["planned"] = planned(optionsOf(house, classes(), runs, {watch}).value());
        QVERIFY_KEPT("plans-measured", all, 1e-4);
    }
    void ofUses() {
        const house::House house = testing::shippedHouses().front().second;
        json all;
        for (const std::string& text : testing::keptKeys("uses", "typed")) {
            const auto uses = parseUses(text, classes(), house);
            json& of = all["typed"][text];
            if (!uses) {
                of = uses.error().sentence();
                continue;
            }
            house::Spot spot;
            spot.room = house.rooms.back().id;
            spot.uses = *uses;
            const Need need = needOf(house, spot, classes());
            of = {usesText(*uses, classes(), house), need.down.inMegabits(), need.up.inMegabits(),
                  need.steady, need.because};
            for (const Traffic& t : need.traffic)
                of.push_back({t.peer, t.down.inMegabits(), t.up.inMegabits()});
        }
        // As long as may be, and a letter more.
        for (const std::size_t letters : {2000UL, 2001UL})
            all[std::to_string(letters)] =
                parseUses(std::string(letters - 4, ' ') + "call", classes(), house).has_value();
        for (const int uses : {32, 33}) {
            std::string many = "call";
            for (int n = 1; n < uses; ++n)
                many += " + call";
            all["many"].push_back(parseUses(many, classes(), house).has_value());
        }
        QVERIFY_KEPT("uses", all, 1e-4);
    }
    // Each plan put into the house.
    void fitted() {
        json all;
        for (const house::House& house : {testing::shippedHouses().front().second, testing::fullHouse(),
                                          testing::servedHouse(900, 90, 5, "2 4K streams + 1 call")}) {
            const Options options = testing::optionsFor(house);
            const Weighed weighed = weigh::weigh(options, testing::prices(), Objective::cheapest).value();
            for (const Plan& plan : weighed.plans) {
                const auto made = applyPlan(house, classes(), options, plan);
                QVERIFY(made.has_value());
                json& of = all[house.name][plan.id];
                of["planned"] = made->house.fitting.planned;
                of["faults"] = house::validate(made->house).size();
                for (const house::Device& d : made->house.devices)
                    of["devices"].push_back({d.id, d.deviceClass, d.room, d.ports.size()});
                for (const house::Connection& c : made->house.connections)
                    if (house.connection(c.id) == nullptr)
                        of["wires"].push_back(
                            {c.id, c.label, c.ends.size(), c.length ? c.length->inMetres() : -1});
                house::House less = house;
                less.spots.pop_back();
                QVERIFY(!applyPlan(less, classes(), options, plan).has_value());
                Plan shorter = plan;
                shorter.spots.pop_back();
                QVERIFY(!applyPlan(house, classes(), options, shorter).has_value());
            }
        }
        QVERIFY_KEPT("plans-fitted", all, 1e-4);
    }
    // Where what is said of a choice of ways, and of two plans that differ, turns while one figure goes.
    void ofTurns() {
        const Options options =
            testing::optionsFor(testing::servedHouse(900, 90, 5, "2 4K streams + 1 call"));
        const Prices& prices = testing::prices();
        const Plan first = weigh::weigh(options, prices, Objective::cheapest).value().plans.front();
        std::vector<Pick> picks;
        for (const SpotResult& s : first.spots)
            picks.push_back({s.way, s.carried});
        json all;
        const auto choices = [&](const char* name, double to,
                                 const std::function<void(Options&, BitRate)>& put) {
            all[name] = testing::turnsOf(0, to, [&](double x) {
                Options other = options;
                put(other, BitRate::megabits(x));
                const auto plan = planOf(other, prices, picks);
                if (!plan) return std::string("cannot be");
                std::string out = verdictOf(*plan);
                for (const SpotResult& s : plan->spots)
                    out += "; " + s.limitId + (s.carried ? " carried" : "") + (s.isFed ? " fed" : "");
                return testing::withoutFigures(out);
            });
        };
        choices("service", 900, [](Options& o, BitRate r) { o.service = r; });
        choices("service up", 90, [](Options& o, BitRate r) { o.serviceUp = r; });
        choices("uplink", 1000, [](Options& o, BitRate r) { o.uplink = r; });
        choices("down", 1000, [](Options& o, BitRate r) { o.spots.front().need.traffic.front().down = r; });
        choices("up", 1000, [](Options& o, BitRate r) { o.spots.front().need.traffic.front().up = r; });
        const auto plans = [&](const char* name, double to, const std::function<void(Plan&, double)>& put) {
            all[name] = testing::turnsOf(0, to, [&](double x) {
                Plan other = first;
                other.spots.front().wayId = "another";
                put(other, x);
                return testing::withoutFigures(compare(options, prices, first, other).buys);
            });
        };
        plans("minutes", 2 * first.minutes, [](Plan& p, double x) { p.minutes = x; });
        plans("years", 2 * first.years, [](Plan& p, double x) { p.years = x; });
        plans("headroom", 2 * first.headroom, [](Plan& p, double x) { p.headroom = x; });
        plans("holes", 3, [](Plan& p, double x) { p.holes = static_cast<int>(x); });
        plans("cost", 2 * first.cost.inUnits(), [](Plan& p, double x) { p.cost = Money::units(x); });
        QVERIFY_KEPT("turns-plans", all);
    }
    void ofRandomHouses() {
        json all;
        for (std::uint32_t seed = 1; seed <= 6; ++seed) {
            testing::Random random(seed);
            all[std::to_string(seed)] = planned(testing::randomOptions(random, 3, testing::allKinds, false));
        }
        QVERIFY_KEPT("plans-random", all, 1e-4);
    }
};

QTEST_GUILESS_MAIN(TestKeptPlans)
#include "test_kept_plans.moc"
