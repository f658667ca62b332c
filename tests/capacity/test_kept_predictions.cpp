// What the ways of shipped and of random houses are said to carry, as it was kept.
#include "capacity/coax_channel.h"
#include "capacity/copper.h"
#include "capacity/mains_channel.h"
#include "capacity/predictor.h"
#include "capacity/sharing.h"
#include "capacity/ways.h"
#include "job/house_json.h"
#include "support/bounds.h"
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
                                      s.limiterBackward[i], testing::digestOf({c.because, c.arithmetic})});
        }
    }
    return out;
}

json contributionsOf(const std::vector<capacity::Contribution>& all) {
    json out = json::array();
    for (const capacity::Contribution& c : all)
        out.push_back({c.id, c.label, c.lossDb.p10, c.lossDb.p50, c.lossDb.p90, c.costBps.value_or(-1)});
    return out;
}

// Between each two jacks of a kind.
json plantsOf(const house::House& house) {
    json out;
    const auto& sends = classes().coax.classes;
    const capacity::CoaxPlant coax(house, classes());
    const capacity::MainsPlant mains(house, classes());
    for (const house::Jack& a : house.jacks)
        for (const house::Jack& b : house.jacks) {
            if (a.kind != b.kind || a.id >= b.id) continue;
            json of;
            if (a.kind == house::JackKind::coax) {
                const auto budget = coax.budget({a.id, b.id, sends[out.size() % sends.size()].id,
                                                 2 + static_cast<int>(out.size() % 4), true});
                of = {{"loss", contributionsOf(budget.contributions)},
                      {"total", {budget.totalDb.p10, budget.totalDb.p50, budget.totalDb.p90}},
                      {"rate", megabits(budget.rate.spread())},
                      {"rulings", budget.rulings},
                      {"out", budget.ruledOut}};
                for (const capacity::Improvement& i : budget.improvements)
                    of["improvements"].push_back({i.id, i.does, i.gainDb, i.carriesAfter.inMegabits()});
            } else if (a.kind == house::JackKind::mains) {
                capacity::MainsQuestion question;
                question.outletA = a.id;
                question.outletB = b.id;
                question.withCosts = out.size() % 3 == 0;
                const auto forecast = mains.forecast(question);
                of = {{"known", forecast.isKnown},
                      {"forward", megabits(forecast.forward.spread())},
                      {"backward", megabits(forecast.backward.spread())},
                      {"phy", {megabits(forecast.phyForward), megabits(forecast.phyBackward)}},
                      {"loss", contributionsOf(forecast.contributions)},
                      {"rulings", forecast.rulings},
                      {"hours", forecast.byHour}};
            }
            out[a.id + " " + b.id] = of;
        }
    for (const house::Room& room : house.rooms)
        if (!house.jacks.empty())
            for (const auto& choice :
                 capacity::bestOutlets(house, classes(), room.id, house.jacks.front().id, ""))
                out["best"][room.id].push_back({choice.outlet, megabits(choice.slower)});
    return out;
}

// Between each two rooms, and each two machines, and what a route made of the best of them changes.
json waysOf(const house::House& house) {
    json out;
    const auto between = [&](const house::Id& from, const house::Id& to, capacity::Adapters adapters) {
        const auto ways = capacity::waysBetween(house, classes(), from, to, adapters);
        json& of = out[from + " " + to];
        if (!ways) {
            of = ways.error().sentence();
            return;
        }
        for (const capacity::Way& way : *ways)
            of.push_back({way.label, way.adapterClass, megabits(way.prediction.forward),
                          megabits(way.prediction.backward), capacity::wiresOf(house, way),
                          way.prediction.rttMicroseconds.p10, way.prediction.rttMicroseconds.p90});
        if (ways->empty()) return;
        const auto kept = capacity::withRoute(house, ways->front());
        of.push_back(kept ? json{kept->route, kept->isNew, kept->house.devices.size(),
                                 kept->house.connections.size(), kept->house.endpoints.size()}
                          : json(kept.error().sentence()));
    };
    for (std::size_t a = 0; a < house.rooms.size(); ++a)
        for (std::size_t b = a + 1; b < house.rooms.size(); ++b)
            between(house.rooms[a].id, house.rooms[b].id,
                    (a + b) % 3 == 0 ? capacity::Adapters::all : capacity::Adapters::fastest);
    for (const house::Device& a : house.devices)
        for (const house::Device& b : house.devices)
            if (a.id <= b.id && a.kind == house::DeviceKind::host)
                between(a.id, b.id, capacity::Adapters::fastest);
    for (const house::Connection& c : house.connections)
        if (c.medium != house::Medium::data_cable)
            continue;
        else if (const auto way = capacity::wayOverCable(house, classes(), house.rooms.front().id,
                                                         house.rooms.back().id, c, c.label))
            out["over"][c.id] = {megabits(way->prediction.forward), way->label};
    return out;
}

