// The engine against a minimal send and receive loop with the same buffer, in turn within one run; and how
// long the computations behind the window take.
#include "benchmark/statistics.h"
#include "capacity/predictor.h"
#include "catalog/load.h"
#include "support/agents.h"
#include "support/houses.h"
#include "support/random_house.h"
#include "support/runs.h"
#include "trace/diagnose.h"

#include <cstdio>

namespace {

using namespace metrodos;
using namespace metrodos::testing;
using Clock = std::chrono::steady_clock;

constexpr double runSeconds = 3;
constexpr double warmup = 0.5;
constexpr int rounds = 5;

// As plain as it gets: one thread a side and stream, blocking calls of 128 KiB, counted at the receiver.
double minimalLoop(int streams) {
    constexpr std::size_t buffer = 128 * 1024;
    const Fd listener = listenOn(resolve("127.0.0.1:0").value()).value();
    const Address address = localAddress(listener.get());
    std::atomic<bool> stop{false};
    std::atomic<std::uint64_t> bytes{0};
    std::vector<std::thread> threads;
    for (int i = 0; i < streams; ++i) {
        auto out = std::make_shared<Fd>(connectTo(address, std::chrono::seconds(2)).value());
        auto in = std::make_shared<Fd>(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
        threads.emplace_back([&stop, out] {
            const std::vector<char> data(buffer, 'x');
            while (!stop.load(std::memory_order_relaxed) &&
                   ::send(out->get(), data.data(), data.size(), MSG_NOSIGNAL) > 0) {
            }
            ::shutdown(out->get(), SHUT_WR);
        });
        threads.emplace_back([&bytes, in] {
            std::vector<char> data(buffer);
            for (ssize_t n = 0; (n = ::recv(in->get(), data.data(), data.size(), 0)) > 0;)
                bytes.fetch_add(static_cast<std::uint64_t>(n), std::memory_order_relaxed);
        });
    }
    std::this_thread::sleep_for(std::chrono::duration<double>(warmup));
    const std::uint64_t before = bytes;
    const auto start = Clock::now();
    std::this_thread::sleep_for(std::chrono::duration<double>(runSeconds - warmup));
    const double rate =
        static_cast<double>(bytes - before) * 8 / std::chrono::duration<double>(Clock::now() - start).count();
    stop = true;
    for (std::thread& t : threads)
        t.join();
    return rate;
}

double engine(int streams) {
    const LoopbackAgent agent;
    auto from = EndpointLink::here("here").value();
    auto to = EndpointLink::connect(agent.address, agent.key).value();
    benchmark::RunOrder order;
    order.streams = streams;
    order.seconds = runSeconds;
    order.warmup = warmup;
    return conduct(from, to, order, {}, {}).value().goodput.bps();
}

void compare(int streams) {
    std::vector<double> ratios;
    std::vector<double> ours;
    for (int i = 0; i < rounds; ++i) {
        // A B B A: a drift of the machine does not decide.
        const double first = i % 2 == 0 ? minimalLoop(streams) : engine(streams);
        const double second = i % 2 == 0 ? engine(streams) : minimalLoop(streams);
        ours.push_back(i % 2 == 0 ? second : first);
        ratios.push_back(i % 2 == 0 ? second / first : first / second);
    }
    std::printf("loopback, %d stream%s: engine / minimal loop = %.3f (%.3f to %.3f), engine %.1f Gbit/s\n",
                streams, streams == 1 ? "" : "s", benchmark::quantile(ratios, 0.5),
                benchmark::quantile(ratios, 0), benchmark::quantile(ratios, 1),
                benchmark::quantile(ours, 0.5) / 1e9);
}

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
    ignoreBrokenPipes();
    compare(1);
    compare(4);
    const auto catalog = catalog::loadDefault().value();
    const auto house = coaxHouse("usb2");
    const auto prediction = capacity::predict(house, catalog, house.routes[0]).value();
    std::vector<benchmark::Run> runs;
    for (int i = 0; i < 50; ++i)
        runs.push_back(steadyRun(benchmark::Direction::forward, 311, 4, 0.002, "r" + std::to_string(i)));
    std::printf("predict, route of %zu elements: %.1f ms\n", prediction.elements.size(),
                milliseconds([&] { (void)capacity::predict(house, catalog, house.routes[0]); }));
    std::printf("trace, the same with 50 runs: %.1f ms\n",
                milliseconds([&] { (void)trace::diagnose(prediction, catalog, runs); }));
    wholeHouse(catalog);
}
