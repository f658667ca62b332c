// How long the computations behind the window take.
#include "benchmark/statistics.h"
#include "capacity/predictor.h"
#include "catalog/load.h"
#include "job/store.h"
#include "support/houses.h"
#include "support/random_house.h"
#include "support/runs.h"
#include "trace/diagnose.h"

#include <QTemporaryDir>
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

// A job of 5,000 runs with 100 samples each, against one of a hundredth of that: its heads, then all samples.
void largeJob(const house::House& house) {
    QTemporaryDir folder;
    const auto fileOf = [&](int count) {
        job::Document content{house, {}};
        for (int i = 0; i < count; ++i)
            content.runs.push_back({house.routes[0].id, steadyRun(benchmark::Direction::forward, 311, 4, 0.02,
                                                                  "r" + std::to_string(i))});
        const std::string file = folder.filePath(QString("%1.metrodos").arg(count)).toStdString();
        (void)job::Store::create(file, content);
        return file;
    };
    const auto opened = [](const std::string& file, bool samples) {
        const auto start = Clock::now();
        const auto store = job::Store::open(file);
        const auto runs = store->runs();
        std::size_t all = 0;
        if (samples)
            for (const benchmark::RouteRun& one : runs->runs)
                all += one.run.samples.size();
        const double took = std::chrono::duration<double, std::milli>(Clock::now() - start).count();
        return std::pair(took, all);
    };
    const std::string small = fileOf(50);
    const std::string large = fileOf(5000);
    for (const bool samples : {false, true}) {
        const auto [few, fewSamples] = opened(small, samples);
        const auto [many, manySamples] = opened(large, samples);
        std::printf("open a job of 5,000 runs%s: %.0f ms, %.0f times one of 50 runs\n",
                    samples ? (" and read their " + std::to_string(manySamples) + " samples").c_str() : "",
                    many, many / few);
    }
}

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
    largeJob(house);
}
