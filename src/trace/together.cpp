#include "trace/together.h"

#include "benchmark/summary.h"
#include "house/route.h"

#include <algorithm>
#include <cmath>
#include <functional>

namespace metrodos::trace {
namespace {

double binaryEntropy(double p) {
    return p <= 0 || p >= 1 ? 0 : -p * std::log2(p) - (1 - p) * std::log2(1 - p);
}

} // namespace

std::optional<SlowBeside> slowBeside(const Case& asked) {
    constexpr double much = 0.7;
    for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward}) {
        std::vector<benchmark::Run> alone;
        std::vector<benchmark::Run> beside;
        for (const benchmark::Run& run : asked.runs)
            if (run.showsCeiling() && run.conditions.othersActive)
                (*run.conditions.othersActive ? beside : alone).push_back(run);
        const auto quiet = benchmark::capacitySummary(alone, d, benchmark::Rule::median);
        const auto busy = benchmark::capacitySummary(beside, d, benchmark::Rule::median);
        if (quiet && busy && busy->goodput.bps() <= much * quiet->goodput.bps())
            return SlowBeside{d, busy->goodput, quiet->goodput};
    }
    return std::nullopt;
}

std::optional<NextTest> bothAtOnce(const Case& asked, const std::vector<Suspect>& suspects) {
    if (!slowBeside(asked)) return std::nullopt;
    const house::RouteFinder finder(asked.house);
    const house::Route* other = nullptr;
    double shared = 0;
    for (const house::Route& route : asked.house.routes) {
        const auto elements =
            route.id == asked.prediction.route.id ? std::nullopt : std::optional(finder.find(route));
        if (!elements || !*elements) continue;
        double sum = 0;
        for (const Suspect& suspect : suspects)
            if (std::any_of((*elements)->begin(), (*elements)->end(),
                            [&](const house::Element& e) { return e.id == suspect.element; }))
                sum += suspect.probability;
        if (sum <= shared) continue;
        shared = sum;
        other = &route;
    }
    if (other == nullptr) return std::nullopt;
    NextTest out;
    out.id = "together-" + other->id;
    if (std::find(asked.declined.begin(), asked.declined.end(), out.id) != asked.declined.end())
        return std::nullopt;
    out.does = "Run “" + asked.prediction.route.label + "” and “" + other->label + "” at the same time";
    out.minutes = asked.catalog.faults.minutes.at("run");
    out.kind = TestKind::together;
    out.beside = other->id;
    out.informationBits = binaryEntropy(shared);
    out.outcomes = {{"each slower than alone", "the limit is among the things that both pass", shared},
                    {"both as fast as alone", "what the others take lies elsewhere", 1 - shared}};
    std::ranges::stable_sort(out.outcomes, std::ranges::greater(), &Outcome::probability);
    return out;
}

} // namespace metrodos::trace
