// How long the computations behind the window take.
#include "benchmark/statistics.h"
#include "capacity/predictor.h"
#include "catalog/load.h"
#include "support/houses.h"
#include "support/random_house.h"
#include "support/runs.h"
#include "trace/diagnose.h"

#include <chrono>
#include <cstdio>

namespace {

using namespace metrodos;
using namespace metrodos::testing;
using Clock = std::chrono::steady_clock;

template <typename Work>
double milliseconds(Work work) {
    std::vector<double> times;
    for (int i = 0; i < 21; ++i) {
        const auto start = Clock::now();
        work();
        times.push_back(std::chrono::duration<double, std::milli>(Clock::now() - start).count());
    }
    return benchmark::quantile(times, 0.5);
}

// Every route of a large house at first, and again after one element was changed: a cable, a box, a coax run,
// a wire of the mains, a port.
void wholeHouse(const catalog::Catalog& catalog) {
    const house::House house = RandomHouse(7).make({40, 60, 5});
    const auto routes = allRoutes(house);
    std::vector<house::House> changed(5, house);
    const auto lengthen = [](house::House& h, house::Medium medium, double metres) {
        for (house::Connection& c : h.connections)
            if (c.medium == medium) {
                c.length = quantity::Length::metres(metres);
                return;
            }
    };
    lengthen(changed[0], house::Medium::data_cable, 77);
    changed[1].device("router")->deviceClass.clear();
    lengthen(changed[2], house::Medium::coax, 33);
    changed[3].circuits[0].outlets[0].fromPrevious = quantity::Length::metres(9.5);
    changed[4].device("router")->ports[0].phy = "100base-tx";
    std::vector<double> first;
    std::vector<double> after;
    for (int i = 0; i < 5; ++i) {
        capacity::Predictor predictor(catalog);
        auto start = Clock::now();
        (void)predictor.summaries(house, routes);
        first.push_back(std::chrono::duration<double, std::milli>(Clock::now() - start).count());
        for (const house::House& next : changed) {
            start = Clock::now();
            (void)predictor.summaries(next, routes);
            after.push_back(std::chrono::duration<double, std::milli>(Clock::now() - start).count());
        }
    }
    std::printf(
        "predict, %zu routes of a house with %zu rooms, %zu jacks, %zu devices: %.0f ms (wanted 1000); after "
        "one change %.0f ms, slowest %.0f ms (wanted 50); change / first = %.2f\n",
        routes.size(), house.rooms.size(), house.jacks.size(), house.devices.size(),
        benchmark::quantile(first, 0.5), benchmark::quantile(after, 0.5), benchmark::quantile(after, 1),
        benchmark::quantile(after, 0.5) / benchmark::quantile(first, 0.5));
}

} // namespace

int main() {
    const auto catalog = catalog::loadDefault().value();
    const auto house = coaxHouse("usb2");
    const auto prediction = capacity::predict(house, catalog, house.routes[0]).value();
    std::vector<benchmark::Run> runs;
    for (int i = 0; i < 50; ++i)
        runs.push_back(steadyRun(benchmark::Direction::forward, 311, 4, 0.002, "r" + std::to_string(i)));
    std::printf("predict, route of %zu elements: %.1f ms\n", prediction.elements.size(),
                milliseconds([&] { (void)capacity::predict(house, catalog, house.routes[0]); }));
    std::printf("trace, the same with 50 runs: %.1f ms\n", milliseconds([&] {
                    (void)trace::diagnose({prediction, house, catalog, runs});
                }));
    wholeHouse(catalog);
}
