// How long weighing a house takes, its ways included, and how the programme compares with trying all.
#include "support/random_house.h"
#include "support/weigh_cases.h"
#include "weigh/objectives.h"

#include <algorithm>
#include <chrono>
#include <cstdio>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

double since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

// Schools and front of random choices; the largest of the gaps that stayed open.
void choices(const catalog::Catalog& catalog, int spots, int houses, double wanted) {
    const weigh::Prices prices(catalog, {});
    std::vector<double> first;
    std::vector<double> all;
    double gap = 0;
    Random random(static_cast<std::uint64_t>(spots));
    for (int n = 0; n < houses; ++n) {
        const weigh::Options options = randomOptions(random, spots, 7);
        const auto start = std::chrono::steady_clock::now();
        bool any = false;
        const auto weighed =
            weigh::weigh(options, prices, weigh::Objective::cheapest, [&](double, const weigh::Weighed&) {
                if (!std::exchange(any, true)) first.push_back(since(start));
            });
        if (!weighed) {
            std::printf("%d spots, case %d: %s\n", spots, n, weighed.error().sentence().c_str());
            continue;
        }
        all.push_back(since(start));
        for (const weigh::Plan& plan : weighed->plans)
            gap = std::max(gap, plan.gap);
    }
    std::sort(first.begin(), first.end());
    std::sort(all.begin(), all.end());
    if (all.empty()) return;
    std::printf("%d spots, 7 ways, 3 shared media, %zu cases: first plan in %.2f of 0.3 s (median; slowest "
                "%.2f), all objectives and "
                "the front in %.2f of %.0f s (median; slowest %.2f); largest gap left %.4f\n",
                spots, all.size(), first[first.size() / 2] / 0.3, first.back() / 0.3,
                all[all.size() / 2] / wanted, wanted, all.back() / wanted, gap);
}

// With what the survey of a house allows, prediction of all ways included.
void wholeHouse(const catalog::Catalog& catalog, int spots) {
    house::House h = RandomHouse(11).make({spots + 1, spots + 4, 3});
    h.devices.push_back({"the-router", "Router", house::DeviceKind::router, "router-1g", "room-0", {}});
    for (int p = 0; p < 4; ++p)
        h.devices.back().ports.push_back(
            {"lan-" + std::to_string(p), "LAN", house::PortKind::ethernet, "1000base-t"});
    h.service =
        house::Service{"the-service", "Service", "the-router", quantity::BitRate::megabits(500), {}, ""};
    h.spots.clear();
    for (int i = 0; i < spots; ++i) {
        house::Spot spot;
        spot.id = "need-" + std::to_string(i);
        spot.label = "Need " + std::to_string(i);
        spot.room = "room-" + std::to_string(1 + i);
        spot.needDown = quantity::BitRate::megabits(20 + 15 * i);
        h.spots.push_back(spot);
    }
    const weigh::Prices prices(catalog, {});
    const auto start = std::chrono::steady_clock::now();
    const auto options = weigh::optionsOf(h, catalog);
    const double predicted = since(start);
    if (!options) {
        std::printf("%s\n", options.error().sentence().c_str());
        return;
    }
    const auto weighed = weigh::weigh(*options, prices, weigh::Objective::cheapest);
    std::printf("a random house with %d spots: ways predicted in %.2f s, all plans in %.2f s\n", spots,
                predicted, since(start) - predicted);
    if (!weighed) std::printf("  %s\n", weighed.error().sentence().c_str());
}

} // namespace

int main(int argc, char** argv) {
    const auto catalog = catalog::loadDefault();
    if (!catalog) return 1;
    const weigh::Prices prices(*catalog, {});
    const int houses = argc > 1 ? std::atoi(argv[1]) : 500;
    Random random(5);
    int worse = 0;
    int better = 0;
    int tried = 0;
    const auto start = std::chrono::steady_clock::now();
    for (int n = 0; n < houses; ++n) {
        const int spots = 1 + n % 6;
        // So many ways that trying all stays possible: at most some 100,000 choices.
        const weigh::Options options = randomOptions(random, spots,
                                                     spots <= 3   ? 7
                                                     : spots == 4 ? 5
                                                     : spots == 5 ? 3
                                                                  : 2);
        const Value best = bestOfAll(options, prices);
        const auto solution = weigh::solve(options, prices, {{weigh::Goal::carry, weigh::Goal::cost}});
        const auto value = solution ? valueOf(options, prices, solution->picks) : std::nullopt;
        ++tried;
        if (!value || best.betterThan(*value)) ++worse;
        if (value && value->betterThan(best)) ++better;
    }
    std::printf("%d random houses of up to 6 spots against trying all: worse in %d, better in %d (both "
                "wanted 0), %.1f s\n",
                tried, worse, better, since(start));
    choices(*catalog, 12, 20, 2);
    choices(*catalog, 40, 3, 20);
    wholeHouse(*catalog, 12);
    wholeHouse(*catalog, 40);
}
