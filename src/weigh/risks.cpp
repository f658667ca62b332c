#include "weigh/risks.h"

#include "quantity/draw.h"
#include "trace/tolerances.h"
#include "trace/unknowns.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace metrodos::weigh {
namespace {

constexpr double nothingInTheWay = 1e15; // bit/s, above all that there is

// The faults of one unknown in one sense; `gain` turns what it leaves into ln bit/s.
Risk riskOf(const trace::Unknown& unknown, int sense, double gain, const std::string& thing) {
    Risk out;
    out.thing = thing;
    for (const trace::State& state : unknown.states) {
        if (state.fault == nullptr) continue;
        Risk::Outcome outcome;
        outcome.chance = state.weight;
        const trace::Curve& curve = state.carries[static_cast<std::size_t>(sense)];
        constexpr double all = 100; // in ln bit/s, either way
        for (std::size_t i = 0; i < outcome.carries.size(); ++i) {
            const double u = (static_cast<double>(i) + 0.5) / static_cast<double>(outcome.carries.size());
            outcome.carries[i] = std::min(nothingInTheWay, std::exp(curve.draw(-all, all, u) + gain));
        }
        out.outcomes.push_back(outcome);
    }
    return out;
}

} // namespace

std::vector<ElementRisks> risksOf(const capacity::RoutePrediction& prediction, const house::House& house,
                                  const catalog::Catalog& catalog,
                                  const std::function<std::string(const house::Element&)>& nameOf) {
    std::vector<ElementRisks> out(prediction.elements.size());
    const trace::Unknowns unknowns = trace::unknownsOf(prediction, house, catalog);
    const auto add = [&](std::size_t i, const trace::Unknown& unknown, double gain, const char* what) {
        for (const bool forward : {true, false}) {
            Risk risk = riskOf(unknown, trace::senseOf(prediction.elements, i, forward), gain,
                               nameOf(prediction.elements[i].element) + what);
            if (!risk.outcomes.empty())
                (forward ? out[i].forward : out[i].backward).push_back(std::move(risk));
        }
    };
    for (std::size_t i = 0; i < unknowns.elements; ++i)
        add(i, unknowns.all[i], 0, " fault");
    const double perStream = trace::lossBound(std::max(prediction.rttMicroseconds.p50, 1.0));
    for (const auto& [i, unknown] : unknowns.losses)
        add(i, unknown, std::log(perStream * trace::usualStreams), " loss");
    return out;
}

double leftBy(const std::vector<Risk>& risks, std::uint64_t n) {
    double out = std::numeric_limits<double>::infinity();
    for (const Risk& risk : risks) {
        double u = quantity::uniformOf(n, risk.thing);
        for (const Risk::Outcome& outcome : risk.outcomes) {
            if (u >= outcome.chance) {
                u -= outcome.chance;
                continue;
            }
            // What is left of u is even again within the outcome.
            const auto fifth =
                static_cast<std::size_t>(u / outcome.chance * static_cast<double>(outcome.carries.size()));
            out = std::min(out, outcome.carries[std::min(fifth, outcome.carries.size() - 1)]);
            break;
        }
    }
    return out;
}

} // namespace metrodos::weigh
