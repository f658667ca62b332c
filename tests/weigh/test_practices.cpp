// What a job goes by where there is more than one sound way, and a contractor's quote held against a plan.
// Sums by hand from the prices of planning.json.
#include "fit/cautions.h"
#include "job/house_json.h"
#include "job/schema.h"
#include "support/planned.h"
#include "weigh/against_quote.h"
#include "weigh/way_choice.h"

#include <QTest>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

using namespace metrodos;
using namespace metrodos::weigh;
using namespace metrodos::testing;

namespace {

// A call in the room; an outlet in the hall on the ring, one in the room on it, and one of another circuit.
house::House mainsHouse() {
    house::House h = servedHouse(900, 300, 1, "call");
    h.connections.clear();
    addRing(h);
    h.jacks.push_back({"other-outlet", "Other outlet", "room-1", house::JackKind::mains});
    house::Circuit other;
    other.id = other.label = "other";
    other.panel = "panel";
    other.outlets = {{"other-outlet", quantity::Length::metres(3)}};
    h.circuits.push_back(other);
    return h;
}

std::string ruledOut(const house::House& h, const std::string& id) {
    const Options options = optionsFor(h);
    for (const SpotWay& w : options.spots[0].ways)
        if (w.id == id && w.isPossible()) return {};
    for (const SpotWay& w : options.spots[0].ways)
        if (w.id == id) return w.ruledOut;
    return "no such way";
}

std::vector<std::string> possible(const house::House& h, const std::string& id) {
    const Options options = optionsFor(h);
    std::vector<std::string> out;
    for (const SpotWay& w : options.spots[0].ways)
        if (w.id == id && w.isPossible()) out.push_back(w.deviceClass);
    return out;
}

bool cautions(const house::House& h, const std::string& words) {
    for (const fit::Caution& c : fit::cautionsOf(h))
        if (c.what.find(words) != std::string::npos) return true;
    return false;
}

} // namespace

class TestPractices : public QObject {
    Q_OBJECT

