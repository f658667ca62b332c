// Trying where a thing is plugged in: which places there are, what they have shown, and what is kept.
#include "benchmark/trial.h"
#include "fit/expect.h"
#include "fit/place_trial.h"
#include "house/edit.h"
#include "house/validate.h"
#include "support/classes.h"
#include "support/mains_rooms.h"
#include "support/runs.h"

#include <QTest>
#include <algorithm>
#include <set>

using namespace metrodos;
using benchmark::Direction;
using fit::Step;
using fit::StepKind;
using testing::classes;

namespace {

const Step& stepOf(const std::vector<Step>& steps, StepKind kind, const std::string& about = {}) {
    const auto it = std::find_if(steps.begin(), steps.end(), [&](const Step& s) {
        return s.kind == kind && (about.empty() || s.about == about);
    });
    if (it == steps.end()) qFatal("there is no such step");
    return *it;
}

std::vector<std::string> idsOf(const fit::PlaceTrial& places) {
    std::vector<std::string> out;
    for (const fit::Place& p : places.places)
        out.push_back(p.id);
    return out;
}

// The outlets of the loft, a trial of them, and its runs.
struct Outlets {
    house::House h = testing::mainsRooms();
    fit::PlaceTrial places =
        fit::placesOf(stepOf(fit::stepsOf(h, classes()), StepKind::outlets, "mains-b"), h).value();
    house::Trial trial = fit::planPlaces(h, places);
    benchmark::RouteRuns runs;

    Outlets() { h.trials.push_back(trial); }
    void measure(std::size_t step, double forward, double backward, double variation = 0.01) {
        for (const auto& [direction, mbps] :
             {std::pair(Direction::forward, forward), std::pair(Direction::backward, backward)}) {
            benchmark::Run run = testing::steadyRun(direction, mbps, 4, variation,
                                                    "r" + std::to_string(step) +
                                                        (direction == Direction::forward ? "f" : "b"));
            run.step = trial.steps[step].id;
            run.config.arrangement = benchmark::arrangementOf(trial.steps[step]);
            runs.push_back({"desk-shelf", run});
        }
    }
};

} // namespace

class TestPlaceTrial : public QObject {
    Q_OBJECT

