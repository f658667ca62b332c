#include "trace/diagnose.h"

#include "benchmark/statistics.h"
#include "quantity/format.h"
#include "trace/limiter.h"
#include "trace/next_tests.h"
#include "trace/signatures.h"

#include <algorithm>
#include <cmath>
#include <iterator>
#include <numeric>

namespace metrodos::trace {
namespace {

using benchmark::Direction;
using benchmark::Run;
using capacity::Distribution;
using capacity::RoutePrediction;
using quantity::plain;

std::vector<Distribution> ceilings(const RoutePrediction& prediction, Direction d) {
    std::vector<Distribution> out;
    for (const auto& e : prediction.elements)
        out.push_back(d == Direction::forward ? e.ceiling.forward : e.ceiling.backward);
    return out;
}

struct Without {
    BitRate rate;
    std::size_t next = 0; // the element that would limit then
};

// What the route would carry without the elements that this one stands for: itself and those of the same
// ceiling and kind, since two equal ports must both be replaced.
Without without(const RoutePrediction& prediction, std::size_t removed, Direction d, BitRate atLeast) {
    std::vector<Distribution> rest;
    std::vector<std::size_t> index;
    const auto centre = [&](std::size_t i) {
        return (d == Direction::forward ? prediction.elements[i].forward : prediction.elements[i].backward)
            .p50.bps();
    };
    const std::vector<Distribution> all = ceilings(prediction, d);
    for (std::size_t i = 0; i < all.size(); ++i) {
        const bool same = prediction.elements[i].element.kind == prediction.elements[removed].element.kind &&
                          std::fabs(centre(i) / centre(removed) - 1) < 0.01;
        if (i == removed || same) continue;
        rest.push_back(all[i]);
        index.push_back(i);
    }
    if (rest.empty()) return {atLeast, removed};
    const capacity::Least least = capacity::leastOf(rest);
    const auto best = std::max_element(least.limiter.begin(), least.limiter.end()) - least.limiter.begin();
    return {std::max(least.spread.p50, atLeast), index[static_cast<std::size_t>(best)]};
}

std::string percent(double p) {
    return p > 0.995 ? ">99 %" : quantity::significant(p * 100, 2) + " %";
}

} // namespace

std::optional<BitRate> capacityMeasured(const std::vector<Run>& runs, Direction direction) {
    int most = 0;
    for (const Run& run : runs)
        if (run.order.direction == direction && run.samples.size() >= 5)
            most = std::max(most, run.order.streams);
    std::vector<double> rates;
    for (const Run& run : runs)
        if (run.order.direction == direction && run.samples.size() >= 5 && run.order.streams == most)
            rates.push_back(run.goodput.bps());
    if (rates.empty()) return std::nullopt;
    return BitRate::bitsPerSecond(benchmark::quantile(rates, 0.5));
}

Diagnosis diagnose(const RoutePrediction& prediction, const catalog::Catalog& catalog,
                   const std::vector<Run>& all) {
    // A paced run, or one beside others, says no more than "at least so much" about the route.
    std::vector<Run> runs;
    std::copy_if(all.begin(), all.end(), std::back_inserter(runs),
                 [](const Run& run) { return run.showsCeiling(); });
    Diagnosis out;
    out.route = prediction.route.id;
    out.measuredForward = capacityMeasured(runs, Direction::forward);
    out.measuredBackward = capacityMeasured(runs, Direction::backward);
    const std::size_t n = prediction.elements.size();
    const bool anyRun = out.measuredForward || out.measuredBackward;

    // Each direction that was measured has one voice; with none, both predictions have.
    std::vector<double> probability(n + 1, 0.0);
    double voices = 0;
    for (const Direction d : {Direction::forward, Direction::backward}) {
        const auto measured = d == Direction::forward ? out.measuredForward : out.measuredBackward;
        if (anyRun && !measured) continue;
        const std::vector<double> p = limiterGiven(ceilings(prediction, d), measured);
        for (std::size_t i = 0; i <= n; ++i)
            probability[i] += p[i];
        voices += 1;
    }
    for (double& p : probability)
        p /= voices;

    const std::vector<Reading> readings = readSignatures(prediction, catalog, runs);
    for (const Reading& reading : readings)
        if (reading.element.empty()) out.warnings.push_back(reading.text);

    std::vector<std::size_t> order(n + 1);
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return probability[a] > probability[b]; });
    // The direction that speaks: the slower one measured, or the slower one predicted.
    Direction spoken =
        prediction.backward.p50 < prediction.forward.p50 ? Direction::backward : Direction::forward;
    if (anyRun) {
        spoken = out.measuredForward ? Direction::forward : Direction::backward;
        if (out.measuredForward && out.measuredBackward &&
            out.measuredBackward->bps() < 0.98 * out.measuredForward->bps())
            spoken = Direction::backward;
    }
    const auto measured = spoken == Direction::forward ? out.measuredForward : out.measuredBackward;
    std::size_t next = n;
    for (const std::size_t i : order) {
        if (probability[i] < 0.005 && !out.suspects.empty()) break;
        Suspect suspect;
        suspect.probability = probability[i];
        if (i == n) {
            suspect.element = unlisted;
            suspect.label = "something that is not in the survey";
            suspect.ceiling = measured.value_or(BitRate());
            suspect.because.push_back(
                anyRun ? "the ceilings of the elements explain the measured figure less well"
                       : "one route in twenty is held back by what nobody wrote down");
        } else {
            const auto& e = prediction.elements[i];
            const auto& spread = spoken == Direction::forward ? e.forward : e.backward;
            suspect.element = e.element.id;
            suspect.label = e.element.label;
            suspect.ceiling = measured && suspect.probability > 0.5 ? *measured : spread.p50;
            suspect.because.push_back(e.ceiling.because);
            if (measured)
                suspect.because.push_back(
                    "measured " + plain(*measured) + " " + benchmark::name(spoken) + ", expected of it " +
                    (spread.p10 == spread.p90 ? plain(spread.p50)
                                              : plain(spread.p10) + " to " + plain(spread.p90)));
            for (const Reading& reading : readings)
                if (reading.element == e.element.id) suspect.because.push_back(reading.text);
            const Without rest = without(prediction, i, spoken, measured.value_or(BitRate()));
            suspect.ifReplaced = rest.rate;
            if (out.suspects.empty()) next = rest.next;
        }
        out.suspects.push_back(std::move(suspect));
    }
    out.nextTests = nextTests(prediction, probability, runs);

    const Suspect& first = out.suspects.front();
    const auto need =
        spoken == Direction::forward ? prediction.route.needForward : prediction.route.needBackward;
    const BitRate carried =
        measured.value_or(spoken == Direction::forward ? prediction.forward.p50 : prediction.backward.p50);
    if (next < n) out.nextElement = prediction.elements[next].element.label;
    out.sentence = (anyRun ? "The limit is " : "Expected limit: ") + first.label + " (" +
                   percent(first.probability) + "): " + plainBoth(carried);
    if (need && carried >= *need)
        out.sentence += ". That meets the need of " + plain(*need) + ": nothing to replace";
    else if (first.ifReplaced && *first.ifReplaced > carried * 1.05)
        out.sentence += ". Without it " + out.nextElement + " would allow " + plain(*first.ifReplaced);
    out.sentence += ".";
    return out;
}

} // namespace metrodos::trace
