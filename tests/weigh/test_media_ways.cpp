// Ways over mains and coax: what faults leave of them, families that disturb one another, adapters that are
// built in, and the steadiness and delay of a way. Shares from mains.json and faults.json.
#include "house/validate.h"
#include "support/planned.h"
#include "weigh/demand.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::weigh;
using namespace metrodos::testing;

namespace {

// A call in the room, and an outlet there and in the hall, on one ring.
house::House mainsHouse() {
    house::House h = servedHouse(900, 300, 1, "call");
    addRing(h);
    return h;
}

// The same with two adapters of class 2000 that join the machine, and the route "way" over them.
house::House joinedOverMains() {
    house::House h = mainsHouse();
    h.connections.clear();
    h.spots[0].pin = "mains:mains-2000";
    house::House out = applyPlan(h, classes(), optionsFor(h), planFor(h)).value().house;
    if (out.routes.size() != 1) qFatal("no route");
    out.routes[0].id = "way";
    out.trials.clear();
    out.spots[0].pin.clear();
    return out;
}

// A jack in the hall and in the first room, and 12 m of coax between them.
void joinByCoax(house::House& h) {
    h.jacks = {{"hall-coax", "Hall coax", "hall", house::JackKind::coax},
               {"room-coax", "Room coax", "room-1", house::JackKind::coax}};
    house::Connection run;
    run.id = run.label = "run";
    run.medium = house::Medium::coax;
    run.length = quantity::Length::metres(12);
    run.ends = {{"hall-coax", ""}, {"room-coax", ""}};
    h.connections.push_back(run);
}

} // namespace

class TestMediaWays : public QObject {
    Q_OBJECT

