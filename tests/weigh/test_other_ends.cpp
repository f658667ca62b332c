// What the spots need, and what the service, the hub and the other ends bring. Sums by hand from
// planning.json: a 4K stream is 30 Mbit/s there and 0.2 back, editing 800 and 400, an access point of class
// 1200 is 500 and 250; 1 Gbit/s carries 941.5 Mbit/s (IEEE 802.3, MTU 1500, IPv4, timestamps).
#include "house/validate.h"
#include "job/document.h"
#include "job/house_json.h"
#include "support/classes.h"
#include "support/planned.h"
#include "weigh/demand.h"
#include "weigh/need.h"
#include "weigh/weigh_json.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::weigh;
using namespace metrodos::testing;
using testing::classes;

namespace {

Need needOf(const std::string& text) {
    house::Spot spot;
    spot.uses = parseUses(text, classes()).value();
    return weigh::needOf({}, spot, classes());
}

} // namespace

class TestOtherEnds : public QObject {
    Q_OBJECT

  private slots:
    // 3 × 2 × 30 = 180 Mbit/s of 20.
    void noPlanCarriesMoreThanTheServiceBrings() {
        const house::House h = servedHouse(20, 20, 3, "2 4K streams");
        const Plan plan = planFor(h);
        QVERIFY(!plan.carriesAll);
        QVERIFY(plan.wiringCarriesAll);
        QCOMPARE(plan.limits.size(), std::size_t(1));
        const Limit& limit = plan.limits.front();
        QCOMPARE(limit.element, std::string("service"));
        QVERIFY(limit.down);
        QVERIFY(isNear(limit.need.inMegabits(), 180) && isNear(limit.carries.inMegabits(), 20));
        QVERIFY(notes(plan,
                      "The service is the limit: 180 Mbit/s are wanted from the service at once, it brings "
                      "20.0 Mbit/s"));
        QVERIFY(notes(plan, "The wiring of this plan carries all that the service can give"));
        QCOMPARE(plan.carriedShare, 0.0);
        for (const SpotResult& spot : plan.spots) {
            QVERIFY(spot.carried && !spot.isFed && !spot.isMet());
            QVERIFY(isNear(spot.headroom, 20.0 / 180));
            QVERIFY(isNear(spot.houseHeadroom, 941.5 / 60)); // the wires could carry 60 Mbit/s fifteen times
        }
        // With 200 Mbit/s sold everything is carried, and nothing is said of the service.
        const Plan enough = planFor(servedHouse(200, 20, 3, "2 4K streams"));
        QVERIFY(enough.carriesAll && enough.limits.empty());
        QVERIFY(isNear(enough.spots[0].headroom, 200.0 / 180));
        QVERIFY(!notes(enough, "service"));
    }
    void theUpstreamIsALimitOfItsOwn() {
        // Three calls take 12 Mbit/s each way.
        const Plan plan = planFor(servedHouse(500, 10, 3, "call"));
        QCOMPARE(plan.limits.size(), std::size_t(1));
        QVERIFY(!plan.limits[0].down);
        QVERIFY(isNear(plan.limits[0].need.inMegabits(), 12) &&
                isNear(plan.limits[0].carries.inMegabits(), 10));
    }
    // Half of 3 × 800 at once is 1200 Mbit/s over one port of 941.5.
    void aStoreOnOnePortIsTheLimitOfItsEditors() {
        house::House h = servedHouse(500, 100, 3);
        addStore(h);
        for (house::Spot& spot : h.spots)
            spot.uses = parseUses("editing from Store", classes(), h).value();
        QCOMPARE(h.spots[0].uses[0].peer, std::string("store"));
        const Options options = optionsFor(h);
        QCOMPARE(options.spots.size(), std::size_t(4));
        const SpotOptions& store = options.spots.back();
        QVERIFY(store.isPeer && store.spot == "store");
        QVERIFY(isNear(store.need.up.inMegabits(), 1200) && isNear(store.need.down.inMegabits(), 600));
        // As it is nothing carries them.
        QVERIFY(isNear(carriedBy(wayOf(options, "as-is", 3), store, options), 941.5 / 1200));
        // What lifts it is a part of the plan: a faster port at the store, and one for it at the hub.
        const Plan plan = planFor(h);
        QVERIFY(plan.carriesAll);
        QVERIFY(!plan.spots.back().nicClass.empty());
        QCOMPARE(count(plan, plan.spots.back().nicClass), 1.0);
        QVERIFY(count(plan, "switch-2.5g-5") + count(plan, "switch-2.5g-8") + count(plan, "switch-10g-8") >
                0);
        QVERIFY(isNear(plan.spots.back().houseHeadroom, 2353.7 / 1200, 0.1));
        // And it is in the house when the plan is made real: predicted, the store now sends more than 1
        // Gbit/s.
        const AppliedPlan made = applyPlan(h, classes(), options, plan).value();
        QVERIFY(house::validate(made.house).empty());
        QVERIFY(made.house.spots == h.spots);
        QVERIFY2(stepsOf(h, plan).find("Put the network adapter into a fast socket of “Store”") !=
                     std::string::npos,
                 stepsOf(h, plan).c_str());
        // Two editors at a time are half of that, and fit: 2 × 800 ÷ 2.
        h.spots.pop_back();
        QVERIFY(planFor(h).carriesAll);
        QVERIFY(planFor(h).spots.back().nicClass.empty());
    }
    void howMuchGoesOnAtOnceIsTheHousesToSay() {
        house::House h = servedHouse(500, 100, 2);
        addStore(h);
        for (house::Spot& spot : h.spots)
            spot.uses = parseUses("editing", classes(), h).value();
        h.weighing.atOnce = 1;
        QVERIFY(isNear(optionsFor(h).spots.back().need.up.inMegabits(), 1600));
        h.weighing.atOnce = 0;
        // Each by itself must still be possible.
        QVERIFY(isNear(optionsFor(h).spots.back().need.up.inMegabits(), 800));
    }
    // 50 Mbit/s sold, three access points of 500: the radio of the house is enough for that.
    void noMoneyIsSpentOnWhatOnlyTheServiceCouldFill() {
        house::House h = servedHouse(50, 10, 3, "access point 1200");
        const Plan plan = planFor(h);
        QCOMPARE(plan.cost.hundredths, std::int64_t(0));
        QVERIFY(plan.wiringCarriesAll && !plan.carriesAll);
        for (const SpotResult& spot : plan.spots) {
            QCOMPARE(spot.wayId, std::string("as-is"));
            QVERIFY(isNear(spot.headroom, 10.0 / 750));       // back, which is worse than 50 of 1500
            QVERIFY(isNear(spot.houseHeadroom, 941.5 / 500)); // for later
        }
        // Over a way that carries 60 Mbit/s of the 500 as well: it is more than the service brings.
        Options options = optionsFor(h);
        SpotWay slow = options.spots[0].ways.front();
        slow.passages = {
            {"spot-1/down", "a slow way", capacity::Distribution::certain(BitRate::megabits(60)), true, true},
            {"spot-1/up", "a slow way", capacity::Distribution::certain(BitRate::megabits(60)), false, true}};
        slow.wholeDown.reset();
        slow.wholeUp.reset();
        QVERIFY(carriedBy(slow, options.spots[0], options) >= 1);
        // The worse direction decides, whichever it is.
        const Rates wanted = aloneOf(options.spots[0], options);
        for (const bool down : {true, false}) {
            (down ? slow.wholeDown : slow.wholeUp) =
                capacity::Distribution::certain(BitRate::bitsPerSecond(wanted.of(down) / 2));
            (down ? slow.wholeUp : slow.wholeDown) =
                capacity::Distribution::certain(BitRate::bitsPerSecond(wanted.of(!down) * 2));
            QVERIFY(isNear(carriedBy(slow, options.spots[0], options), 0.5));
        }
    }
    // 500 Mbit/s over a port of 1 Gbit/s at the hub can grow 1.88 times, whatever the cable could.
    void headroomEndsAtThePortOfTheHub() {
        house::House h = servedHouse(5000, 5000, 1);
        h.devices[1].ports[0].phy = "10gbase-t";
        h.spots[0].needDown = BitRate::megabits(500);
        const Plan plan = planFor(h);
        QVERIFY(isNear(plan.spots[0].houseHeadroom, 1.883));
        QVERIFY(isNear(plan.headroom, 1.883));
        // The same over a new run, which reaches 10 Gbit/s.
        h.spots[0].pin = "new-hired";
        const Plan hired = planFor(h);
        QVERIFY(isNear(hired.spots[0].houseHeadroom, 1.883));
        QCOMPARE(hired.spots[0].limit, std::string("the port at the hub"));
        // The goal of most headroom looks at the same: it buys a faster switch for it.
        const Plan fast = planFor(h, Objective::fastest);
        QVERIFY(fast.headroom <= 1.9); // its uplink is the router's port all the same
    }
    void mostHeadroomIsNeverLessThanTheCheapest() {
        for (const int rooms : {1, 2, 3}) {
            house::House h = servedHouse(800, 200, rooms, "access point 1200 + game console");
            const Plan cheap = planFor(h);
            const Plan fast = planFor(h, Objective::fastest);
            QVERIFY(fast.headroom >= cheap.headroom * (1 - 1e-6));
            QVERIFY(std::fabs(fast.headroom * fast.load - 1) < 1e-6);
        }
    }
    void thePlansShareIsNeverAboveTheLeastOfItsSpots() {
        house::House h = servedHouse(900, 300, 3, "access point 1200");
        // All over one coax tree whose splitter nobody knows.
        h.connections.clear();
        h.coaxParts = {{"split", "Splitter", house::CoaxPartKind::splitter, "hall", 4, {}, {}, {}}};
        const auto join = [&](const std::string& jack, const std::string& room, const std::string& port) {
            h.jacks.push_back({jack, jack, room, house::JackKind::coax});
            house::Connection run;
            run.id = jack + "-run";
            run.label = run.id;
            run.medium = house::Medium::coax;
            run.length = quantity::Length::metres(50); // of a cable that nobody knows: it may do or not
            run.ends = {{"split", port}, {jack, ""}};
            h.connections.push_back(run);
        };
        join("hall-coax", "hall", "out-1");
        for (int i = 1; i <= 3; ++i) {
            join("coax-" + std::to_string(i), "room-" + std::to_string(i), "out-" + std::to_string(i + 1));
            h.spots[static_cast<std::size_t>(i) - 1].pin = "coax:coax-1000";
            h.spots[static_cast<std::size_t>(i) - 1].uses = parseUses("6 4K streams", classes(), h).value();
        }
        const Plan plan = planFor(h);
        double least = 1;
        double product = 1;
        for (const SpotResult& spot : plan.spots) {
            QVERIFY(spot.carriedShare > 0);
            least = std::min(least, spot.carriedShare);
            product *= spot.carriedShare;
        }
        QVERIFY(plan.carriedShare <= least);
        // They share the splitter, the run to the hall and the class of adapter: where one fails the others
        // do.
        QVERIFY(least < 1);
        QVERIFY(plan.carriedShare > product);
        // Four nodes take two shares of 0.015 more of the time than two (coax.json), and the three rooms what
        // they need.
        const Options options = optionsFor(h);
        const auto demands = demandsOf(options);
        std::vector<Pick> picks;
        double needs = 0;
        for (std::size_t i = 0; i < plan.spots.size(); ++i) {
            picks.push_back({plan.spots[i].way, true});
            for (const Passage& p : options.spots[i].way(plan.spots[i].way).passages)
                if (p.resource == "coax") needs += demands[i].atOnce.of(p.down) / p.rate.quantile(0.1);
        }
        QVERIFY(isNear(loadsOf(options, demands, picks).fed.at("coax"), needs + 0.03, 1e-9));
        picks.resize(1);
        QVERIFY(loadsOf(options, demands, picks).fed.at("coax") < needs / 2);
    }
    void theOtherEndIsKeptAndSaidInJson() {
        house::House h = servedHouse(100, 20, 1);
        addStore(h);
        h.spots[0].uses = parseUses("backup 1 TB in 4 h to Store + call", classes(), h).value();
        h.spots[0].peer = "store";
        const auto back = job::houseFromJson(job::toJson(h));
        QVERIFY(back.has_value());
        QVERIFY(*back == h);
        const Options options = optionsFor(h);
        const auto weighed = weigh::weigh(options, prices(), Objective::cheapest).value();
        const auto document = toJson(options, prices(), weighed, Objective::cheapest);
        const auto& traffic = document.at("spots").at(0).at("traffic");
        QCOMPARE(traffic.at(0).at("peer").get<std::string>(), std::string("store"));
        QCOMPARE(traffic.at(1).at("peer").get<std::string>(), std::string("service"));
        const auto& plan = document.at("plans").at(0);
        QCOMPARE(plan.at("spots").size(), std::size_t(1));
        QCOMPARE(plan.at("peers").size(), std::size_t(1));
        QVERIFY(plan.at("sound_share").get<double>() > 0.9);
        // What is found wrong now and then in such houses takes its part of it.
        const double found = plan.at("carried_share").get<double>();
        QVERIFY2(found > 0.6 && found < plan.at("sound_share").get<double>(),
                 qPrintable(QString::number(found)));
        QVERIFY(plan.at("limits").empty());
        // A device that is gone is no other end any more.
        h.spots[0].uses[0].peer = "nowhere";
        QVERIFY(!house::validate(h).empty());
    }
    void theOtherEndIsWrittenInWords() {
        house::House h = servedHouse(100, 20, 2);
        addStore(h);
        h.devices[1].label = "Desk to wall";
        h.devices[2].label = "one + two";
        for (const char* text :
             {"editing from Store", "editing from the service", "backup 400 GB in 3 h to Desk to wall",
              "editing from the store + 2 calls", "editing 300M from store", "call from machine-2"}) {
            const auto uses = parseUses(text, classes(), h);
            QVERIFY2(uses.has_value(), text);
            const std::string again = usesText(*uses, classes(), h);
            const auto back = parseUses(again, classes(), h);
            QVERIFY2(back && *back == *uses, again.c_str());
        }
        // By its label where that says it, else by its id.
        const auto written = [&](const char* text) {
            return usesText(parseUses(text, classes(), h).value(), classes(), h);
        };
        QVERIFY(written("editing from store").ends_with(" from Store"));
        QVERIFY(written(("editing from " + h.devices[2].id).c_str()).ends_with(" from " + h.devices[2].id));
        QCOMPARE(parseUses("editing from the store", classes(), h)->at(0).peer, std::string());
        QCOMPARE(parseUses("editing from the internet", classes(), h)->at(0).peer, std::string("service"));
        const auto unknown = parseUses("editing from Nowhere", classes(), h);
        QVERIFY(!unknown && unknown.error().sentence().find("“Nowhere”") != std::string::npos);
        h.devices[1].label = "Store";
        const auto twice = parseUses("editing from Store", classes(), h);
        QVERIFY(!twice && twice.error().sentence().find("several") != std::string::npos);
    }
    void anEntryFilterIsBoughtOnlyWhereItBelongs() {
        house::House h = servedHouse(900, 300, 1, "4K stream");
        h.spots[0].pin = "coax:coax-1000";
        h.coaxParts = {{"entry", "Entry", house::CoaxPartKind::entry, "hall", 2, {}, {}, {}},
                       {"split", "Splitter", house::CoaxPartKind::splitter, "hall", 2, true, {}, {}}};
        h.jacks = {{"hall-coax", "Hall coax", "hall", house::JackKind::coax},
                   {"room-coax", "Room coax", "room-1", house::JackKind::coax}};
        const auto run = [&](const char* id, const house::PortRef& a, const house::PortRef& b) {
            house::Connection c;
            c.id = c.label = id;
            c.medium = house::Medium::coax;
            c.ends = {a, b};
            h.connections.push_back(c);
        };
        run("feed", {"entry", "out"}, {"split", "in"});
        run("to-hall", {"split", "out-1"}, {"hall-coax", ""});
        run("to-room", {"split", "out-2"}, {"room-coax", ""});
        Plan plan = planFor(h);
        QCOMPARE(plan.spots[0].wayId, std::string("coax"));
        QCOMPARE(count(plan, "entry-filter"), 1.0);
        QVERIFY(stepsOf(h, plan).find("Fit the entry filter where the coax enters") != std::string::npos);
        // 1218 MHz would be cut off at 1002: the modem comes first.
        h.coaxUse.cableInternetTop = quantity::Frequency::megahertz(1218);
        plan = planFor(h);
        QCOMPARE(count(plan, "entry-filter"), 1.0);
        QCOMPARE(count(plan, "splitter"), 1.0);
        QVERIFY(notes(plan, "the modem is split off first"));
        QVERIFY(stepsOf(h, plan).find("Split the cable modem off first") != std::string::npos);
        QVERIFY(stepsOf(h, plan).find("where the coax enters") == std::string::npos);
        h.coaxUse.cableInternetTop = quantity::Frequency::megahertz(862);
        QCOMPARE(count(planFor(h), "splitter"), 0.0);
        // None is bought where the tree has one.
        h.coaxParts.push_back({"filter", "Filter", house::CoaxPartKind::filter, "hall", 2, {}, {}, {}});
        plan = planFor(h);
        QCOMPARE(count(plan, "entry-filter"), 0.0);
        QVERIFY(stepsOf(h, plan).find("Fit the entry filter") == std::string::npos);
        QVERIFY(stepsOf(h, plan).find("a second one is not needed") != std::string::npos);
    }
    void theServicesOwnPortIsALimitAsWell() {
        house::House h = servedHouse(2000, 1000, 2, "access point 1200");
        h.weighing.atOnce = 1;
        h.service->uplink = "1000base-t"; // 941.5 of what two access points want, 1000
        const Plan plan = planFor(h);
        QCOMPARE(plan.limits.size(), std::size_t(1));
        QVERIFY(isNear(plan.limits[0].need.inMegabits(), 1000) &&
                isNear(plan.limits[0].carries.inMegabits(), 941.5));
        QVERIFY(plan.limits[0].because.find("port of its box") != std::string::npos);
        h.service->uplink = "2.5gbase-t";
        QVERIFY(planFor(h).limits.empty());
        const auto back = job::houseFromJson(job::toJson(h));
        QVERIFY(back && *back == h);
    }
    void figuresComeFromTheServiceUnlessSaidOtherwise() {
        house::House h = servedHouse(100, 20, 2);
        h.spots[0].needDown = BitRate::megabits(300);
        const Plan plan = planFor(h);
        QVERIFY(!plan.carriesAll && plan.limits[0].element == "service");
        h.spots[0].peer = "machine-2";
        QVERIFY(planFor(h).carriesAll);
        h.spots[0].peer.clear();
        h.service.reset();
        QVERIFY(planFor(h).carriesAll);
    }
    void usesAddUp() {
        const Need one = needOf("4K stream");
        const Need all = needOf("2 4K streams + 8 calls");
        QVERIFY(!one.steady); // video has seconds in hand
        QVERIFY(all.steady);
        QCOMPARE(all.down.bps(), 2 * one.down.bps() + 8 * needOf("call").down.bps());
        QCOMPARE(all.up.bps(), 2 * one.up.bps() + 8 * needOf("call").up.bps());
        QVERIFY(all.delay == needOf("call").delay); // the strictest
        QCOMPARE(all.because.size(), std::size_t(2));
        QVERIFY(!needOf("").any());
        QVERIFY(!needOf("").steady);
    }
    void anAmountInATimeIsARate() {
        // 400 GB in 3 h = 3.2e12 bit / 10800 s
        const Need need = needOf("backup 400 GB in 3 h");
        QVERIFY(std::fabs(need.up.bps() / (400e9 * 8 / 10800) - 1) < 1e-9);
        QVERIFY(need.down.bps() < need.up.bps() / 5);
        QVERIFY(std::fabs(needOf("restore 400 GB in 3 h").down.bps() / need.up.bps() - 1) < 1e-9);
        QVERIFY(std::fabs(needOf("backup 1.5 TB in 90 min").up.bps() / (1.5e12 * 8 / 5400) - 1) < 1e-9);
    }
    void aFigureOfItsOwnGoesBeforeTheClass() {
        QCOMPARE(needOf("raw camera 900M").up.bps(), 900e6);
        QCOMPARE(needOf("3 cameras 12M").up.bps(), 36e6);
        house::Spot spot;
        spot.uses = parseUses("8 calls", classes()).value();
        spot.needDown = BitRate::megabits(500);
        spot.needSteady = false;
        spot.needDelay = std::chrono::microseconds(900);
        const Need need = weigh::needOf({}, spot, classes());
        QCOMPARE(need.down.bps(), 500e6);
        QCOMPARE(need.up.bps(), needOf("8 calls").up.bps());
        QVERIFY(!need.steady);
        QVERIFY(need.delay == std::chrono::microseconds(900));
    }
    void whatIsWrittenIsReadAgain() {
        for (const char* text :
             {"2 4K streams + 8 calls", "backup 400 GB in 3 h", "access point 2400", "raw camera 1.8 Gbit/s",
              "editing from the store + game console", "12 small devices, printer; browsing and mail"}) {
            const auto uses = parseUses(text, classes()).value();
            QVERIFY2(!uses.empty(), text);
            const std::string again = usesText(uses, classes());
            QVERIFY2(parseUses(again, classes()).value() == uses, again.c_str());
        }
        QCOMPARE(QString::fromStdString(usesText(parseUses("8 CALLS", classes()).value(), classes())),
                 QStringLiteral("8 calls"));
    }
    void everyClassCanBeWritten() {
        for (const catalog::UseClass& cls : classes().planning.uses)
            for (const std::string& word : cls.words) {
                const auto uses = parseUses(word + (cls.volume ? " 10 GB in 1 h" : ""), classes());
                QVERIFY2(uses && uses->size() == 1, word.c_str());
                QCOMPARE(uses->front().useClass, cls.id);
            }
    }
    void whatIsNotUnderstoodIsNamed() {
        for (const char* text : {"a swimming pool", "0 calls", "5000 calls", "backup", "backup 400 GB",
                                 "call 3 apples", "backup 0 GB in 3 h", "2 calls + nonsense"}) {
            const auto uses = parseUses(text, classes());
            QVERIFY2(!uses, text);
            QVERIFY(uses.error().sentence().find("“") != std::string::npos);
        }
        QVERIFY(!parseUses(std::string(3000, 'x'), classes()));
        std::string many = "call";
        for (int i = 0; i < 40; ++i)
            many += " + call";
        QVERIFY(!parseUses(many, classes()));
    }
    void aCommaInANumberIsNoSeparator() {
        QCOMPARE(needOf("raw camera 1,5G").up.bps(), 1.5e9);
        QCOMPARE(parseUses("call, game", classes())->size(), std::size_t(2));
    }
};

QTEST_GUILESS_MAIN(TestOtherEnds)
#include "test_other_ends.moc"