  private slots:
    void cableEverywhereRulesOutTheRest() {
        house::House h = mainsHouse();
        QCOMPARE(ruledOut(h, "mains"), std::string());
        QCOMPARE(ruledOut(h, "new-own"), std::string());
        h.practices.wiring = house::Wiring::new_cable;
        QVERIFY(ruledOut(h, "mains").find("data cable everywhere") != std::string::npos);
        QVERIFY(ruledOut(h, "air").find("data cable everywhere") != std::string::npos);
        QCOMPARE(ruledOut(h, "new-own"), std::string());
        h.practices.wiring = house::Wiring::existing;
        QVERIFY(ruledOut(h, "new-own").find("wiring that is there") != std::string::npos);
        QVERIFY(ruledOut(h, "new-hired").find("wiring that is there") != std::string::npos);
        QCOMPARE(ruledOut(h, "mains"), std::string());
        // A run that is there is cable, and is there.
        house::House wired = servedHouse(900, 300, 1, "call");
        for (const auto wiring : {house::Wiring::new_cable, house::Wiring::existing}) {
            wired.practices.wiring = wiring;
            QCOMPARE(ruledOut(wired, "as-is"), std::string());
        }
    }
    void oneCircuitOnly() {
        house::House h = mainsHouse();
        h.practices.mainsReach = house::MainsReach::same_circuit;
        QCOMPARE(ruledOut(h, "mains"), std::string());
        const Options options = optionsFor(h);
        for (const SpotWay& w : options.spots[0].ways) {
            if (w.id != "mains") continue;
            for (const house::Device& d : w.route->house.devices)
                for (const house::Port& p : d.ports)
                    QVERIFY(p.jack != "other-outlet");
        }
        // Without an outlet of the ring in the room none is left.
        h.circuits[0].outlets.pop_back();
        std::erase_if(h.jacks, [](const house::Jack& j) { return j.id == "room-outlet"; });
        QVERIFY(ruledOut(h, "mains").find("one circuit only") != std::string::npos);
        h.practices.mainsReach = house::MainsReach::any_outlet;
        QCOMPARE(ruledOut(h, "mains"), std::string());
    }
    void theHighestClassOnly() {
        house::House h = mainsHouse();
        QVERIFY(possible(h, "mains").size() > 2);
        h.practices.adapters = house::AdapterChoice::highest;
        double highest = 0;
        for (const catalog::DeviceClass& c : classes().devices)
            if (c.family == catalog::Family::mains) highest = std::max(highest, c.rated.bps());
        const auto left = possible(h, "mains");
        QVERIFY(!left.empty());
        for (const std::string& id : left)
            QCOMPARE(classes().device(id)->rated.bps(), highest);
    }
    void tenGigabitOverCategory6AOnly() {
        // A run of category 5e between two jacks, and a need that 5GBASE-T does not carry.
        house::House h = servedHouse(900, 300, 1);
        h.connections.clear();
        h.jacks = {{"hall-jack", "Hall jack", "hall", house::JackKind::data},
                   {"room-jack", "Room jack", "room-1", house::JackKind::data}};
        house::Connection run;
        run.id = run.label = "old run";
        run.cableClass = "cat5e";
        run.length = quantity::Length::metres(20);
        run.goodPairs = 4;
        run.ends = {{"hall-jack", ""}, {"room-jack", ""}};
        h.connections = {run};
        h.spots[0].needDown = BitRate::megabits(6000);
        QCOMPARE(ruledOut(h, "data"), std::string());
        h.practices.tenGigabit = house::TenGigabit::category_6a;
        QVERIFY(ruledOut(h, "data").find("old run (category 5e) is not") != std::string::npos);
        h.spots[0].needDown = BitRate::megabits(4700); // 4707.4 over 5GBASE-T
        QCOMPARE(ruledOut(h, "data"), std::string());
        h.spots[0].needDown = BitRate::megabits(6000);
        h.connections[0].cableClass = "cat6a";
        QCOMPARE(ruledOut(h, "data"), std::string());
    }
    void stripsAndPairing() {
        house::House h = mainsHouse();
        h.spots[0].pin = "mains";
        const Plan plan = planFor(h);
        house::House made = applyPlan(h, classes(), optionsFor(h), plan).value().house;
        QVERIFY(cautions(made, "Pair the adapters at once"));
        for (house::Device& d : made.devices)
            for (house::Port& p : d.ports)
                if (p.kind == house::PortKind::mains) p.strip = house::Strip::plain;
        QVERIFY(cautions(made, "straight into the wall and the strip"));
        made.practices.strips = house::StripUse::plain_strip;
        QVERIFY(!cautions(made, "straight into the wall and the strip"));
        QVERIFY(cautions(made, "Measure this adapter at the wall as well"));
        for (house::Device& d : made.devices)
            for (house::Port& p : d.ports)
                if (p.kind == house::PortKind::mains) p.strip = house::Strip::surge_protected;
        QVERIFY(cautions(made, "straight into the wall and the strip"));
        const auto kinds = [&](house::PairingChoice choice) {
            made.practices.pairing = choice;
            std::map<fit::StepKind, fit::Step> out;
            for (const fit::Step& s : fit::stepsOf(made, classes()))
                out[s.kind] = s;
            return out;
        };
        auto paired = kinds(house::PairingChoice::at_once);
        QVERIFY(paired.contains(fit::StepKind::pair));
        QVERIFY(paired.at(fit::StepKind::privacy).needs.size() == 1);
        auto asTheyCome = kinds(house::PairingChoice::as_it_comes);
        QVERIFY(!asTheyCome.contains(fit::StepKind::pair));
        const fit::Step& proof = asTheyCome.at(fit::StepKind::privacy);
        QVERIFY(proof.what.find("whether a stranger's adapter can join") != std::string::npos);
        // It brings in what pairing would have, and the check waits for it.
        QCOMPARE(proof.fits, paired.at(fit::StepKind::pair).fits);
        const auto& needs = asTheyCome.at(fit::StepKind::check).needs;
        QVERIFY(std::find(needs.begin(), needs.end(), proof.id) != needs.end());
        QVERIFY(cautions(made, "See whether a stranger's adapter can join"));
    }
    void theyAreKeptInTheFile() {
        house::House h = mainsHouse();
        h.practices = {house::Wiring::existing,       house::MainsReach::same_circuit,
                       house::StripUse::plain_strip,  house::TenGigabit::category_6a,
                       house::AdapterChoice::highest, house::PairingChoice::as_it_comes,
                       house::AddressChoice::fixed,   house::TestPlace::service};
        h.weighing.quote = house::Quote{"Example Cabling", quantity::Money::units(1850.5), 5};
        const nlohmann::json written = job::toJson(h);
        QCOMPARE(job::houseFromJson(written).value(), h);
        const nlohmann::json whole{{"format", "metrodos-job"}, {"version", 1}, {"house", written}};
        for (const auto& fault : job::schemaFaults(whole))
            QVERIFY2(fault.what.find("practices") == std::string::npos &&
                         fault.where.find("practices") == std::string::npos &&
                         fault.where.find("quote") == std::string::npos,
                     fault.sentence().c_str());
        // What a file does not say is as it goes without saying.
        nlohmann::json bare = written;
        bare.erase("practices");
        bare.at("weighing").erase("quote");
        const house::House read = job::houseFromJson(bare).value();
        QCOMPARE(read.practices, house::Practices());
        QVERIFY(!read.weighing.quote);
    }

