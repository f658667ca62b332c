// Every pair of arms is compared with the runs of its turns (comparison.h). With k arms these are k (k − 1) /
// 2 comparisons, each of which is held to its part of the risk, so that of twenty trials of equal things at
// most one names a winner.
#include "benchmark/trial_ranking.h"

#include <algorithm>
#include <functional>
#include <map>

namespace metrodos::benchmark {
namespace {

struct Arm {
    house::Id route;
    std::vector<Run> runs; // in the order of their turns
    std::vector<double> rates;
};

// Complete runs of the places, with the most streams that the step asks for.
std::map<std::string, Arm> armsOf(const house::Trial& trial, const RouteRuns& runs, Direction direction,
                                  Rule rule) {
    std::map<std::string, Arm> out;
    for (const house::TrialStep& step : trial.steps) {
        if (step.arm.empty() || step.streams.empty()) continue;
        Arm& arm = out[step.arm];
        arm.route = step.route;
        const int most = *std::max_element(step.streams.begin(), step.streams.end());
        for (const auto& [route, run] : runs) {
            if (run.step != step.id || !run.complete || run.config.direction != direction ||
                run.config.streams != most)
                continue;
            arm.runs.push_back(run);
            arm.rates.push_back(figureOf(run, rule).bps());
        }
    }
    return out;
}

} // namespace

std::optional<Ranking> rankArms(const house::House& house, const house::Trial& trial, const RouteRuns& runs,
                                Direction direction) {
    const Rule rule = house.measuring.summary;
    const std::map<std::string, Arm> arms = armsOf(trial, runs, direction, rule);
    Ranking out;
    for (const auto& [name, arm] : arms) {
        const auto summary = summarise(arm.runs, direction, rule);
        if (!summary) continue;
        const house::Route* route = house.route(arm.route);
        out.arms.push_back({name, arm.route, route == nullptr ? name : route->label, *summary});
    }
    if (out.arms.size() < 2) return std::nullopt;
    std::ranges::stable_sort(out.arms, std::ranges::greater(),
                             [](const RankedArm& arm) { return arm.summary.goodput; });
    const auto comparisons = static_cast<int>(arms.size() * (arms.size() - 1) / 2);
    for (std::size_t i = 0; i + 1 < out.arms.size(); ++i) {
        const auto quoted = [&](std::size_t k) { return "“" + out.arms[k].label + "”"; };
        Comparison c = compare(arms.at(out.arms[i].arm).rates, arms.at(out.arms[i + 1].arm).rates, quoted(i),
                               quoted(i + 1), rule, comparisons);
        const bool isOpen = c.verdict == Verdict::tooFew || c.verdict == Verdict::undecided;
        out.words += (out.words.empty() ? "" : "; ");
        // A sentence that names its two by itself needs no names before it.
        out.words += isOpen ? quoted(i) + " and " + quoted(i + 1) + ": " + c.sentence : c.sentence;
        if (isOpen && c.morePairs < maxPairs) out.morePairs = std::max(out.morePairs, c.morePairs);
        out.neighbours.push_back(std::move(c));
    }
    return out;
}

} // namespace metrodos::benchmark
