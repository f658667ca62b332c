// From a surveyed house to plans, and from a plan back to a house: the demo job and houses made for one
// question each.
#include "catalog/check.h"
#include "fit/steps.h"
#include "house/route.h"
#include "house/validate.h"
#include "job/open.h"
#include "job/price_book_csv.h"
#include "standin/simulate.h"
#include "support/classes.h"
#include "support/paths.h"
#include "weigh/apply_plan.h"
#include "weigh/measured.h"
#include "weigh/objectives.h"
#include "weigh/weigh_json.h"

#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>

using namespace metrodos;
using namespace metrodos::weigh;
using testing::classes;

namespace {

house::House demo() {
    return job::readJob(testing::dataPath("demo/quarry-house.json")).value().house;
}

const SpotWay& way(const Options& options, const std::string& spot, const std::string& id) {
    for (const SpotOptions& s : options.spots)
        for (const SpotWay& w : s.ways)
            if (s.spot == spot && w.id == id) return w;
    qFatal("no such way");
}

Plan best(const house::House& h, Objective objective = Objective::cheapest) {
    const auto options = optionsOf(h, classes());
    return planBy(objective, *options, Prices(classes(), {})).value();
}

std::string wayTo(const Plan& plan, const std::string& spot) {
    for (const SpotResult& s : plan.spots)
        if (s.spot == spot) return s.wayId;
    return "";
}

} // namespace

class TestWeighHouse : public QObject {
    Q_OBJECT

