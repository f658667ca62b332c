#include "weigh/local_search.h"

#include "weigh/tolerances.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>

namespace metrodos::weigh {
namespace {

constexpr int maxPasses = 8;

// What each goal comes to, in the order of the goals.
std::optional<std::vector<double>> valuesOf(const Options& options, const Prices& prices,
                                            const SolveRequest& request, const std::vector<Hub>& hubs,
                                            const std::vector<Pick>& picks, const Prepared& prepared) {
    const bool byLoad =
        std::find(request.goals.begin(), request.goals.end(), Goal::load) != request.goals.end();
    const auto plan = planOf(options, prices, picks, hubs, {request.maxLoad, byLoad}, &prepared);
    if (!plan) return std::nullopt;
    std::vector<double> out;
    for (const Goal goal : request.goals)
        switch (goal) {
        case Goal::carry:
            out.push_back(0);
            for (std::size_t i = 0; i < picks.size(); ++i)
                out.back() +=
                    picks[i].way < 0 ? uncarriedOf(options.spots[i], options, picks[i])
                    : picks[i].carried
                        ? 0
                        : 2 - std::min(1.0, prepared.carried[i][static_cast<std::size_t>(picks[i].way)]);
            break;
        case Goal::cost:
            out.push_back(plan->cost.inUnits());
            break;
        case Goal::unsteady:
            out.push_back(plan->unsteady);
            break;
        case Goal::holes:
            out.push_back(plan->holes);
            break;
        case Goal::load:
            out.push_back(plan->load);
            break;
        case Goal::decay: {
            double decay = 0;
            for (std::size_t i = 0; i < picks.size(); ++i)
                if (picks[i].way >= 0) decay += 1 / std::max(options.spots[i].way(picks[i].way).years, 1.0);
            out.push_back(decay);
            break;
        }
        }
    return out;
}

bool isBetter(const std::vector<double>& a, const std::vector<double>& b) {
    for (std::size_t i = 0; i < a.size(); ++i)
        if (std::abs(a[i] - b[i]) > loadTolerance) return a[i] < b[i];
    return false;
}

} // namespace

std::vector<Pick> improvedChoice(const Options& options, const Prices& prices, const SolveRequest& request) {
    const std::vector<Hub> hubs = hubsOf(options, prices);
    const Prepared prepared(options);
    std::vector<Pick> picks(options.spots.size(), {-1, false});
    auto best = valuesOf(options, prices, request, hubs, picks, prepared);
    if (!best) return picks;
    // What needs most has the fewest ways, and goes first.
    std::vector<std::size_t> order(options.spots.size());
    std::iota(order.begin(), order.end(), 0U);
    std::ranges::stable_sort(order, std::ranges::greater(), [&](std::size_t spot) {
        return aloneOf(options.spots[spot], options).larger();
    });
    bool changed = true;
    for (int pass = 0; pass < maxPasses && changed; ++pass) {
        changed = false;
        for (const std::size_t i : order) {
            const SpotOptions& spot = options.spots[i];
            Pick chosen = picks[i];
            for (std::size_t w = 0; w < spot.ways.size(); ++w) {
                if (!spot.mayTake(spot.ways[w])) continue;
                const bool can = !fallsShort(prepared.carried[i][w], 1);
                for (const bool carried : {true, false}) {
                    if ((carried && !can) || (!carried && !spot.need.any())) continue;
                    picks[i] = {static_cast<int>(w), carried};
                    auto values = valuesOf(options, prices, request, hubs, picks, prepared);
                    if (!values || !isBetter(*values, *best)) continue;
                    best = std::move(values);
                    chosen = picks[i];
                    changed = true;
                }
            }
            picks[i] = chosen;
        }
    }
    return picks;
}

} // namespace metrodos::weigh
