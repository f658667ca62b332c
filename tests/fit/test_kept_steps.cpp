// The steps of the shipped houses after a visit, with all that hangs on them, as they were kept.
#include "fit/adapter_reading.h"
#include "fit/cause.h"
#include "fit/cautions.h"
#include "fit/cupboard.h"
#include "fit/labels.h"
#include "fit/pairing.h"
#include "fit/place_trial.h"
#include "fit/steps_json.h"
#include "job/house_json.h"
#include "support/classes.h"
#include "support/kept.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;
using testing::classes;

namespace {

// As if all that is there were to be fitted.
house::House allPlanned(house::House house) {
    const auto plan = [&](const auto& things) {
        for (const auto& thing : things)
            house.fitting.planned.push_back(thing.id);
    };
    plan(house.devices);
    plan(house.connections);
    plan(house.jacks);
    plan(house.coaxParts);
    return house;
}

std::vector<std::pair<std::string, house::House>> housesToFit() {
    auto out = testing::variedHouses();
    house::House television = out.front().second;
    for (house::Device& d : television.devices)
        if (d.deviceClass.starts_with("coax-")) d.deviceClass = "coax-ghn-1700";
    out.emplace_back("television", std::move(television));
    for (std::uint32_t seed = 1; seed <= 2; ++seed) {
        house::House random = testing::RandomHouse(seed).make({});
        random.routes = testing::allRoutes(random);
        random.routes.resize(std::min<std::size_t>(random.routes.size(), 3));
        out.emplace_back("random-" + std::to_string(seed), std::move(random));
    }
    return out;
}

// What each step leaves when it is recorded, where else its thing can be plugged in, and what that shows.
json recordsOf(house::House house, const benchmark::RouteRuns& runs) {
    json out;
    const auto all = fit::stepsOf(house, classes());
    for (std::size_t i = 0; i < all.size(); ++i) {
        const fit::Step& step = all[i];
        house = fit::withState(house, step, static_cast<house::StepState>(i % 3), "2026-05-04T10:00:00Z");
        house = fit::withNote(house, step, "a note");
        house = fit::withPhoto(house, step, {i % 2 == 0 ? "aa" : "bb", "", "a picture"});
        if (i % 3 == 1) house = fit::withoutPhoto(house, step.id, "bb");
        if (i % 4 == 3) house = fit::withoutRecord(house, all[i - 1].id);
        json& of = out[step.id];
        of.push_back(testing::digestOf(job::toJson(house)["fitting"]));
        if (const auto cause = fit::causeOf(step, house, classes(), runs))
            of.push_back({cause->suspects[0].label, cause->nextTest});
        const auto places = fit::placesOf(step, house);
        if (!places) continue;
        const house::Trial trial = fit::withRound(fit::planPlaces(house, *places));
        of.push_back({fit::triesPlaces(trial), fit::isTrialOf(trial, *places)});
        benchmark::RouteRuns placed = runs;
        for (std::size_t k = 0; k < placed.size(); ++k)
            placed[k].run.step = trial.steps[k % trial.steps.size()].id;
        const auto tried = fit::triedPlaces(house, trial, placed);
        for (const fit::TriedPlace& t : tried)
            of.push_back({t.place.id, t.place.label, t.isNow, t.forward ? t.forward->p90.inMegabits() : -1.0,
                          t.lower ? t.lower->inMegabits() : -1.0});
        of.push_back(fit::bestOf(tried).value_or(99));
        const auto kept = fit::keepBest(house, trial, placed);
        of.push_back(kept ? testing::digestOf(job::toJson(kept->house)) : kept.error().sentence());
    }
    for (const house::StepRecord& r : fit::noLongerNeeded(house, {}))
        out["gone"].push_back(r.step);
    return out;
}

json readingsOf(const house::House& house) {
    json out;
    for (const house::Device& d : house.devices) {
        if (d.kind != house::DeviceKind::adapter) continue;
        house::AdapterStatus status;
        status.name = d.label;
        status.firmware = "1.2";
        status.powerSaving = true;
        status.isPrivate = false;
        for (const house::Device& other : house.devices)
            if (other.kind == house::DeviceKind::adapter && &other != &d)
                status.peers.push_back(
                    {other.label, quantity::BitRate::megabits(700), quantity::BitRate::megabits(300)});
        std::vector<std::string> unknown;
        const house::House read = fit::withStatus(house, d.id, status, "2026-05-04T10:00:00Z", unknown);
        out[d.id]["unknown"] = unknown;
        for (const fit::AdapterRates& r : fit::ratesOf(read, d.id))
            out[d.id]["rates"].push_back({r.medium, r.other, r.to ? r.to->inMegabits() : -1.0,
                                          r.from ? r.from->inMegabits() : -1.0, r.at});
    }
    for (const house::Medium medium : {house::Medium::mains, house::Medium::coax, house::Medium::air})
        for (const double mbps : {5.0, 90.0, 600.0, 3000.0})
            if (const auto s = fit::impliedGoodput(classes(), medium, quantity::BitRate::megabits(mbps)))
                out["implied"].push_back({s->p10.inMegabits(), s->p50.inMegabits(), s->p90.inMegabits()});
    return out;
}

} // namespace

class TestKeptSteps : public QObject {
    Q_OBJECT

  private slots:
    void ofEveryHouse() {
        json all;
        for (const auto& [name, surveyed] : housesToFit()) {
            const house::House house = allPlanned(surveyed);
            json& of = all[name];
            of["steps"] = fit::stepsDocument(house, classes(), testing::visited(house));
            for (const fit::Caution& c : fit::cautionsOf(house))
                of["cautions"].push_back({c.where, c.what, c.why});
            for (const fit::Label& l : fit::labelsOf(house))
                of["labels"].push_back({l.thing, l.code, l.what, l.where, l.copies, fit::qrTextOf(house, l)});
            for (const house::Medium medium : {house::Medium::mains, house::Medium::coax, house::Medium::air})
                for (const fit::PairTurn& turn : fit::pairingOf(house, medium))
                    of["pairing"].push_back({turn.first, turn.second, turn.does, turn.isDone});
            const fit::Cupboard cupboard = fit::cupboardOf(house);
            of["cupboard"] = json::array({cupboard.room});
            for (const fit::CupboardRun& r : cupboard.runs)
                of["cupboard"].push_back({r.connection, r.label, r.isHere, r.joinedLabel, r.joinedPort,
                                          r.farLabel, r.farRoom, r.isFarLoose, r.isWhole()});
            of["readings"] = readingsOf(house);
            of["records"] = recordsOf(house, testing::visited(house));
        }
        QVERIFY_KEPT("steps", all, 1e-4);
    }
};

QTEST_GUILESS_MAIN(TestKeptSteps)
#include "test_kept_steps.moc"
