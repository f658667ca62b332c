// How well the suggested tests lead to the limiter over random houses with hidden faults.
#include "catalog/load.h"
#include "support/calibration.h"
#include "support/trace_cases.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <iostream>
#include <numeric>

using namespace metrodos;
using Clock = std::chrono::steady_clock;

namespace {

double median(std::vector<double> values) {
    if (values.empty()) return 0;
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2),
                     values.end());
    return values[values.size() / 2];
}

} // namespace

int main(int argc, char** argv) {
    const int cases = argc > 1 ? std::atoi(argv[1]) : 1000;
    const bool wordy = argc > 2;
    const catalog::Catalog catalog = catalog::loadDefault().value();
    std::mt19937_64 random(20260101);
    int right = 0;
    std::vector<double> tests;
    std::vector<double> hand;
    std::vector<double> minutes;
    testing::Calibration calibration;
    int ninety = 0; // statements of 0.85 to 0.95
    int ninetyRight = 0;
    for (int i = 0; i < cases; ++i) {
        const testing::TraceCase c = testing::randomCase(random, catalog);
        const auto limiters = testing::limitersOf(c, catalog);
        const testing::Followed followed = testing::follow(c, catalog);
        const auto hit = [&](const trace::Diagnosis& d) {
            return std::find(limiters.begin(), limiters.end(), d.suspects.front().element) != limiters.end();
        };
        for (const trace::Diagnosis& d : followed.steps) {
            const double p = d.suspects.front().probability;
            calibration.add(p, hit(d));
            if (p < 0.85 || p >= 0.95) continue;
            ++ninety;
            ninetyRight += hit(d) ? 1 : 0;
        }
        const bool found = hit(followed.last());
        right += found ? 1 : 0;
        tests.push_back(static_cast<double>(followed.tests.size()));
        minutes.push_back(followed.minutes);
        hand.push_back(testing::handRoutine(c, catalog));
        if (argc > 3 && std::atoi(argv[3]) == i)
            for (const trace::Diagnosis& d : followed.steps) {
                std::cout << "---\n";
                for (const trace::Suspect& suspect : d.suspects) {
                    std::cout << suspect.element << ' ' << suspect.probability << ' ' << suspect.state
                              << '\n';
                    if (&suspect == &d.suspects.front())
                        for (const std::string& b : suspect.because)
                            std::cout << "    " << b << '\n';
                }
            }
        if (wordy && !found) {
            std::cout << "case " << i << ": " << c.fault << " truth";
            for (const auto& l : limiters)
                std::cout << ' ' << l;
            std::cout << "; named " << followed.last().suspects.front().element << ' '
                      << followed.last().suspects.front().state << ' '
                      << followed.last().suspects.front().probability << "; tests";
            for (const auto& t : followed.tests)
                std::cout << ' ' << t;
            std::cout << '\n';
        }
    }
    const double n = cases;
    std::cout << "limiter named first: " << right / n << " of " << cases << " (wanted 0.95)\n"
              << "tests: median " << median(tests) << ", mean "
              << std::accumulate(tests.begin(), tests.end(), 0.0) / n << " (wanted at most 4)\n"
              << "hand routine: median " << median(hand) << ", mean "
              << std::accumulate(hand.begin(), hand.end(), 0.0) / n << "; ratio of the means "
              << std::accumulate(tests.begin(), tests.end(), 0.0) /
                     std::accumulate(hand.begin(), hand.end(), 0.0)
              << " (wanted at most 0.5)\n"
              << "minutes of work: median " << median(minutes) << '\n';
    calibration.print(std::cout);
    std::cout << "expected calibration error " << calibration.error() << " (wanted at most 0.05)\n";
    if (ninety > 0)
        std::cout << "said 0.85 to 0.95: true " << static_cast<double>(ninetyRight) / ninety << " of "
                  << ninety << " (wanted 0.85 to 0.95)\n";

    // Time, on a route of 25 elements with 50 runs.
    testing::TraceCase longest = testing::randomCase(random, catalog);
    for (int i = 0; i < 300; ++i) {
        testing::TraceCase other = testing::randomCase(random, catalog);
        const auto distance = [](const testing::TraceCase& one) {
            return std::abs(static_cast<int>(house::RouteFinder(one.real).find(one.route())->size()) - 25);
        };
        if (distance(other) < distance(longest)) longest = std::move(other);
    }
    const auto prediction =
        capacity::predict(longest.surveyed, catalog, longest.surveyed.routes.front()).value();
    trace::Case asked{prediction, longest.surveyed, catalog};
    for (int k = 0; k < 50; ++k) {
        benchmark::RunConfig config;
        config.direction = k % 2 == 0 ? benchmark::Direction::forward : benchmark::Direction::backward;
        config.streams = std::array<int, 5>{1, 4, 8, 4, 2}[static_cast<std::size_t>(k / 2 % 5)];
        config.seconds = 5;
        standin::Situation situation{longest.hidden};
        if (k % 10 == 0)
            situation.arrangement.bypassed = {
                prediction.elements[static_cast<std::size_t>(k) % prediction.elements.size()].element.id};
        asked.runs.push_back(
            standin::simulate(longest.real, catalog, longest.route(), config, longest.seed, k, situation)
                .value());
    }
    std::vector<double> times;
    for (int k = 0; k < 15; ++k) {
        asked.seed = static_cast<std::uint64_t>(k + 1);
        const auto before = Clock::now();
        asked.declined.clear();
        const auto d = trace::diagnose(asked);
        times.push_back(std::chrono::duration<double, std::milli>(Clock::now() - before).count());
    }
    std::cout << "diagnosis of " << prediction.elements.size() << " elements with " << asked.runs.size()
              << " runs, next tests ranked: median " << median(times) << " ms, slowest "
              << *std::max_element(times.begin(), times.end()) << " (wanted 100 and 300)\n";
    return 0;
}
