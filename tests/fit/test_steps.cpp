// The steps of fitting: complete, in order, the same each time, and what is recorded of them.
#include "fit/cause.h"
#include "fit/expect.h"
#include "fit/steps.h"
#include "house/remove.h"
#include "job/document.h"
#include "job/house_json.h"
#include "job/open.h"
#include "support/houses.h"
#include "support/large_fitting.h"
#include "support/paths.h"
#include "support/planned.h"
#include "support/random_house.h"
#include "support/runs.h"

#include <QElapsedTimer>
#include <QTest>
#include <nlohmann/json.hpp>
#include <set>

using namespace metrodos;
using fit::Step;
using fit::StepKind;
using house::StepState;
using testing::classes;

namespace {

// The demo house before anything of a plan is in it.
house::House demo() {
    house::House h = job::readJob(testing::dataPath("demo/quarry-house.json")).value().house;
    h.fitting = {};
    return h;
}

house::House fitted(const house::House& h, weigh::Objective objective = weigh::Objective::cheapest) {
    return weigh::applyPlan(h, classes(), testing::optionsFor(h), testing::planFor(h, objective))
        .value()
        .house;
}

// A survey in any state, of which any things are said to be of a plan.
house::House randomlyPlanned(std::uint32_t seed) {
    testing::RandomHouse maker(seed);
    house::House h = maker.make({3 + maker.upTo(5), 4 + maker.upTo(10), 1 + maker.upTo(3)});
    for (const house::Device& d : h.devices)
        if (maker.chance(0.4)) h.fitting.planned.push_back(d.id);
    for (const house::Connection& c : h.connections)
        if (maker.chance(0.4)) h.fitting.planned.push_back(c.id);
    for (const house::Jack& j : h.jacks)
        if (maker.chance(0.3)) h.fitting.planned.push_back(j.id);
    h.fitting.planned.emplace_back("taken-out-since");
    return h;
}

const Step* find(const std::vector<Step>& steps, const std::string& id) {
    for (const Step& s : steps)
        if (s.id == id) return &s;
    return nullptr;
}
const Step& stepOf(const std::vector<Step>& steps, StepKind kind) {
    for (const Step& s : steps)
        if (s.kind == kind) return s;
    qFatal("there is no step %s", std::string(fit::name(kind)).c_str());
}
std::size_t placeOf(const std::vector<Step>& steps, const std::string& id) {
    for (std::size_t i = 0; i < steps.size(); ++i)
        if (steps[i].id == id) return i;
    return steps.size();
}
std::vector<std::string> ids(const std::vector<Step>& steps) {
    std::vector<std::string> out;
    for (const Step& s : steps)
        out.push_back(s.id);
    return out;
}

// Two rooms on coax: the router's hall and a study, with all that a plan puts there.
house::House onCoax(int adapters = 2, const std::string& cls = "coax-2500") {
    house::House h = testing::servedHouse(900, 300, 2);
    std::erase_if(h.connections, [](const house::Connection&) { return true; });
    h.coaxParts = {{"entry", "Entry", house::CoaxPartKind::entry, "hall", 2, {}, {}, {}},
                   {"split", "Splitter", house::CoaxPartKind::splitter, "hall", 3, true, {}, {}}};
    house::Connection network;
    network.id = network.label = "coax";
    network.medium = house::Medium::coax;
    for (int i = 0; i < adapters; ++i) {
        const std::string n = std::to_string(i);
        const std::string room = i == 0 ? "hall" : "room-" + n;
        h.jacks.push_back({"jack-" + n, "Coax jack " + n, room, house::JackKind::coax});
        h.devices.push_back({"box-" + n,
                             "Coax adapter " + n,
                             house::DeviceKind::adapter,
                             cls,
                             room,
                             {{"lan", "LAN", house::PortKind::ethernet, "2.5gbase-t"},
                              {"line", "line", house::PortKind::coax, "", "jack-" + n}}});
        network.ends.push_back({"box-" + n, "line"});
        h.fitting.planned.push_back("box-" + n);
    }
    h.connections.push_back(network);
    h.fitting.planned.push_back("coax");
    return h;
}

} // namespace

