// Plans against truth: random houses are planned, the plan is made real, and the stand-in builds the house
// that then stands, with what is wrong in it drawn from the catalog. Of the plans that say nine houses of
// ten, how many houses carry all needs at once?
#include "catalog/load.h"
#include "house/route.h"
#include "standin/truth.h"
#include "support/served_house.h"
#include "weigh/apply_plan.h"
#include "weigh/objectives.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <iostream>
#include <map>
#include <random>
#include <set>

using namespace metrodos;
using Random = std::mt19937_64;

namespace {

double uniform(Random& random, double low = 0, double high = 1) {
    return std::uniform_real_distribution<double>(low, high)(random);
}
int below(Random& random, int n) {
    return static_cast<int>(random() % static_cast<unsigned>(n));
}

// Three rooms with coax and outlets, at a service that brings more than they want.
house::House drawHouse(Random& random) {
    house::House h = testing::servedHouse(900, 300, 3);
    h.name = "Osier Lodge";
    h.connections.clear();
    h.coaxParts = {{"split", "Splitter", house::CoaxPartKind::splitter, "hall", 4, {}, {}, {}}};
    h.panels = {{"panel", "Panel", "hall", ""}};
    house::Circuit ring;
    ring.id = ring.label = "ring";
    ring.panel = "panel";
    const auto join = [&](const std::string& room, const std::string& port) {
        h.jacks.push_back({room + "-coax", room + "-coax", room, house::JackKind::coax});
        h.jacks.push_back({room + "-outlet", room + "-outlet", room, house::JackKind::mains});
        house::Connection run;
        run.id = run.label = room + "-run";
        run.medium = house::Medium::coax;
        run.ends = {{"split", port}, {room + "-coax", ""}};
        if (below(random, 2) == 0) run.length = quantity::Length::metres(5 + below(random, 40));
        h.connections.push_back(run);
        ring.outlets.push_back({room + "-outlet", quantity::Length::metres(2 + below(random, 20))});
    };
    join("hall", "out-1");
    const bool byMains = below(random, 2) == 0;
    for (int i = 1; i <= 3; ++i) {
        const std::string n = std::to_string(i);
        h.rooms[static_cast<std::size_t>(i)].floor = below(random, 3);
        join("room-" + n, "out-" + std::to_string(i + 1));
        house::Spot& spot = h.spots[static_cast<std::size_t>(i - 1)];
        // Near what the media carry, so that it may go either way.
        spot.needDown = byMains ? quantity::BitRate::megabits(8 + below(random, 60))
                                : quantity::BitRate::megabits(120 + below(random, 180));
        spot.needUp = quantity::BitRate::megabits(2 + below(random, 8));
        spot.pin = byMains ? (below(random, 2) == 0 ? "mains:mains-1200" : "mains:mains-2000")
                           : (below(random, 2) == 0 ? "coax:coax-1000" : "coax:coax-2500");
    }
    h.circuits = {ring};
    return h;
}

// What is wrong in a house: for each thing on its routes the faults of its kind, each as often as the catalog
// says.
std::vector<standin::HiddenFault> drawFaults(const house::House& h, const std::vector<house::Route>& routes,
                                             const catalog::Catalog& catalog, Random& random) {
    std::vector<standin::HiddenFault> out;
    std::set<std::string> met;
    for (const house::Route& route : routes) {
        const auto elements = house::RouteFinder(h).find(route).value();
        for (const house::Element& e : elements) {
            if (!met.insert(e.id).second) continue;
            for (const catalog::FaultClass& fault : catalog.faults.faults) {
                if (std::find(fault.on.begin(), fault.on.end(), house::name(e.kind)) == fault.on.end() ||
                    !fault.share || uniform(random) > fault.prior)
                    continue;
                const double left =
                    std::exp(std::log(fault.share->p10) +
                             uniform(random) * (std::log(fault.share->p90) - std::log(fault.share->p10)));
                standin::HiddenFault hidden;
                hidden.element = e.id;
                hidden.forward = hidden.backward = left;
                if (fault.oneWay) (below(random, 2) == 0 ? hidden.forward : hidden.backward) = 1;
                out.push_back(hidden);
            }
        }
    }
    return out;
}

// Whether every need goes at once through everything that it passes.
bool carriesAll(const house::House& h, const std::vector<house::Route>& routes,
                const std::vector<weigh::Rates>& demands, const catalog::Catalog& catalog, std::uint64_t seed,
                const std::vector<standin::HiddenFault>& hidden) {
    std::map<std::string, double> used; // share of a passage's capacity
    for (std::size_t i = 0; i < routes.size(); ++i)
        for (const bool down : {true, false}) {
            const double need = down ? demands[i].down : demands[i].up;
            if (need <= 0) continue;
            const auto truth = standin::truthOf(
                h, catalog, routes[i], down ? benchmark::Direction::forward : benchmark::Direction::backward,
                seed, {hidden});
            if (!truth) return false;
            for (const standin::ElementTruth& e : truth->elements)
                used[e.passage] += need / e.capacityBps;
        }
    return std::all_of(used.begin(), used.end(), [](const auto& one) { return one.second <= 1; });
}

} // namespace

int main(int argc, char** argv) {
    const int wanted = argc > 1 ? std::atoi(argv[1]) : 200;
    const auto catalog = catalog::loadDefault().value();
    const weigh::Prices prices(catalog, {});
    Random random(77);
    struct Bin {
        int plans = 0;
        double said = 0;
        double sound = 0;
        double faulty = 0;
    };
    std::map<int, Bin> bins;
    int planned = 0;
    for (int n = 0; n < 20 * wanted && planned < wanted; ++n) {
        const house::House h = drawHouse(random);
        const auto options = weigh::optionsOf(h, catalog);
        if (!options) continue;
        const auto plan = weigh::planBy(weigh::Objective::cheapest, *options, prices);
        if (!plan ||
            std::any_of(plan->spots.begin(), plan->spots.end(), [](const auto& s) { return s.way < 0; }))
            continue;
        const auto made = weigh::applyPlan(h, catalog, *options, *plan);
        if (!made || made->routes.size() != h.spots.size()) continue;
        ++planned;
        std::vector<house::Route> routes;
        for (const house::Id& id : made->routes)
            routes.push_back(*made->house.route(id));
        std::vector<weigh::Rates> demands;
        for (const weigh::Demand& d : weigh::demandsOf(*options))
            demands.push_back(d.atOnce);
        constexpr int built = 20;
        Bin& bin = bins[std::min(9, static_cast<int>(plan->carriedShare * 10))];
        ++bin.plans;
        bin.said += plan->carriedShare;
        for (int k = 0; k < built; ++k) {
            const auto seed = random();
            bin.sound += carriesAll(made->house, routes, demands, catalog, seed, {}) ? 1.0 / built : 0;
            bin.faulty += carriesAll(made->house, routes, demands, catalog, seed,
                                     drawFaults(made->house, routes, catalog, random))
                              ? 1.0 / built
                              : 0;
        }
    }
    std::cout << planned << " plans, each built 20 times\n";
    for (const auto& [decile, b] : bins)
        std::cout << "  said " << b.said / b.plans << ": carried in " << b.sound / b.plans
                  << " of sound houses, in " << b.faulty / b.plans << " of those with hidden faults ("
                  << b.plans << " plans)\n";
    return 0;
}