  private slots:
    void theOutletsOfARoomAreThoseThatAreFree() {
        Outlets o;
        // Of the 20 outlets of the loft the adapter's own comes first; those of the hall are no part of it.
        QCOMPARE(o.places.places.size(), std::size_t(20));
        QCOMPARE(o.places.places[0].id, std::string("o0-4"));
        QCOMPARE(o.places.element, house::Id("mains"));
        QCOMPARE(o.places.route, house::Id("desk-shelf"));
        for (const fit::Place& p : o.places.places)
            QCOMPARE(o.h.jack(p.id)->room, house::Id("loft"));
        // One that something else is in is not free.
        o.h.device("mains-a")->ports[1].jack = "o0-5";
        const auto step = stepOf(fit::stepsOf(o.h, classes()), StepKind::outlets, "mains-b");
        const auto ids = idsOf(fit::placesOf(step, o.h).value());
        QVERIFY(std::find(ids.begin(), ids.end(), "o0-5") == ids.end());
    }
    void aTrialLeadsThroughThem() {
        const Outlets o;
        QCOMPARE(o.trial.steps.size(), o.places.places.size());
        QVERIFY(o.trial.steps[0].prepare.starts_with("Leave Loft adapter at"));
        QVERIFY(o.trial.steps[1].prepare.starts_with("Plug Loft adapter into"));
        QVERIFY(o.trial.steps[1].prepare.find("wait until") != std::string::npos);
        QVERIFY(house::validate(o.h).empty());
        // Five seconds each way; only the first is as surveyed.
        for (std::size_t i = 0; i < o.trial.steps.size(); ++i) {
            const auto configs = benchmark::configsOf(o.trial.steps[i]);
            QCOMPARE(configs.size(), std::size_t(2));
            if (i < 3) QCOMPARE(o.trial.steps[i].arm, std::string(1, "ABC"[i]));
            for (const auto& config : configs) {
                QCOMPARE(config[0].seconds, 5.0);
                const benchmark::Arrangement& how = config[0].arrangement;
                QCOMPARE(how.isAsSurveyed(), i == 0);
                if (i > 0) {
                    QCOMPARE(how.altered[0].element, house::Id("mains"));
                    QCOMPARE(how.altered[0].place, o.places.places[i].id);
                }
            }
        }
        // A second round goes the other way, so that a drift of the hour does not decide.
        const house::Trial twice = fit::withRound(o.trial);
        QCOMPARE(twice.steps.size(), 2 * o.trial.steps.size());
        QCOMPARE(twice.steps[o.trial.steps.size()].place, o.trial.steps.back().place);
        QCOMPARE(twice.steps.back().place, o.trial.steps.front().place);
        // A second trial beside it has ids of its own, those of its steps too.
        house::House both = o.h;
        both.trials.push_back(fit::planPlaces(both, o.places));
        QVERIFY2(house::validate(both).empty(),
                 house::validate(both).empty() ? "" : house::validate(both)[0].sentence().c_str());
        std::set<house::Id> ids;
        for (const house::TrialStep& s : twice.steps)
            QVERIFY(ids.insert(s.id).second);
    }
    // Worked by hand: the slower way decides, by its tenth percentile.
    void theLowerEndOfBothWaysDecides() {
        Outlets o;
        QVERIFY(!fit::bestOf(fit::triedPlaces(o.h, o.trial, o.runs)));
        o.measure(0, 100, 90);
        QVERIFY(!fit::bestOf(fit::triedPlaces(o.h, o.trial, o.runs))); // one alone is no comparison
        o.measure(1, 200, 60);                                         // fast one way only
        o.measure(2, 120, 110);
        auto tried = fit::triedPlaces(o.h, o.trial, o.runs);
        QCOMPARE(tried.size(), o.places.places.size());
        QVERIFY(tried[0].isNow && !tried[1].isNow);
        QCOMPARE(fit::bestOf(tried).value(), std::size_t(2));
        QVERIFY(std::abs(tried[1].lower->inMegabits() - 60) < 3);
        QVERIFY(std::abs(tried[2].forward->p50.inMegabits() - 120) < 3);
        QVERIFY(!tried[3].lower);
        // A place that is fast on the average and falls through now and then is not kept.
        o.measure(3, 150, 150);
        for (benchmark::RouteRun& r : o.runs) {
            if (r.run.step != o.trial.steps[3].id) continue;
            std::vector<benchmark::Sample> samples(r.run.samples.begin(), r.run.samples.end());
            for (std::size_t i = 0; i < 20; ++i) // two seconds of ten
                samples[40 + i].goodputBps = 20e6;
            r.run.samples = std::move(samples);
            benchmark::finish(r.run);
        }
        tried = fit::triedPlaces(o.h, o.trial, o.runs);
        QVERIFY(tried[3].forward->p50 > tried[2].forward->p50);
        QCOMPARE(fit::bestOf(tried).value(), std::size_t(2));
    }
    void ofEqualPlacesItStays() {
        Outlets o;
        o.measure(1, 100, 100);
        o.measure(0, 100, 100);
        QCOMPARE(fit::bestOf(fit::triedPlaces(o.h, o.trial, o.runs)).value(), std::size_t(0));
    }
    void whatIsKeptIsInTheHouse() {
        Outlets o;
        o.measure(0, 50, 50);
        o.measure(2, 120, 110);
        o.h.device("mains-b")->ports[1].strip = house::Strip::surge_protected;
        const house::House kept = fit::keepPlace(o.h, o.trial, o.places.places[2].id).value();
        QCOMPARE(kept.device("mains-b")->ports[1].jack, o.places.places[2].id);
        QCOMPARE(kept.device("mains-b")->ports[1].strip, house::Strip::unknown);
        QVERIFY(house::validate(kept).empty());
        const auto tried = fit::triedPlaces(kept, o.trial, o.runs);
        QVERIFY(tried[2].isNow && !tried[0].isNow);
        const auto best = fit::keepBest(o.h, o.trial, o.runs).value();
        QCOMPARE(best.place.id, o.places.places[2].id);
        QVERIFY(best.house == kept);
        QVERIFY(!fit::keepBest(o.h, o.trial, {}));
        // The other adapter stays where it is.
        QCOMPARE(kept.device("mains-a")->ports[1].jack, house::Id("o0-0"));
        QVERIFY(!fit::keepPlace(o.h, o.trial, "no-such-place"));
        QCOMPARE(fit::keepPlace(o.h, o.trial, "o0-4").value().device("mains-b")->ports[1].jack,
                 house::Id("o0-4"));
    }
    // Runs at other places say nothing of how the house is.
    void aRunElsewhereProvesNoStep() {
        Outlets o;
        Step check;
        check.route = "desk-shelf";
        o.measure(2, 120, 110);
        QVERIFY(!fit::measuredOf(check, o.runs));
        o.measure(0, 50, 40);
        QCOMPARE(std::lround(fit::measuredOf(check, o.runs)->inMegabits()), 40L);
    }
    void socketsOfAMachineAreTried() {
        house::House h = testing::coaxHouse("usb2");
        h.fitting.planned = {"nic", "socket"};
        h.device("shelf")->ports.push_back({"usb-2", "USB 2", house::PortKind::usb, "usb3-5g"});
        h.device("shelf")->ports.push_back({"lan-2", "LAN 2", house::PortKind::ethernet, "1000base-t"});
        const auto places =
            fit::placesOf(stepOf(fit::stepsOf(h, classes()), StepKind::usb_adapter), h).value();
        QCOMPARE(idsOf(places), (std::vector<std::string>{"shelf.usb", "shelf.usb-2"}));
        QCOMPARE(places.element, house::Id("socket"));
        const house::Trial trial = fit::planPlaces(h, places);
        h.connection("socket")->linkedAt = quantity::BitRate::megabits(480);
        const house::House kept = fit::keepPlace(h, trial, "shelf.usb-2").value();
        QVERIFY(kept.connection("socket")->ends[1] == house::PortRef({"shelf", "usb-2"}));
        QVERIFY(!kept.connection("socket")->linkedAt); // it was read at the other one
        QVERIFY(fit::isTrialOf(
            trial,
            fit::placesOf(stepOf(fit::stepsOf(kept, classes()), StepKind::usb_adapter), kept).value()));
        const auto tried = fit::triedPlaces(kept, trial, {});
        QVERIFY(!tried[0].isNow && tried[1].isNow);
    }
    void portsOfASwitchAreTried_data() {
        QTest::addColumn<bool>("isRouter");
        QTest::newRow("switch") << false;
        QTest::newRow("router") << true;
    }
    void portsOfASwitchAreTried() {
        QFETCH(bool, isRouter);
        house::House h = testing::wiredHouse();
        if (isRouter) h.device("switch")->kind = house::DeviceKind::router;
        h.fitting.planned = {"run-2"};
        h.device("switch")->ports.push_back({"p3", "3", house::PortKind::ethernet, "2.5gbase-t"});
        const auto places = fit::placesOf(stepOf(fit::stepsOf(h, classes()), StepKind::lead), h).value();
        QCOMPARE(idsOf(places), (std::vector<std::string>{"switch.p2", "switch.p3"})); // p1 is taken
        QCOMPARE(places.element, house::Id("switch.p2"));
        const house::Trial trial = fit::planPlaces(h, places);
        house::House kept = fit::keepPlace(h, trial, "switch.p3").value();
        QVERIFY(kept.connection("run-2")->ends[0] == house::PortRef({"switch", "p3"}));
        // And back, although the element has another name by now.
        kept = fit::keepPlace(kept, trial, "switch.p2").value();
        QVERIFY(kept.connection("run-2")->ends[0] == house::PortRef({"switch", "p2"}));
    }
    void coaxJacksOfARoomAreTried() {
        house::House h = testing::coaxHouse();
        h.rooms.push_back({"loft", "Loft", 2});
        for (const char* id : {"c1", "c2"})
            h.jacks.push_back({id, id, "loft", house::JackKind::coax});
        h.device("coax-b")->room = "loft";
        h.device("coax-b")->ports[1].jack = "c1";
        h.fitting.planned = {"coax-b"};
        const auto places = fit::placesOf(stepOf(fit::stepsOf(h, classes()), StepKind::adapter), h).value();
        QCOMPARE(idsOf(places), (std::vector<std::string>{"c1", "c2"}));
        QCOMPARE(places.kind, std::string("coax jacks"));
        QCOMPARE(places.things, std::string("coax jacks of the Loft"));
        QCOMPARE(fit::keepPlace(h, fit::planPlaces(h, places), "c2").value().device("coax-b")->ports[1].jack,
                 house::Id("c2"));
    }
    void withOnePlaceThereIsNothingToTry() {
        house::House h = testing::mainsRooms();
        std::erase_if(h.jacks, [](const house::Jack& j) { return j.room == "loft" && j.id != "o0-4"; });
        for (house::Circuit& c : h.circuits)
            std::erase_if(c.outlets, [&](const auto& o) { return h.jack(o.jack) == nullptr; });
        QVERIFY(!fit::placesOf(stepOf(fit::stepsOf(h, classes()), StepKind::outlets, "mains-b"), h));
        // Nor where no route passes it.
        h = testing::mainsRooms();
        h.routes.clear();
        QVERIFY(!fit::placesOf(stepOf(fit::stepsOf(h, classes()), StepKind::outlets, "mains-b"), h));
    }
    void whatDoesNotFitIsNotPluggedIn() {
        const house::House h = testing::mainsRooms();
        for (const auto& [element, place] :
             {std::pair("mains", "o4-0"), std::pair("mains", "nowhere"), std::pair("nothing", "o0-5"),
              std::pair("lead-a", "desk.nowhere"), std::pair("lead-a", "mains-a.plug")}) {
            const auto moved = house::pluggedAt(h, element, place);
            if (std::string(place) == "o4-0") // another outlet of the hall: that is the first adapter's
                QCOMPARE(moved.value().device("mains-a")->ports[1].jack, house::Id("o4-0"));
            else
                QVERIFY2(!moved, place);
        }
        QVERIFY(house::portOfPlace("desk.lan") == house::PortRef({"desk", "lan"}));
        QVERIFY(house::portOfPlace("o0-4") == house::PortRef({"o0-4", ""}));
        QVERIFY(house::portOfPlace("a.b.c") == house::PortRef({"a", "b.c"}));
        // What stays where it is keeps what was noted of its strip.
        house::House stripped = h;
        stripped.device("mains-b")->ports[1].strip = house::Strip::plain;
        QVERIFY(house::pluggedAt(stripped, "mains", "o0-4").value() == stripped);
        QCOMPARE(house::labelOfPlace(h, "desk.lan"), std::string("Desk computer, LAN"));
        QCOMPARE(house::labelOfPlace(h, "o0-4"), std::string("outlet"));
    }
};

QTEST_APPLESS_MAIN(TestPlaceTrial)
#include "test_place_trial.moc"