  private slots:
    void everySpotHasEveryWayOrAReason() {
        const Options options = optionsOf(demo(), classes()).value();
        // And the camera that the stacking draws from; the workstation is a spot itself.
        QCOMPARE(options.spots.size(), demo().spots.size() + 1);
        QVERIFY(options.spots.back().isPeer && options.spots.back().spot == "dome-camera");
        for (const SpotOptions& spot : options.spots) {
            for (const catalog::WayClass& cls : classes().planning.ways)
                QVERIFY2(std::any_of(spot.ways.begin(), spot.ways.end(),
                                     [&](const SpotWay& w) { return w.id == cls.id; }),
                         cls.id.c_str());
            for (const SpotWay& w : spot.ways) {
                if (!w.isPossible()) continue;
                QVERIFY(!w.passages.empty() && !w.security.empty());
                QVERIFY(w.down.p10 <= w.down.p50 && w.down.p50 <= w.down.p90);
                QVERIFY(w.rttUs.p50 > 0);
            }
        }
        // The machine has a port of 1 Gbit/s; another adapter in a fast socket lets the coax through.
        QVERIFY(std::fabs(way(options, "stacking", "coax").down.p50.inMegabits() / 941.5 - 1) < 0.01);
        for (const SpotOptions& spot : options.spots)
            for (const SpotWay& w : spot.ways)
                if (spot.spot == "stacking" && w.id == "coax" && w.deviceClass == "coax-2500" &&
                    !w.nicClass.empty())
                    QVERIFY(w.down.p50.inMegabits() > 1500);
        QVERIFY(way(options, "stacking", "mains").down.p50.inMegabits() < 300);
        QVERIFY(way(options, "stacking", "fibre").ruledOut.find("same building") != std::string::npos);
    }
    void noFigureIsAboveWhatTheWholeWayCarries() {
        const auto h = demo();
        const Options options = optionsOf(h, classes()).value();
        for (const Objective objective : objectives) {
            const Plan plan = best(h, objective);
            for (std::size_t i = 0; i < plan.spots.size(); ++i) {
                const SpotResult& s = plan.spots[i];
                const SpotWay& w = options.spots[i].way(s.way);
                QVERIFY(s.p10 <= s.p50);
                const auto most = std::max(w.down.p50, w.up.p50);
                QVERIFY2(s.p50.bps() <= most.bps() * 1.0001, (w.label + " " + plan.label).c_str());
            }
        }
    }
    void anotherBuildingTakesFibre() {
        auto h = demo();
        for (house::Room& room : h.rooms)
            if (room.id == "workshop") room.building = "Barn";
        const Options options = optionsOf(h, classes()).value();
        QVERIFY(way(options, "scanning", "fibre").isPossible());
        QVERIFY(way(options, "scanning", "new-own").ruledOut.find("use fibre") != std::string::npos);
    }
    void holesCanBeForbidden() {
        auto h = demo();
        h.weighing.drilling = false;
        const Options options = optionsOf(h, classes()).value();
        QVERIFY(way(options, "stacking", "new-hired").ruledOut.find("holes") != std::string::npos);
        QCOMPARE(best(h, Objective::lasting).holes, 0);
    }
    void aSatelliteDishRulesCoaxOut() {
        auto h = demo();
        h.coaxUse.satellite = true;
        QVERIFY(!way(optionsOf(h, classes()).value(), "stacking", "coax").isPossible());
        QVERIFY(wayTo(best(h), "stacking") != "coax");
    }
    void theDevicesOwnPortLimitsEveryWay() {
        auto h = demo();
        h.device("scanning-table")->ports = {{"lan", "LAN", house::PortKind::ethernet, "100base-tx"}};
        for (house::Spot& spot : h.spots)
            if (spot.id == "scanning") spot.needUp = quantity::BitRate::megabits(300);
        const Plan plan = best(h);
        QVERIFY(!plan.carriesAll);
        for (const SpotResult& s : plan.spots)
            if (s.spot == "scanning")
                QVERIFY2(s.limit.find("Scanning table") != std::string::npos, s.limit.c_str());
    }
    void whatStandsThereAlreadyCostsNothing() {
        const auto h = demo();
        const Options options = optionsOf(h, classes()).value();
        for (const PartUse& part : way(options, "stacking", "coax").parts)
            QVERIFY(part.item != "coax-2500");
        auto bare = h;
        std::erase_if(bare.devices, [](const house::Device& d) { return d.deviceClass == "coax-2500"; });
        std::erase_if(bare.connections, [&](const house::Connection& c) {
            return std::any_of(c.ends.begin(), c.ends.end(), [&](const house::PortRef& e) {
                return !e.port.empty() && bare.device(e.device) == nullptr &&
                       bare.coaxPart(e.device) == nullptr;
            });
        });
        int adapters = 0;
        const Options without = optionsOf(bare, classes()).value();
        for (const PartUse& part : way(without, "stacking", "coax").parts)
            adapters += part.item == "coax-2500" ? 1 : 0;
        QCOMPARE(adapters, 1);
        QVERIFY(way(without, "stacking", "coax").hubBox == std::vector<std::string>{"coax-2500"});
        QVERIFY(way(options, "stacking", "coax").hubBox.empty());
    }
    void whatIsJoinedTakesNoPortMore() {
        const auto leadsAtHub = [](const SpotWay& w) {
            return std::count_if(w.parts.begin(), w.parts.end(), [](const PartUse& p) {
                return p.item == "patch-lead" && !p.shared.empty();
            });
        };
        auto h = demo();
        const SpotWay joined = way(optionsOf(h, classes()).value(), "stacking", "coax");
        QVERIFY(!joined.takesPort);
        QCOMPARE(leadsAtHub(joined), 0);
        // What it is joined by is what it carries.
        const auto lead = std::find_if(joined.passages.begin(), joined.passages.end(),
                                       [](const Passage& p) { return p.label == "the port at the hub"; });
        QVERIFY(lead != joined.passages.end());
        QVERIFY(std::fabs(lead->rate.quantile(0.5) / 2.354e9 - 1) < 0.01); // 2.5 Gbit/s × 1448 ÷ 1538
        std::erase_if(h.connections, [&](const house::Connection& c) {
            return c.medium == house::Medium::data_cable &&
                   std::any_of(c.ends.begin(), c.ends.end(), [&](const house::PortRef& e) {
                       const house::Device* d = h.device(e.device);
                       return d != nullptr && d->deviceClass == "coax-2500" && d->room == "hall";
                   });
        });
        const SpotWay loose = way(optionsOf(h, classes()).value(), "stacking", "coax");
        QVERIFY(loose.takesPort);
        QCOMPARE(leadsAtHub(loose), 1);
        // And a plan joins it.
        for (house::Spot& spot : h.spots)
            if (spot.id == "stacking") spot.pin = "coax";
        const Options options = optionsOf(h, classes()).value();
        const AppliedPlan done = applyPlan(h, classes(), options, best(h)).value();
        for (const house::Device& d : done.house.devices)
            if (d.deviceClass == "coax-2500" && d.room == "hall")
                QVERIFY(done.house.cableAt({d.id, "lan"}) != nullptr);
    }
    void everyClassOfAdapterIsThere() {
        house::House h = demo();
        h.device("loft-workstation")->ports[0].phy = "usb3-5g"; // so that the adapters decide
        const Options options = optionsOf(h, classes()).value();
        for (const SpotOptions& spot : options.spots)
            if (spot.spot == "stacking") {
                double before = 1e12;
                int coax = 0;
                for (const SpotWay& w : spot.ways) {
                    if (w.id != "coax" || !w.nicClass.empty()) continue;
                    ++coax;
                    QVERIFY(w.down.p50.bps() < before); // the fastest first
                    before = w.down.p50.bps();
                    QVERIFY(w.hubBox.empty()); // the adapter at the hub serves slower ones as well
                }
                QCOMPARE(coax, 4);
            }
    }
    void runsMakeAWayBetterKnown() {
        auto h = demo();
        // The socket is as it should be, so that the coax is what decides.
        for (house::Device& d : h.devices)
            for (house::Port& p : d.ports)
                if (p.kind == house::PortKind::usb) p.phy = "usb3-10g";
        const Options before = optionsOf(h, classes()).value();
        benchmark::RouteRuns runs;
        for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward}) {
            benchmark::RunConfig config;
            config.direction = direction;
            config.streams = 4;
            config.seconds = 5;
            runs.push_back(
                {"dome-loft", standin::simulate(h, classes(), *h.route("dome-loft"), config, 3, 0).value()});
        }
        const Options after = optionsOf(h, classes(), runs).value();
        const SpotWay& known = way(after, "stacking", "coax");
        QVERIFY(known.measuredDown.has_value());
        const auto width = [](const SpotWay& w) { return w.down.p90.bps() / w.down.p10.bps(); };
        QVERIFY(width(known) <= width(way(before, "stacking", "coax")) * 1.05);
        // Ways without a run stay as they were.
        QCOMPARE(way(after, "stacking", "mains").down.p50.bps(),
                 way(before, "stacking", "mains").down.p50.bps());
    }
    void aMeasurementThatWasNotTheLimitSaysAtLeast() {
        const auto prior =
            capacity::Distribution::of({quantity::BitRate::megabits(100), quantity::BitRate::megabits(300),
                                        quantity::BitRate::megabits(900)});
        const auto bound = updatedBy(prior, quantity::BitRate::megabits(400), false, 0.1);
        QVERIFY(bound.quantile(0.05) >= 400e6 * 0.999);
        QVERIFY(std::fabs(bound.quantile(0.5) / prior.quantile(1 - (1 - prior.cdf(400e6)) / 2) - 1) < 0.05);
        const auto known = updatedBy(prior, quantity::BitRate::megabits(400), true, 0.05);
        QVERIFY(known.quantile(0.1) > 330e6 && known.quantile(0.9) < 480e6);
    }
    void roomsOfOneLabelAreDifferentRooms() {
        const Options named = optionsOf(demo(), classes()).value();
        house::House h = demo();
        for (house::Room& room : h.rooms)
            room.label = "Room";
        const Options same = optionsOf(h, classes()).value();
        QCOMPARE(same.hub, named.hub);
        QCOMPARE(same.hubLabel, std::string("Room"));
        QCOMPARE(same.spots.size(), named.spots.size());
        for (std::size_t s = 0; s < named.spots.size(); ++s) {
            QCOMPARE(same.spots[s].ways.size(), named.spots[s].ways.size());
            for (std::size_t w = 0; w < named.spots[s].ways.size(); ++w) {
                QCOMPARE(same.spots[s].ways[w].id, named.spots[s].ways[w].id);
                QCOMPARE(same.spots[s].ways[w].down.p50.bps(), named.spots[s].ways[w].down.p50.bps());
            }
        }
        const Plan plan = best(h);
        QVERIFY(plan.cost == best(demo()).cost);
        const AppliedPlan made = applyPlan(h, classes(), same, plan).value();
        const AppliedPlan other = applyPlan(demo(), classes(), named, best(demo())).value();
        QCOMPARE(made.house.devices.size(), other.house.devices.size());
        for (std::size_t d = 0; d < made.house.devices.size(); ++d)
            QCOMPARE(made.house.devices[d].room, other.house.devices[d].room);
    }
    void aPlanBecomesAHouse() {
        const auto h = demo();
        const Options options = optionsOf(h, classes()).value();
        for (const Objective s : objectives) {
            const Plan plan = planBy(s, options, Prices(classes(), {})).value();
            const auto made = applyPlan(h, classes(), options, plan);
            QVERIFY2(made.has_value(), made ? "" : made.error().sentence().c_str());
            const auto faults = house::validate(made->house);
            QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().sentence().c_str());
            QVERIFY(catalog::check(made->house, classes()).empty());
            QVERIFY(fit::stepsOf(made->house, classes()).size() > plan.spots.size());
            QCOMPARE(made->house.weighing.plan.size(), h.spots.size());
            QVERIFY(made->house.spots == h.spots);
            QVERIFY(!made->trial.empty());
            for (const house::Trial& trial : made->house.trials)
                if (trial.id == made->trial) QVERIFY(!trial.steps.empty());
            for (const house::Id& route : made->routes)
                QVERIFY(made->house.route(route) != nullptr);
        }
        QVERIFY(!applyPlan(house::House{}, classes(), options, best(h)));
    }
    void aNewRunEndsInAJackThatTheDeviceIsPluggedInto() {
        auto h = demo();
        for (house::Spot& spot : h.spots)
            if (spot.id == "scanning") spot.pin = "new-hired";
        const Options options = optionsOf(h, classes()).value();
        const Plan plan = planBy(Objective::cheapest, options, Prices(classes(), {})).value();
        const auto made = applyPlan(h, classes(), options, plan).value();
        // Its only port was taken by the mains adapter's lead.
        const house::Connection* run = made.house.cableAt({"scanning-table", "lan"});
        QVERIFY(run != nullptr && run->id != "table-lead");
        QVERIFY(made.house.connection("table-lead") == nullptr);
        // Nothing in the house tells of it any more, so that is said with the run.
        const auto steps = fit::stepsOf(made.house, classes());
        const auto laid = std::find_if(steps.begin(), steps.end(), [&](const fit::Step& s) {
            return std::find(s.fits.begin(), s.fits.end(), run->id) != s.fits.end();
        });
        QVERIFY(laid != steps.end());
        QCOMPARE(laid->kind, fit::StepKind::lay);
        QVERIFY2(laid->measures.front().starts_with("Unplug"), laid->measures.front().c_str());
    }
    void anExistingRunIsPatchedAtBothEnds() {
        auto h = demo();
        // A run between two jacks that nothing is plugged into yet.
        h.jacks.push_back({"hall-data", "Hall data 1", "hall", house::JackKind::data});
        house::Connection* run = h.connection("study-run");
        run->ends = {{"hall-data", ""}, {"study-data", ""}};
        h.device("study-laptop")->ports[0].jack.clear();
        for (house::Spot& spot : h.spots)
            if (spot.id == "desk") spot.pin = "data";
        const Options options = optionsOf(h, classes()).value();
        const Plan plan = planBy(Objective::cheapest, options, Prices(classes(), {})).value();
        const auto made = applyPlan(h, classes(), options, plan).value();
        QCOMPARE(made.house.device("study-laptop")->ports[0].jack, std::string("study-data"));
        QVERIFY(house::validate(made.house).empty());
        QVERIFY(house::findRoute(made.house, "service", "study-laptop-end").has_value());
    }
    void anAdapterInASocketIsThePortOfItsMachine() {
        // The workstation has no fast port of its own: its adapter's decides, and the socket that sits in.
        auto h = demo();
        h.device("loft-workstation")->ports[1].phy = "100base-tx";
        const double usb2 = way(optionsOf(h, classes()).value(), "stacking", "coax").down.p50.inMegabits();
        QVERIFY(usb2 > 280 && usb2 < 350);
        h.device("loft-workstation")->ports[0].phy = "usb3-5g";
        h.device("loft-nic")->ports[1].phy = "usb3-5g";
        QVERIFY(way(optionsOf(h, classes()).value(), "stacking", "coax").down.p50.inMegabits() > 1500);
        h.device("loft-nic")->ports[0].phy = "100base-tx";
        QVERIFY(way(optionsOf(h, classes()).value(), "stacking", "coax").down.p50.inMegabits() < 95);
    }
    void aWireCarriesWhatItsPortAtTheHubDoes() {
        auto h = demo();
        for (house::Spot& spot : h.spots)
            if (spot.id == "screen") spot.pin = "new-hired"; // of its own up to 10 Gbit/s
        const Plan plan = best(h);
        for (const SpotResult& s : plan.spots)
            if (s.spot == "screen") {
                QVERIFY2(s.p50.inMegabits() < 2400, std::to_string(s.p50.inMegabits()).c_str());
                QCOMPARE(s.limit, std::string("the port at the hub"));
            }
    }
    void whatIsMissingIsASentence() {
        auto h = demo();
        h.spots.clear();
        QVERIFY(optionsOf(h, classes()).error().sentence().find("Walk") != std::string::npos);
        h = demo();
        h.service.reset();
        for (house::Device& d : h.devices)
            d.room.clear();
        QVERIFY(optionsOf(h, classes()).error().sentence().find("router") != std::string::npos);
        h = demo();
        h.spots[0].room.clear();
        h.spots[0].device.clear();
        const Plan plan = best(h);
        QVERIFY(!plan.carriesAll);
    }
    void theDocumentKeepsItsContract() {
        const Options options = optionsOf(demo(), classes()).value();
        const Prices prices(classes(), {});
        const Weighed weighed = weigh::weigh(options, prices, Objective::steadiest).value();
        const auto document = toJson(options, prices, weighed, Objective::steadiest);
        QCOMPARE(document.at("format").get<std::string>(), std::string("metrodos-plans"));
        QCOMPARE(document.at("plans").at(0).at("id").get<std::string>(),
                 weighed.best.at(Objective::steadiest));
        double sum = 0;
        for (const auto& part : document.at("plans").at(0).at("parts"))
            sum += part.at("total").get<double>();
        QVERIFY(std::fabs(sum - document.at("plans").at(0).at("cost").get<double>()) < 0.02);
    }
    void aPriceBookGoesOutAndComesBack() {
        PriceBook book;
        book.currency = "Kr";
        book.lineFor("labour").price = Money::units(60); // lines come back in the order of the items
        book.lineFor("coax-2500") = {"coax-2500", "Own \"grey\", box; 2", Money::units(48.5), 3};
        const std::string csv = job::toCsv(book, classes());
        QVERIFY(job::priceBookFrom(csv, classes()).value() == book);
        const QTemporaryDir folder;
        const std::filesystem::path file = folder.filePath("sub/prices.csv").toStdString();
        QVERIFY(job::loadPriceBook(file, classes()).value() == PriceBook{});
        QVERIFY(job::savePriceBook(file, book, classes()).has_value());
        QVERIFY(job::loadPriceBook(file, classes()).value() == book);
        QVERIFY(!job::savePriceBook("/proc/no/prices.csv", book, classes()));
    }
    void aPriceBookFromATableIsForgivingButExact() {
        const auto book = job::priceBookFrom("price;item\r\n12,50;labour\r\n", classes());
        QVERIFY2(book.has_value(), book ? "" : book.error().sentence().c_str());
        QCOMPARE(book->line("labour")->price->hundredths, std::int64_t{1250});
        for (const char* wrong :
             {"", "a,b\n1,2\n", "item,price\nlabour,dear\n", "item,price\nlabour,-1\n",
              "item,stock\nlabour,1.5\n", "item,price\nno-such-thing,1\n", "item,price\n\"labour,1\n"})
            QVERIFY2(!job::priceBookFrom(wrong, classes()), wrong);
        QVERIFY(job::priceBookFrom("item,price\nlabour,dear\n", classes()).error().sentence().find("row 2") !=
                std::string::npos);
    }
};

QTEST_GUILESS_MAIN(TestWeighHouse)
#include "test_weigh_house.moc"
