// Plans against truth: random houses are planned, the plan is made real, and the stand-in builds the house
// that then stands, with faults whose odds and sizes are this program's own, not the catalog's. Of the plans
// that say nine houses of ten, how many houses carry all needs at once?
#include "catalog/load.h"
#include "house/route.h"
#include "standin/truth.h"
#include "support/served_house.h"
#include "weigh/apply_plan.h"
#include "weigh/objectives.h"

#include <algorithm>
#include <cmath>
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
        // From what is easy to what the media carry at best, so that it may go either way.
        spot.needDown = quantity::BitRate::megabits(byMains ? 2 * std::pow(34, uniform(random))
                                                            : 20 * std::pow(15, uniform(random)));
        spot.needUp = quantity::BitRate::megabits(2 + below(random, 8));
        spot.pin = byMains ? (below(random, 2) == 0 ? "mains:mains-1200" : "mains:mains-2000")
                           : (below(random, 2) == 0 ? "coax:coax-1000" : "coax:coax-2500");
    }
    h.circuits = {ring};
    return h;
}

// What goes wrong in houses, as often as here: nothing of it is read from the catalog.
struct OwnFault {
    house::ElementKind on;
    double chance;
    double low; ///< share that is left, or share of the segments that is lost
    double high;
    enum Way { share, oneWay, at100, loses } way = share;
};
using house::ElementKind;
// All cables of these plans are new leads, of which few are bad.
constexpr OwnFault ownFaults[] = {{ElementKind::cable, 0.02, 0, 0, OwnFault::at100},
                                  {ElementKind::cable, 0.01, 5e-4, 1e-2, OwnFault::loses},
                                  {ElementKind::cable, 0.005, 0.03, 0.3, OwnFault::oneWay},
                                  {ElementKind::port, 0.04, 0, 0, OwnFault::at100},
                                  {ElementKind::host, 0.08, 0.01, 0.2, OwnFault::oneWay},
                                  {ElementKind::adapter, 0.004, 0.1, 0.7},
                                  {ElementKind::coax, 0.07, 0.2, 0.8},
                                  {ElementKind::coax, 0.1, 0.35, 0.85},
                                  {ElementKind::mains, 0.07, 0.03, 0.4},
                                  {ElementKind::mains, 0.15, 0.3, 0.8, OwnFault::oneWay},
                                  {ElementKind::mains, 0.05, 0.3, 0.7}};

// Draws them for each thing on the routes of a house that stands as `seed` has it.
std::vector<standin::HiddenFault> drawFaults(const house::House& h, const std::vector<house::Route>& routes,
                                             const catalog::Catalog& catalog, std::uint64_t seed,
                                             Random& random) {
    std::vector<standin::HiddenFault> out;
    std::set<std::string> met;
    for (const house::Route& route : routes) {
        const auto elements = house::RouteFinder(h).find(route).value();
        const auto truth = standin::truthOf(h, catalog, route, benchmark::Direction::forward, seed).value();
        for (std::size_t i = 0; i < elements.size(); ++i) {
            if (!met.insert(elements[i].id).second) continue;
            for (const OwnFault& fault : ownFaults) {
                if (fault.on != elements[i].kind || uniform(random) > fault.chance) continue;
                standin::HiddenFault hidden;
                hidden.element = elements[i].id;
                const bool back = below(random, 2) == 0;
                if (fault.way == OwnFault::loses) {
                    (back ? hidden.lossBackward : hidden.lossForward) =
                        fault.low * std::pow(fault.high / fault.low, uniform(random));
                } else if (fault.way == OwnFault::at100) {
                    hidden.forward = hidden.backward = std::min(1.0, 94.1e6 / truth.elements[i].capacityBps);
                } else {
                    hidden.forward = hidden.backward =
                        fault.low * std::pow(fault.high / fault.low, uniform(random));
                    if (fault.way == OwnFault::oneWay) (back ? hidden.backward : hidden.forward) = 1;
                }
                out.push_back(hidden);
            }
        }
    }
    return out;
}

// Whether every need goes at once through everything that it passes, in four streams.
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
            // Mathis, Semke, Mahdavi and Ott 1997, of a segment of 1448 bytes.
            if (truth->loss > 0 && need > 4 * 1.22 * 1448 * 8e6 / (truth->rttUs * std::sqrt(truth->loss)))
                return false;
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
        double saidSound = 0;
        double sound = 0;
        double faulty = 0;
        Bin& operator+=(const Bin& other) {
            plans += other.plans;
            said += other.said;
            saidSound += other.saidSound;
            sound += other.sound;
            faulty += other.faulty;
            return *this;
        }
    };
    std::map<int, Bin> bins;
    Bin ninety; // that say 85 to 95 %
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
        Bin one{1, plan->carriedShare, plan->soundShare};
        for (int k = 0; k < built; ++k) {
            const auto seed = random();
            one.sound += carriesAll(made->house, routes, demands, catalog, seed, {}) ? 1.0 / built : 0;
            one.faulty += carriesAll(made->house, routes, demands, catalog, seed,
                                     drawFaults(made->house, routes, catalog, seed, random))
                              ? 1.0 / built
                              : 0;
        }
        bins[std::min(9, static_cast<int>(plan->carriedShare * 10))] += one;
        if (plan->carriedShare >= 0.85 && plan->carriedShare <= 0.95) ninety += one;
    }
    std::cout << planned
              << " plans, each built 20 times; said and carried, as found and if nothing is wrong\n";
    const auto print = [](const Bin& b) {
        std::cout << "  as found " << b.said / b.plans << ": " << b.faulty / b.plans << "; sound "
                  << b.saidSound / b.plans << ": " << b.sound / b.plans << " (" << b.plans << " plans)\n";
    };
    for (const auto& [decile, b] : bins)
        print(b);
    std::cout << "those that say 85 to 95 %:\n";
    if (ninety.plans > 0) print(ninety);
    return 0;
}