  private slots:
    // What may be wrong with the mains between two outlets leaves the shares of faults.json of what they
    // carry, as often as it says.
    void faultsLeaveTheirShareAsOftenAsTheCatalogSays() {
        const house::House h = mainsHouse();
        const Options options = optionsFor(h);
        const SpotWay* way = &wayOf(options, "mains:mains-1200");
        const auto mains = std::find_if(way->passages.begin(), way->passages.end(),
                                        [](const Passage& p) { return p.resource == "mains" && p.down; });
        QVERIFY(mains != way->passages.end());
        QCOMPARE(mains->risks.size(), std::size_t(1));
        // A strip is one in ten; where the survey says that both are in the wall, a fifth of that, and a half
        // of the appliances' and the other adapter's 0.1, 0.04 and 0.04 is less than 0.9 of it.
        double chance = 0;
        for (const Risk::Outcome& outcome : mains->risks[0].outcomes) {
            chance += outcome.chance;
            for (std::size_t i = 1; i < outcome.carries.size(); ++i)
                QVERIFY(outcome.carries[i] >= outcome.carries[i - 1]);
        }
        QVERIFY2(isNear(chance, 0.02 + 0.1 + 0.04 + 0.04 + 0.002, 0.001),
                 qPrintable(QString::number(chance)));
        const double middle = mains->rate.quantile(0.5);
        int worse = 0;
        constexpr int houses = 4000;
        for (std::uint64_t n = 0; n < houses; ++n)
            if (leftBy(mains->risks, n) < middle * 0.9) ++worse;
        // Half of the one-way faults are of the other way: 0.05 of the appliance's do not count.
        QVERIFY2(isNear(worse / static_cast<double>(houses), 0.152, 0.12),
                 qPrintable(QString::number(worse)));
        // A port of 1 Gbit/s is slower than written down in six of a hundred, and then it is one of 100
        // Mbit/s.
        bool seen = false;
        for (const Passage& p : way->passages)
            for (const Risk& risk : p.risks)
                if (risk.thing.ends_with("machine-1.lan fault")) {
                    seen = true;
                    QCOMPARE(risk.outcomes.size(), std::size_t(1));
                    QVERIFY(isNear(risk.outcomes[0].chance, 0.06, 1e-9));
                    QVERIFY(isNear(risk.outcomes[0].carries[0], 94.148e6, 1e-3));
                }
        QVERIFY(seen);
        // A need that is nearly what it carries suffers, and none that takes a tenth.
        const auto shares = [&](double mbps) {
            house::House needs = h;
            needs.spots[0].uses.clear();
            needs.spots[0].needDown = BitRate::megabits(mbps);
            needs.spots[0].needUp = BitRate::megabits(1);
            needs.spots[0].pin = "mains:mains-1200";
            const Plan plan = planFor(needs);
            return std::pair(plan.soundShare, plan.carriedShare);
        };
        const auto [sound, found] = shares(0.6 * middle / 1e6);
        QVERIFY(sound > 0.9);
        QVERIFY2(found > sound - 0.35 && found < sound - 0.08, qPrintable(QString::number(found)));
        const auto [easy, stillFound] = shares(2);
        QVERIFY(stillFound > easy - 0.1);
    }
    // Two families on one wiring do not hear each other and disturb one another: 0.65 is left (mains.json).
    void twoFamiliesOnTheMainsDisturbEachOther() {
        house::House h = joinedOverMains();
        const auto mains = [](const house::House& in, const house::Id& route) {
            const auto prediction = capacity::predict(in, classes(), *in.route(route)).value();
            for (const auto& e : prediction.elements)
                if (e.element.kind == house::ElementKind::mains) return e.forward.p50.bps();
            qFatal("no mains");
        };
        const double alone = mains(h, "way");
        house::House both = h;
        both.devices.push_back(
            {"other", "other adapter", house::DeviceKind::adapter, "mains-ghn-1200", "hall", {}});
        QVERIFY(isNear(mains(both, "way") / alone, 0.65, 0.001));
        // A way of the same family that is still to be laid is disturbed as well, one of the other is not.
        house::House bare = mainsHouse();
        const auto rate = [&](const std::string& key) { return wayOf(optionsFor(bare), key).down.p50.bps(); };
        const double usual = rate("mains:mains-2000");
        const double other = rate("mains:mains-ghn-2400");
        bare.devices.push_back(
            {"other", "other adapter", house::DeviceKind::adapter, "mains-ghn-1200", "hall", {}});
        QVERIFY(isNear(rate("mains:mains-2000") / usual, 0.65, 0.01));
        QVERIFY(isNear(rate("mains:mains-ghn-2400") / other, 1, 0.01));
        // Two adapters that speak differently do not link at all.
        for (house::Device& d : h.devices)
            if (d.kind == house::DeviceKind::adapter && d.room == "hall") d.deviceClass = "mains-ghn-2400";
        QVERIFY(mains(h, "way") < 10);
    }
    // A plan with both on one wiring leaves 0.35 of its time to nobody.
    void aPlanKnowsThatTwoFamiliesDisturbEachOther() {
        house::House h = servedHouse(900, 300, 2, "call");
        h.panels = mainsHouse().panels;
        h.jacks = mainsHouse().jacks;
        h.circuits = mainsHouse().circuits;
        h.jacks.push_back({"other-outlet", "Other outlet", "room-2", house::JackKind::mains});
        h.circuits[0].outlets.push_back({"other-outlet", quantity::Length::metres(5)});
        h.spots[0].pin = "mains:mains-2000";
        h.spots[1].pin = "mains:mains-2000";
        const auto fed = [&] {
            const Options options = optionsFor(h);
            const Plan plan = planFor(h);
            std::vector<Pick> picks;
            double needs = 0;
            const auto demands = demandsOf(options);
            for (std::size_t i = 0; i < plan.spots.size(); ++i) {
                picks.push_back({plan.spots[i].way, true});
                for (const Passage& p : options.spots[i].way(plan.spots[i].way).passages)
                    if (p.resource == "mains") needs += demands[i].atOnce.of(p.down) / p.rate.quantile(0.1);
            }
            return loadsOf(options, demands, picks).fed.at("mains") - needs;
        };
        QVERIFY(std::fabs(fed()) < 1e-9);
        h.spots[1].pin = "mains:mains-ghn-2400";
        QVERIFY(std::fabs(fed() - 0.35) < 1e-9);
    }
    // A box with an adapter inside saves the one at the hub, its lead and its port.
    void anAdapterThatIsBuiltInSavesOneEnd() {
        house::House h = servedHouse(900, 300, 1, "6 4K streams");
        h.connections.clear();
        h.spots[0].pin = "coax:coax-1000";
        joinByCoax(h);
        QCOMPARE(count(planFor(h), "coax-1000"), 2.0);
        house::Device& router = h.devices.front();
        router.deviceClass = "router-1g-coax-1000";
        // Without a port for the coax nobody has found it yet.
        QCOMPARE(count(planFor(h), "coax-1000"), 2.0);
        router.ports.push_back({"line", "line", house::PortKind::coax, "", "hall-coax"});
        const Plan plan = planFor(h);
        QCOMPARE(count(plan, "coax-1000"), 1.0);
        QCOMPARE(count(plan, "patch-lead"), 1.0);
        const AppliedPlan made = applyPlan(h, classes(), optionsFor(h), plan).value();
        QVERIFY(house::validate(made.house).empty());
        QCOMPARE(std::count_if(made.house.devices.begin(), made.house.devices.end(),
                               [](const auto& d) { return d.kind == house::DeviceKind::adapter; }),
                 std::ptrdiff_t(1));
        const auto prediction =
            capacity::predict(made.house, classes(), *made.house.route(made.routes.at(0))).value();
        QVERIFY(prediction.forward.p50.inMegabits() > 800);
        // The faster class inside serves a slower one as well.
        router.deviceClass = "router-2.5g-coax-2500";
        QCOMPARE(count(planFor(h), "coax-1000"), 1.0);
        QCOMPARE(count(planFor(h), "coax-2500"), 0.0);
    }
    // The rate of a medium is that of two nodes: one spot has it whole, only further nodes take of it.
    void oneSpotHasTheMediumWhole() {
        house::House h = servedHouse(2000, 2000, 1, "call");
        h.connections.clear();
        joinByCoax(h);
        h.spots[0].pin = "coax:coax-500";
        const Options options = optionsFor(h);
        const auto& passages = wayOf(options, "coax:coax-500").passages;
        const auto coax = std::find_if(passages.begin(), passages.end(),
                                       [](const Passage& p) { return p.resource == "coax" && p.down; });
        QVERIFY(coax != passages.end() && coax->perNode > 0.01);
        h.spots[0].uses.clear();
        h.spots[0].needDown = BitRate::bitsPerSecond(0.995 * coax->rate.quantile(1 - options.share));
        const Plan plan = planFor(h);
        QVERIFY2(plan.carriesAll, plan.spots[0].limit.c_str());
    }
    // What sends in the band of television is only offered where it is known that there is none, and no
    // filter is bought for it.
    void theOtherFamilyOnCoaxNeedsACoaxOfItsOwn() {
        house::House h = servedHouse(900, 300, 1, "6 4K streams");
        joinByCoax(h);
        const auto isOffered = [&] {
            const Options options = optionsFor(h);
            return std::any_of(options.spots[0].ways.begin(), options.spots[0].ways.end(),
                               [](const SpotWay& w) { return w.deviceClass == "coax-ghn-1700"; });
        };
        QVERIFY(!isOffered());
        h.coaxUse.television = true;
        QVERIFY(!isOffered());
        h.coaxUse.television = false;
        QVERIFY(isOffered());
        // A dish leaves only those.
        h.coaxUse.satellite = true;
        h.spots[0].pin = "coax";
        const Plan plan = planFor(h);
        QVERIFY(plan.spots[0].deviceClass.starts_with("coax-ghn"));
        QCOMPARE(count(plan, "entry-filter"), 0.0);
        QVERIFY(stepsOf(h, plan).find("Part the coax from the street") != std::string::npos);
    }
    void steadinessFollowsFromTheMarginAndNotFromTheName() {
        house::House h = mainsHouse();
        const auto mains = [&](const char* uses) {
            h.spots[0].uses = parseUses(uses, classes(), h).value();
            const Options options = optionsFor(h);
            const SpotWay& way = wayOf(options, "mains:mains-2000");
            return std::pair(way, carriedBy(way, options.spots[0], options));
        };
        // A call takes 4 Mbit/s of some hundred: as steady as its class with margin to spare, and fast enough
        // under load.
        const auto [easy, carries] = mains("call");
        QVERIFY(easy.steadiness > 0.98 && carries >= 1);
        QVERIFY(easy.loadedUs > easy.rttUs.p90);
        // Near what it carries it is not.
        const auto [tight, unused] = mains("60 calls");
        QVERIFY(tight.steadiness < 0.9);
        // A need for 10 ms is held against the delay under load, which is above it.
        h.spots[0].needDelay = std::chrono::microseconds(10'000);
        QVERIFY(easy.rttUs.p90 < 10'000 && easy.loadedUs > 10'000);
        QVERIFY(mains("call").second < 1);
        // Buffered video does not feel drop-outs.
        h.spots[0].needDelay.reset();
        QVERIFY(needOf(h, h.spots[0], classes()).steady);
        h.spots[0].uses = parseUses("2 4K streams", classes(), h).value();
        QVERIFY(!needOf(h, h.spots[0], classes()).steady);
    }
    // A house whose study has adapters on the mains already, and how steady that way is by its own watches.
    void steadinessIsThatOfTheWatchesWhereThereAreSome() {
        const house::House h = joinedOverMains();
        const auto stands = [&](const std::vector<benchmark::WatchReport>& watches,
                                const benchmark::RouteRuns& runs = {}) {
            return wayOf(optionsOf(h, classes(), runs, watches).value(), "as-is");
        };
        const SpotWay byClass = stands({});
        QVERIFY(isNear(byClass.steadiness, 0.995, 0.002));
        QCOMPARE(byClass.watchedSeconds(), 0.0);
        // A low-rate stream for 9 h with 6 min of drop-outs: with one hour at the class's 0.995 that is
        // (0.995 · 3600 + 32040) / 36000 = 0.9895.
        benchmark::WatchReport watch;
        watch.head.route = "way";
        watch.config.protocol = benchmark::Protocol::udp;
        watch.config.rate = BitRate::megabits(2);
        watch.measuredSeconds = 9 * 3600;
        watch.dropOutSeconds = 360;
        const SpotWay watched = stands({watch});
        QVERIFY(isNear(watched.steadiness, 0.9895, 0.002));
        QCOMPARE(watched.watchedSeconds(), 9 * 3600.0);
        QVERIFY(!watched.measuredLoadedUs); // nothing filled the way
        // A week without any makes mains as steady as a wire.
        watch.measuredSeconds = 7 * 86400;
        watch.dropOutSeconds = 0;
        QVERIFY(stands({watch}).steadiness > 0.9999);
        // The worse direction counts.
        benchmark::WatchReport back = watch;
        back.config.direction = benchmark::Direction::backward;
        back.dropOutSeconds = 60480; // a tenth
        QVERIFY(isNear(stands({watch, back}).steadiness, 0.9, 0.002));
        // Of another route, or of a job that does not know which: nothing.
        watch.head.route = "elsewhere";
        QCOMPARE(stands({watch}).steadiness, byClass.steadiness);
        // One that filled the way knows its rate: with ln(40 / 20) / 1.2816 = 0.541 of spread, 4 of 40 Mbit/s
        // are 4.26 spreads away, 30 are 0.53: Φ(−0.53) = 0.298 of the time is below.
        watch.head.route = "way";
        watch.config = {};
        watch.goodputP10 = BitRate::megabits(20);
        watch.goodputP50 = BitRate::megabits(40);
        watch.goodputP90 = BitRate::megabits(50);
        watch.rttUs = benchmark::Percentiles{6000, 21000, {}, {}};
        const SpotWay filled = stands({watch});
        QVERIFY(filled.steadiness > 0.999);
        QCOMPARE(filled.delayUs(), 21000.0);
        house::House more = h;
        more.spots[0].uses.clear();
        more.spots[0].needDown = BitRate::megabits(30);
        const Options filling = optionsOf(more, classes(), {}, {watch}).value();
        QVERIFY(isNear(wayOf(filling, "as-is").steadiness, 1 - 0.298, 0.01));
        // One that never wavers is steady; whether it is enough is said by its rate.
        watch.goodputP10 = watch.goodputP50 = watch.goodputP90 = BitRate::megabits(20);
        QVERIFY(wayOf(optionsOf(more, classes(), {}, {watch}).value(), "as-is").steadiness > 0.98);
    }
    // The delay under load of the job's own runs goes before that of the class.
    void aNeedForDelayIsHeldAgainstTheRunsUnderLoad() {
        house::House h = joinedOverMains();
        h.spots[0].needDelay = std::chrono::microseconds(40'000);
        const auto loaded = [](double us) {
            benchmark::Run run;
            run.seconds = 10;
            run.goodput = BitRate::megabits(60);
            run.config.streams = 4;
            run.rttLoadedUs = benchmark::Percentiles{us / 2, us, {}, {}};
            return benchmark::RouteRun{"way", run};
        };
        const auto carried = [&](double us) {
            const Options options = optionsOf(h, classes(), {loaded(us)}).value();
            const SpotWay& way = wayOf(options, "as-is");
            return std::pair(carriedBy(way, options.spots[0], options), way.delayUs());
        };
        QVERIFY(carried(30'000).first >= 1);
        QCOMPARE(carried(30'000).second, 30'000.0);
        QVERIFY(carried(50'000).first < 1);
        // Of several runs the middle one.
        const Options several =
            optionsOf(h, classes(), {loaded(10'000), loaded(60'000), loaded(20'000)}).value();
        QCOMPARE(wayOf(several, "as-is").delayUs(), 20'000.0);
    }
};

QTEST_GUILESS_MAIN(TestMediaWays)
#include "test_media_ways.moc"