// All routes at once, each third with no more than it asks for.
json sharedIn(const house::House& house) {
    std::vector<capacity::Flow> flows;
    for (const house::Route& route : house.routes)
        for (const bool forward : {true, false})
            flows.push_back({route, forward, {}});
    if (flows.empty()) return {};
    for (std::size_t i = 0; i < flows.size(); i += 3)
        flows[i].demand = quantity::BitRate::megabits(20.0 + 70 * static_cast<double>(i));
    const auto shared = capacity::shareFlows(house, classes(), flows);
    if (!shared) return shared.error().sentence();
    json out;
    for (const capacity::FlowForecast& f : *shared)
        out.push_back({f.alone.inMegabits(), f.shared.inMegabits(), f.limit, f.because});
    return out;
}

} // namespace

class TestKeptPredictions : public QObject {
    Q_OBJECT

  private slots:
    void ofShippedHouses() {
        json all;
        for (const auto& [name, house] : testing::variedHouses())
            for (int which = 0; which < 3; ++which)
                all[name].push_back(predicted(which == 0 ? house : testing::lessKnown(house, which),
                                              testing::allRoutes(house)));
        QVERIFY_KEPT("predictions", all, 1e-4);
    }
    void ofPlantsAndWays() {
        json all;
        for (const auto& [name, house] : testing::variedHouses())
            all[name] = {{"plants", plantsOf(house)}, {"ways", waysOf(house)}, {"shared", sharedIn(house)}};
        QVERIFY_KEPT("plants", all, 1e-4);
    }
    // Where what is said of the elements of a way turns while one figure of the survey goes.
    void ofTurns() {
        json all;
        for (std::uint32_t seed = 1; seed <= 3; ++seed) {
            house::House surveyed = testing::RandomHouse(seed).make({});
            surveyed.routes = testing::allRoutes(surveyed);
            surveyed.routes.resize(std::min<std::size_t>(surveyed.routes.size(), 4));
            const auto said = [](const json& form) {
                const auto house = job::houseFromJson(form);
                if (!house) return std::string("refused");
                std::string out;
                capacity::Predictor predictor(classes());
                for (const capacity::RouteSummary& s : predictor.summaries(*house, house->routes))
                    for (const auto& ceiling : s.ceilings) {
                        out += ceiling->because + "; ";
                        for (const std::string& line : ceiling->arithmetic)
                            out += line + "; ";
                    }
                return testing::digestOf(testing::withoutFigures(out));
            };
            all[std::to_string(seed)] = testing::turnsOfEach(job::toJson(surveyed), said, 12);
        }
        QVERIFY_KEPT("turns-predictions", all);
    }
    // Which link comes up over each class of cable, by its length, its pairs and how it ends.
    void ofCopper() {
        json all;
        const auto add = [&](const catalog::CableCategory* category, std::optional<double> metres,
                             std::optional<int> pairs, const catalog::Termination* termination) {
            json row{category == nullptr ? "" : category->id, metres.value_or(-1), pairs.value_or(-1),
                     termination == nullptr ? "" : termination->id};
            const auto length = metres ? std::optional(quantity::Length::metres(*metres)) : std::nullopt;
            for (const capacity::LinkChance& c :
                 capacity::linkChances(classes(), category, length, pairs, termination))
                row.push_back({c.phy == nullptr ? "none" : c.phy->id, c.probability});
            all.push_back(row);
        };
        std::vector<const catalog::CableCategory*> categories{nullptr};
        for (const catalog::CableCategory& c : classes().cables)
            categories.push_back(&c);
        for (const catalog::CableCategory* c : categories) {
            for (const double metres : {0.0, 3.0, 3.01, 20.0, 37.0, 55.0, 75.0, 100.0, 101.0, 140.0, 250.0})
                add(c, metres, 4, nullptr);
            for (const std::optional<int> pairs : {std::optional<int>(), std::optional(0), std::optional(2)})
                add(c, 45, pairs, nullptr);
            add(c, std::nullopt, std::nullopt, nullptr);
            for (const catalog::Termination& t : classes().terminations)
                for (const double metres : {2.0, 60.0})
                    add(c, metres, 4, &t);
        }
        QVERIFY_KEPT("copper", all);
    }
    void ofRandomHouses() {
        json all;
        for (std::uint32_t seed = 1; seed <= 5; ++seed) {
            const house::House house = testing::RandomHouse(seed).make({});
            json& of = all[std::to_string(seed)];
            of["routes"] = predicted(house, testing::allRoutes(house));
            for (const int which : {0, 2})
                of["plants"].push_back(plantsOf(which == 0 ? house : testing::lessKnown(house, which)));
            of["ways"] = waysOf(house);
        }
        QVERIFY_KEPT("predictions-random", all, 1e-4);
    }
};

QTEST_GUILESS_MAIN(TestKeptPredictions)
#include "test_kept_predictions.moc"