    void quotesAreReadAndWritten() {
        const auto read = [](const char* text) { return parseQuote(text).value(); };
        QCOMPARE(*read("1850"), (house::Quote{"", quantity::Money::units(1850), 1}));
        QCOMPARE(*read(" 1850.5 for 5 runs from Example Cabling "),
                 (house::Quote{"Example Cabling", quantity::Money::units(1850.5), 5}));
        QCOMPARE(*read("1850,05 for 1 run"), (house::Quote{"", quantity::Money::units(1850.05), 1}));
        QVERIFY(!read("  "));
        for (const char* bad :
             {"about 1850", "1850 for 0 runs", "1850 for 501 runs", "-5", "99999999", "1850 for runs"})
            QVERIFY2(!parseQuote(bad), bad);
        QCOMPARE(*read("10000000 for 500 runs"), (house::Quote{"", quantity::Money::units(1e7), 500}));
        for (const house::Quote& quote : {house::Quote{"", quantity::Money::units(20), 1},
                                          house::Quote{"Example", quantity::Money::units(20.07), 12}})
            QCOMPARE(*parseQuote(quoteText(quote)).value(), quote);
    }
    void aQuoteIsHeldAgainstAPlan() {
        house::House h = mainsHouse();
        const Plan plan = planFor(h);
        const Options options = optionsFor(h);
        const house::Quote quote{"Example Cabling", quantity::Money{plan.cost.hundredths + 30'000}, 3};
        const AgainstQuote against = againstQuote(options, prices(), plan, quote, 10);
        QCOMPARE(against.planLess.hundredths, std::int64_t(30'000));
        QCOMPARE(against.perRun.hundredths, quote.amount.hundredths / 3);
        QCOMPARE(against.reached, 1);
        QVERIFY2(against.words.find("The quote of Example Cabling is ") == 0, against.words.c_str());
        QVERIFY2(against.words.find("¤ 300 less, and makes a new way to 1 spot.") != std::string::npos,
                 against.words.c_str());
        // Given away it is the cheapest at once; at a fortune it never is.
        const AgainstQuote free = againstQuote(options, prices(), plan, {"", {}, 1}, 10);
        QCOMPARE(free.cheapestFrom, 1);
        QCOMPARE(free.planLess.hundredths, -plan.cost.hundredths);
        const AgainstQuote dear =
            againstQuote(options, prices(), plan, {"", quantity::Money::units(1e6), 1}, 10);
        QCOMPARE(dear.cheapestFrom, 0);
        QVERIFY(dear.words.find("another way stays cheaper up to 12 rooms over 10 years") !=
                std::string::npos);
        // Where nothing may be laid the words do not speak of laying.
        h.weighing.drilling = false;
        const AgainstQuote shut = againstQuote(optionsFor(h), prices(), planFor(h), quote, 10);
        QVERIFY(shut.words.find("Cable cannot be laid to every spot here.") != std::string::npos);
    }
    void thePartsOfOneWayAddUpToItsCost() {
        const house::House h = mainsHouse();
        const Options options = optionsFor(h);
        int seen = 0;
        for (const SpotWay& way : options.spots[0].ways) {
            if (!way.isPossible()) continue;
            ++seen;
            const WayCost cost = costOf(way, prices());
            Money sum;
            for (const PartLine& line : partsOf(way, prices())) {
                QCOMPARE(line.total, line.unitPrice * line.count);
                sum = sum + line.total;
            }
            QVERIFY2(std::abs(sum.hundredths - (cost.each + cost.first()).hundredths) <= 2,
                     way.label.c_str());
        }
        QVERIFY(seen > 3);
    }
    void eachClassIsListedBesideItsWay() {
        const Options options = optionsFor(mainsHouse());
        const auto& ways = options.spots[0].ways;
        const auto all = eachOfThem(options.spots[0]);
        QCOMPARE(all.size(), ways.size());
        bool isPossible = true;
        std::vector<std::string> order;
        for (const std::size_t w : all) {
            QVERIFY(isPossible || !ways[w].isPossible());
            isPossible = ways[w].isPossible();
            if (isPossible && (order.empty() || order.back() != ways[w].id)) order.push_back(ways[w].id);
        }
        QCOMPARE(std::set<std::string>(order.begin(), order.end()).size(), order.size());
    }
};

QTEST_GUILESS_MAIN(TestPractices)
#include "test_practices.moc"