class TestSteps : public QObject {
    Q_OBJECT

  private slots:
    void withoutAPlanThereIsNothingToDo() {
        QVERIFY(fit::stepsOf(demo(), classes()).empty());
        QVERIFY(fit::stepsOf(house::House{}, classes()).empty());
        house::House gone = demo();
        gone.fitting.planned = {"taken-out-since"};
        QVERIFY(fit::stepsOf(gone, classes()).empty());
    }
    // Of 2,000 houses: every part of the plan in exactly one step, places that exist, nothing before what it
    // needs.
    void everyPartIsInOneStepAndNothingComesBeforeWhatItNeeds() {
        std::size_t steps = 0;
        for (std::uint32_t seed = 1; seed <= 2000; ++seed) {
            const house::House h = randomlyPlanned(seed);
            const auto all = fit::stepsOf(h, classes());
            const std::string where = "seed " + std::to_string(seed);
            std::set<std::string> before;
            std::map<house::Id, int> fits;
            for (const Step& s : all) {
                const std::string what = where + ", " + s.id;
                QVERIFY2(!s.id.empty() && s.id.size() <= 100, what.c_str());
                for (const std::string& need : s.needs)
                    QVERIFY2(before.contains(need), (what + " needs " + need).c_str());
                QVERIFY2(before.insert(s.id).second, what.c_str());
                QVERIFY2(s.room.empty() || h.room(s.room) != nullptr, what.c_str());
                QVERIFY2(!s.what.empty() && !s.measures.empty() && !s.before.empty() && !s.otherwise.empty(),
                         what.c_str());
                QVERIFY2(s.route.empty() || h.route(s.route) != nullptr, what.c_str());
                for (const house::Id& thing : s.fits)
                    ++fits[thing];
            }
            for (const house::Id& thing : h.fitting.planned) {
                const bool isThere =
                    h.device(thing) != nullptr || h.connection(thing) != nullptr || h.jack(thing) != nullptr;
                QVERIFY2(fits[thing] == (isThere ? 1 : 0), (where + ", " + thing).c_str());
            }
            for (const auto& [thing, count] : fits)
                QVERIFY2(std::find(h.fitting.planned.begin(), h.fitting.planned.end(), thing) !=
                             h.fitting.planned.end(),
                         (where + ", " + thing).c_str());
            QCOMPARE(ids(fit::stepsOf(h, classes())), ids(all));
            steps += all.size();
        }
        QVERIFY(steps > 20'000);
    }
    void whatWasDoneOutlivesWhatHasNothingToDoWithIt() {
        std::mt19937 random(7);
        for (std::uint32_t seed = 1; seed <= 300; ++seed) {
            house::House h = randomlyPlanned(seed);
            const auto before = fit::stepsOf(h, classes());
            if (before.empty()) continue;
            const Step& chosen = before[random() % before.size()];
            h = fit::withState(h, chosen, StepState::done, "2026-05-04T10:00:00Z");
            h.name = "Another name";
            h.rooms.push_back({"new-room", "New room", 0});
            h.devices.push_back({"new-printer", "Printer", house::DeviceKind::host, "", "new-room", {}});
            const auto after = fit::stepsOf(h, classes());
            const Step* same = find(after, chosen.id);
            QVERIFY2(same != nullptr && same->state == StepState::done && !same->isChanged,
                     (std::to_string(seed) + " " + chosen.id).c_str());
            QVERIFY(fit::noLongerNeeded(h, after).empty());
            // And the record comes back from a file as it was.
            QCOMPARE(job::houseFromJson(job::toJson(h)).value().fitting, h.fitting);
        }
    }
    // The bench first, then the whole house, then place by place, then the proofs.
    void stepsComeInTheOrderOfTheWork() {
        house::House h = onCoax(2);
        for (const auto& [id, box, port, machine, other] :
             {std::tuple("lead-0", "box-0", "lan", "router", "p1"),
              {"lead-1", "box-1", "lan", "machine-1", "lan"}}) {
            house::Connection lead;
            lead.id = lead.label = id;
            lead.ends = {{box, port}, {machine, other}};
            h.connections.push_back(lead);
            h.fitting.planned.push_back(id);
        }
        h.devices.push_back({"store",
                             "Store",
                             house::DeviceKind::host,
                             "desktop",
                             "hall",
                             {{"lan", "LAN", house::PortKind::ethernet, "1000base-t"}}});
        house::Connection there;
        there.id = there.label = "old-lead";
        there.ends = {{"router", "p2"}, {"store", "lan"}};
        h.connections.push_back(there);
        h.endpoints = {{"store-end", "Store", "store", ""}, {"machine-end", "Machine 1", "machine-1", ""}};
        house::Route route;
        route.id = "way";
        route.label = "Store to Machine 1";
        route.from = "store-end";
        route.to = "machine-end";
        h.routes = {route};
        const std::vector<std::string> expected{
            "baseline",         "bench-coax",    "entry-filter", "terminate",       "find-run-jack-0",
            "coax-ends-jack-0", "adapter-box-0", "lead-lead-0",  "find-run-jack-1", "coax-ends-jack-1",
            "adapter-box-1",    "lead-lead-1",   "pair-coax",    "privacy-coax",    "lights",
            "addresses",        "check-way",     "label"};
        const auto steps = fit::stepsOf(h, classes());
        QCOMPARE(ids(steps), expected);
        QCOMPARE(find(steps, "bench-coax")->route, house::Id("way"));
        QCOMPARE(find(steps, "check-way")->room, house::Id("room-1"));
        QCOMPARE(find(steps, "adapter-box-1")->needs,
                 (std::vector<std::string>{"bench-coax", "terminate", "entry-filter", "coax-ends-jack-1"}));
        QCOMPARE(find(steps, "lead-lead-1")->needs, std::vector<std::string>{"adapter-box-1"});
        const auto& needs = find(steps, "check-way")->needs;
        for (const char* id :
             {"adapter-box-0", "adapter-box-1", "lead-lead-0", "lead-lead-1", "pair-coax", "lights"})
            QVERIFY2(std::find(needs.begin(), needs.end(), id) != needs.end(), id);
        QCOMPARE(find(steps, "label")->needs, std::vector<std::string>{"check-way"});
        QVERIFY(find(steps, "adapter-box-1")->parts.at(0).item == "coax-2500");
        // Nothing is expected of a pair beyond what its class does at its best, or its ports let through.
        const auto bench = fit::expectedOf(*find(steps, "bench-coax"), h, classes(), {});
        QVERIFY(bench && bench->high.inMegabits() < 942 && bench->low.inMegabits() > 500);
    }
    // The demo's own plans: what was there before is in no step.
    void onlyWhatThePlanBringsIsFitted() {
        for (const weigh::Objective objective : house::objectives) {
            const house::House h = fitted(demo(), objective);
            QVERIFY(!h.fitting.planned.empty());
            const auto steps = fit::stepsOf(h, classes());
            std::set<house::Id> fits;
            for (const Step& s : steps)
                for (const house::Id& thing : s.fits) {
                    QVERIFY(demo().device(thing) == nullptr && demo().connection(thing) == nullptr &&
                            demo().jack(thing) == nullptr);
                    fits.insert(thing);
                }
            QCOMPARE(fits.size(), h.fitting.planned.size());
            QCOMPARE(steps.back().kind, StepKind::label);
            // A second plan on top leaves what is not fitted yet to be fitted.
            const house::House again = fitted(h, objective);
            for (const house::Id& thing : h.fitting.planned)
                QVERIFY2(std::find(again.fitting.planned.begin(), again.fitting.planned.end(), thing) !=
                             again.fitting.planned.end(),
                         thing.c_str());
        }
    }
    // The demo is half fitted: what was done is of the steps that there are, one has failed and says why.
    void theDemoIsHalfFitted() {
        const house::House h = job::readJob(testing::dataPath("demo/quarry-house.json")).value().house;
        const auto steps = fit::stepsOf(h, classes());
        QVERIFY(fit::noLongerNeeded(h, steps).empty());
        std::map<StepState, int> count;
        for (const Step& s : steps) {
            QVERIFY2(!s.isChanged, s.id.c_str());
            ++count[s.state];
            if (s.state == StepState::failed)
                QVERIFY2(s.reason.find("strip") != std::string::npos, s.id.c_str());
        }
        QCOMPARE(count[StepState::failed], 1);
        QVERIFY(count[StepState::done] >= 8 && count[StepState::open] >= 8);
    }
    void coaxIsPreparedByWhatIsOnIt() {
        const auto filter = [](const house::House& h) {
            return stepOf(fit::stepsOf(h, classes()), StepKind::entry_filter);
        };
        house::House h = onCoax();
        QVERIFY(filter(h).what.find("where the coax enters") != std::string::npos);
        QCOMPARE(filter(h).room, house::Id("hall"));
        QVERIFY(!filter(h).cautions.empty()); // the operator's line, and the bonding
        // Cable internet above what a filter passes: the modem is split off first.
        h.coaxUse.cableInternetTop = quantity::Frequency::megahertz(1218);
        const auto behind = fit::stepsOf(h, classes());
        QVERIFY(stepOf(behind, StepKind::entry_filter).what.find("branch") != std::string::npos);
        QVERIFY(placeOf(behind, "splitter-modem") < placeOf(behind, "entry-filter"));
        QCOMPARE(stepOf(behind, StepKind::entry_filter).needs, std::vector<std::string>{"splitter-modem"});
        // One that is there stays the only one.
        h.coaxParts.push_back({"filter", "Filter", house::CoaxPartKind::filter, "hall", 2, {}, {}, {}});
        QVERIFY(filter(h).what.find("second one is not needed") != std::string::npos);
        QVERIFY(filter(h).parts.empty());
        // Adapters in the band of television want the house for themselves.
        std::string inBand;
        for (const catalog::CoaxClass& cls : classes().coax.classes)
            if (cls.isInTelevisionBand) inBand = cls.id;
        const auto apart = fit::stepsOf(onCoax(2, inBand), classes());
        QVERIFY(stepOf(apart, StepKind::street).what.find("television") != std::string::npos);
        QVERIFY(find(apart, "entry-filter") == nullptr);
        // What stops or wastes the band is changed.
        h.coaxParts[1].rated = false;
        h.coaxParts.push_back({"amp", "Amplifier", house::CoaxPartKind::amplifier, "hall", 2, {}, false, {}});
        const auto changed = fit::stepsOf(h, classes());
        QVERIFY(find(changed, "splitter-split")->what.find("made for the adapters' band") !=
                std::string::npos);
        QVERIFY(find(changed, "splitter-amp")->what.find("bypass") != std::string::npos);
        // Each jack's run is found and its ends made once, before its adapter.
        QVERIFY(placeOf(changed, "find-run-jack-1") < placeOf(changed, "coax-ends-jack-1"));
        QVERIFY(placeOf(changed, "coax-ends-jack-1") < placeOf(changed, "adapter-box-1"));
    }
    void aFurtherAdapterIsPairedFromAMember() {
        house::House h = onCoax(2);
        const Step first = stepOf(fit::stepsOf(h, classes()), StepKind::pair);
        QVERIFY(first.what.find("within two minutes") != std::string::npos);
        QCOMPARE(first.of, std::string("box-0 box-1"));
        h = fit::withState(h, first, StepState::done, "2026-05-04T10:00:00Z");
        // They are there now, and a third one is planned.
        house::House third = onCoax(3);
        third.fitting = h.fitting;
        third.fitting.planned = {"box-2"};
        const Step then = stepOf(fit::stepsOf(third, classes()), StepKind::pair);
        QVERIFY(then.what.find("member first") != std::string::npos);
        QVERIFY(then.isChanged && then.state == StepState::open); // there is more to pair than there was
        QCOMPARE(then.at, std::string("2026-05-04T10:00:00Z"));
    }
    // New adapters on a network that was there: the way over it is checked when they are paired, and no wire
    // is spoken of by radio.
    void aWayOverAnOldNetworkWaitsForItsPairing() {
        house::House h = testing::servedHouse(900, 300, 1);
        h.connections.clear();
        house::Connection air;
        air.id = air.label = "air";
        air.medium = house::Medium::air;
        for (const auto& [box, room, machine, port] :
             {std::tuple("bridge-0", "hall", "router", "p1"), {"bridge-1", "room-1", "machine-1", "lan"}}) {
            h.devices.push_back({box,
                                 box,
                                 house::DeviceKind::adapter,
                                 "",
                                 room,
                                 {{"lan", "LAN", house::PortKind::ethernet, "1000base-t"},
                                  {"line", "line", house::PortKind::radio, ""}}});
            air.ends.push_back({box, "line"});
            house::Connection lead;
            lead.id = lead.label = std::string("lead-") + box;
            lead.ends = {{box, "lan"}, {machine, port}};
            h.connections.push_back(lead);
        }
        h.connections.push_back(air);
        h.endpoints = {{"end", "Machine 1", "machine-1", ""}};
        house::Route route;
        route.id = route.label = "way";
        route.from = h.service->id;
        route.to = "end";
        h.routes = {route};
        h.fitting.planned = {"bridge-1"};
        const auto steps = fit::stepsOf(h, classes());
        QCOMPARE(find(steps, "check-way")->needs,
                 (std::vector<std::string>{"pair-air", "adapter-bridge-1", "lights"}));
        for (const char* id : {"pair-air", "privacy-air"})
            QVERIFY2(find(steps, id)->why.find("wiring") == std::string::npos, id);
    }
    void photosOfAStepComeAndGo() {
        house::House h = testing::coaxHouse();
        h.fitting.planned = {"coax-b"};
        const Step step = fit::stepsOf(h, classes()).front();
        const auto photo = [](char letter, const char* caption) {
            return house::Photo{std::string(64, letter), "2026-05-04T10:00:00Z", caption};
        };
        const auto captions = [&] {
            std::string out;
            for (const house::Photo& p : h.fitting.records.front().photos)
                out += p.caption;
            return out;
        };
        for (const auto& [letter, caption] : {std::pair('a', "A"), std::pair('b', "B"), std::pair('c', "C")})
            h = fit::withPhoto(h, step, photo(letter, caption));
        QCOMPARE(captions(), std::string("ABC"));
        h = fit::withPhoto(h, step, photo('a', "again")); // the same picture, once
        QCOMPARE(captions(), std::string("BCagain"));
        h = fit::withoutPhoto(h, "another step", std::string(64, 'b'));
        QCOMPARE(captions(), std::string("BCagain"));
        h = fit::withoutPhoto(h, step.id, std::string(64, 'b'));
        QCOMPARE(captions(), std::string("Cagain"));
    }
    void whatIsOtherThanItWasIsDoneAnew() {
        house::House h = onCoax(2);
        const auto steps = fit::stepsOf(h, classes());
        const Step placed = *find(steps, "adapter-box-1");
        h = fit::withState(h, placed, StepState::failed, "2026-05-04T10:00:00Z", "no link");
        h = fit::withNote(h, placed, "behind the shelf");
        const Step failed = *find(fit::stepsOf(h, classes()), placed.id);
        QCOMPARE(failed.state, StepState::failed);
        QCOMPARE(failed.reason, std::string("no link"));
        QCOMPARE(failed.note, std::string("behind the shelf"));
        // Another class is another step to do; the note stays.
        h.device("box-1")->deviceClass = "coax-1000";
        const Step other = *find(fit::stepsOf(h, classes()), placed.id);
        QVERIFY(other.isChanged && other.state == StepState::open && other.reason.empty());
        QCOMPARE(other.note, std::string("behind the shelf"));
        h.device("box-1")->deviceClass = "coax-2500";
        QCOMPARE(find(fit::stepsOf(h, classes()), placed.id)->state, StepState::failed);
        // Another jack too.
        h.port({"box-1", "line"})->jack = "jack-0";
        QVERIFY(find(fit::stepsOf(h, classes()), placed.id)->isChanged);
        // What is no longer of the plan is kept and named.
        std::erase(h.fitting.planned, "box-1");
        const auto fewer = fit::stepsOf(h, classes());
        QVERIFY(find(fewer, placed.id) == nullptr);
        const auto gone = fit::noLongerNeeded(h, fewer);
        QCOMPARE(gone.size(), std::size_t(1));
        QCOMPARE(gone[0].step, placed.id);
        QCOMPARE(gone[0].what, placed.what);
        QVERIFY(fit::noLongerNeeded(fit::withoutRecord(h, placed.id), fewer).empty());
    }
    void aStateReplacesTheOneBefore() {
        house::House h = onCoax(2);
        const Step s = fit::stepsOf(h, classes()).front();
        for (const StepState state : {StepState::skipped, StepState::done, StepState::open})
            h = fit::withState(h, s, state, "2026-05-04T10:00:00Z",
                               state == StepState::skipped ? "no need" : "");
        QCOMPARE(h.fitting.records.size(), std::size_t(1));
        QCOMPARE(find(fit::stepsOf(h, classes()), s.id)->state, StepState::open);
        QVERIFY(find(fit::stepsOf(h, classes()), s.id)->reason.empty());
    }
    // What is removed from the house is no part of a plan any more.
    void whatIsRemovedIsNotPlanned() {
        const house::House h = onCoax(2);
        const house::House less = house::without(h, "box-1").value();
        QVERIFY(std::find(less.fitting.planned.begin(), less.fitting.planned.end(), "box-1") ==
                less.fitting.planned.end());
        QVERIFY(std::find(less.fitting.planned.begin(), less.fitting.planned.end(), "box-0") !=
                less.fitting.planned.end());
    }
    // Router, switch of two leads, and a machine: figures by hand.
    void whatIsExpectedIsWhatThePartsAndTheBenchAllow() {
        house::House h = testing::wiredHouse();
        h.fitting.planned = {"run-2"};
        const auto steps = fit::stepsOf(h, classes());
        const Step& baseline = stepOf(steps, StepKind::baseline);
        const Step& check = stepOf(steps, StepKind::check);
        QCOMPARE(check.route, house::Id("desk-shelf"));
        // 1000BASE-T leaves 941.5 Mbit/s (1448 of 1538 bytes, IEEE 802.3): the ports are the least of it.
        for (const Step* s : {&baseline, &check}) {
            const auto expected = fit::expectedOf(*s, h, classes(), {});
            QVERIFY(expected.has_value());
            QVERIFY2(std::fabs(expected->high.inMegabits() - 941.5) < 1, s->id.c_str());
            QVERIFY2(std::fabs(expected->low.inMegabits() - 941.5) < 1, s->id.c_str());
        }
        // The machines did less on one cable: no way between them does more.
        benchmark::RouteRuns runs;
        for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward}) {
            auto run =
                testing::steadyRun(d, d == benchmark::Direction::forward ? 700 : 600, 4, 0.001, "base");
            run.config.arrangement.setup = house::Setup::baseline;
            runs.push_back({"desk-shelf", run});
            if (d == benchmark::Direction::forward)
                QVERIFY(!fit::measuredOf(baseline, runs).has_value()); // one way alone proves nothing
        }
        QVERIFY(std::fabs(fit::measuredOf(baseline, runs)->inMegabits() - 600) < 6);
        QVERIFY(!fit::measuredOf(check, runs).has_value());
        const auto less = fit::expectedOf(check, h, classes(), runs);
        QVERIFY(std::fabs(less->high.inMegabits() - 600) < 6);
        QVERIFY2(less->from.find("one cable") != std::string::npos, less->from.c_str());
        // What was mended is measured anew, and the run before says no more.
        benchmark::RouteRuns mended = runs;
        for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward}) {
            auto run = testing::steadyRun(d, 930, 4, 0.001, "again");
            run.config.arrangement.setup = house::Setup::baseline;
            mended.push_back({"desk-shelf", run});
            run.config.streams = 1; // one stream later on does not speak for the way
            run.goodput = quantity::BitRate::megabits(300);
            mended.push_back({"desk-shelf", run});
        }
        QVERIFY(std::fabs(fit::measuredOf(baseline, mended)->inMegabits() - 930) < 6);
        // The baseline itself is still held against what the ports should do.
        QCOMPARE(
            fit::provenBy(fit::measuredOf(baseline, runs), fit::expectedOf(baseline, h, classes(), runs)),
            std::optional(StepState::failed));
        QCOMPARE(fit::provenBy(quantity::BitRate::megabits(650), less), std::optional(StepState::done));
        QCOMPARE(fit::provenBy(quantity::BitRate::megabits(90), less), std::optional(StepState::failed));
        QCOMPARE(fit::provenBy(less->low, less), std::optional(StepState::done)); // as much as is expected
        QVERIFY(!fit::provenBy(std::nullopt, less).has_value());
        QVERIFY(!fit::expectedOf(stepOf(steps, StepKind::lights), h, classes(), runs).has_value());
    }
    void whatHoldsACheckBackIsNamed() {
        const house::House h = fitted(demo());
        Step check;
        for (const Step& s : fit::stepsOf(h, classes()))
            if (s.kind == StepKind::check) check = s;
        QVERIFY(!check.route.empty());
        QVERIFY(!fit::causeOf(check, h, classes(), {})); // nothing was measured
        benchmark::RouteRuns runs{{"another-route", testing::steadyRun(benchmark::Direction::forward, 94.1)}};
        QVERIFY(!fit::causeOf(check, h, classes(), runs));
        for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward})
            runs.push_back({check.route, testing::steadyRun(d, 20, 4, 0.002,
                                                            d == benchmark::Direction::forward ? "f" : "b")});
        const auto cause = fit::causeOf(check, h, classes(), runs);
        QVERIFY(cause && !cause->suspects.empty() && cause->suspects.size() <= 3);
        double sum = 0;
        for (std::size_t i = 0; i < cause->suspects.size(); ++i) {
            QVERIFY(!cause->suspects[i].label.empty());
            QVERIFY(i == 0 || cause->suspects[i].probability <= cause->suspects[i - 1].probability);
            sum += cause->suspects[i].probability;
        }
        QVERIFY(sum > 0.1 && sum <= 1.0001);
        check.route = "no-such-route";
        QVERIFY(!fit::causeOf(check, h, classes(), runs));
    }
    void aStepSaysTheLabelOfItsThing() {
        const auto steps = fit::stepsOf(fitted(demo()), classes());
        int labelled = 0;
        for (const Step& s : steps)
            if (s.kind == StepKind::adapter) {
                QVERIFY2(s.label.find("-A") != std::string::npos, s.id.c_str());
                ++labelled;
            } else if (s.kind == StepKind::pair || s.kind == StepKind::check) {
                QVERIFY(s.label.empty());
            }
        QVERIFY(labelled > 0);
    }
    void fortyRoomsAndTheirStepsAreThereAtOnce() {
        const house::House h = testing::largeFitting();
        const auto steps = fit::stepsOf(h, classes());
        QVERIFY2(steps.size() >= 290, qPrintable(QString::number(steps.size())));
        QElapsedTimer timer;
        timer.start();
        for (int i = 0; i < 10; ++i)
            QCOMPARE(fit::stepsOf(h, classes()).size(), steps.size());
        qInfo("%zu steps in %.1f ms", steps.size(), static_cast<double>(timer.nsecsElapsed()) / 1e7);
    }
};

QTEST_GUILESS_MAIN(TestSteps)
#include "test_steps.moc"
