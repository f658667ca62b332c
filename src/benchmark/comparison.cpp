// Paired log ratios: d_i = ln(a_i / b_i) of neighbours in time, whose centre is tested against 0 by Student's
// t. Whoever looks after every pair and stops at the first clear one finds a winner among equals far more
// often than one time in twenty; so each look is held to a level of its own, the same for all of them (Pocock
// 1977), small enough that all looks from the third pair to the fiftieth together stay below 5 %. Pocock's
// table is for a known spread; the level here was found by simulation with the spread estimated anew at each
// look, and the tests repeat it. Why not intervals of two piles (Welch): a drift of the hour goes into both
// spreads and hides the difference that the turns were taken to show.
#include "benchmark/comparison.h"

#include "benchmark/statistics.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace metrodos::benchmark {
namespace {

constexpr std::size_t fewest = 3;       // pairs: with two the spread is a guess
constexpr double levelOfALook = 0.0045; // two-sided
constexpr double power = 0.8416;        // the normal quantile of four times of five

// The centre of log ratios by a rule. Its standard error is spread / √n, and Student's t has `lost` degrees
// of freedom fewer than there are values.
struct Centre {
    double value = 0;
    double spread = 0;
    double lost = 1;
    double level = levelOfALook;
    [[nodiscard]] double halfWidth(double n) const {
        return studentT(level, n - lost) * spread / std::sqrt(n);
    }
};

Centre centreOf(std::vector<double> logs, Rule rule) {
    // Of normal values the median has an error √(π/2) times that of the mean; of values with long tails it
    // has less than the mean, so that this is on the safe side there.
    constexpr double ofMedian = 1.2533;
    // With the median up to four pairs and the trimmed mean from then on the looks agree less with each other
    // than those of one centre; found by simulation, as the level is.
    constexpr double ofTrimmed = 1.05;
    constexpr std::size_t fewestToTrim = 5;
    const bool trims = rule == Rule::trimmed && logs.size() >= fewestToTrim;
    if (rule == Rule::median || (rule == Rule::trimmed && !trims))
        return {quantile(logs, 0.5), standardDeviation(logs) * ofMedian, 1};
    if (!trims) return {mean(logs), standardDeviation(logs), 1};
    // Tukey and McLaughlin (1963): best and worst go from the mean, and count as their neighbours in the
    // spread, which is divided by the share that is left.
    std::sort(logs.begin(), logs.end());
    const auto n = static_cast<double>(logs.size());
    const double centre = mean(std::span(logs).subspan(1, logs.size() - 2));
    logs.front() = logs[1];
    logs.back() = logs[logs.size() - 2];
    return {centre, standardDeviation(logs) / (1 - 2 / n) * ofTrimmed, 3};
}

std::string percentAbove(double ratio) {
    return quantity::significant(std::fabs(ratio - 1) * 100, 2) + " %";
}

} // namespace

Comparison compare(std::span<const double> a, std::span<const double> b, const std::string& nameA,
                   const std::string& nameB, Rule rule, int comparisons) {
    Comparison out;
    std::vector<double> logs;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i)
        if (a[i] > 0 && b[i] > 0) logs.push_back(std::log(a[i] / b[i]));
    out.pairs = static_cast<int>(logs.size());
    if (logs.size() < fewest) {
        out.morePairs = static_cast<int>(fewest - logs.size());
        out.sentence = "three runs of each, in turns, are the least that says how much they vary";
        return out;
    }
    const auto n = static_cast<double>(logs.size());
    Centre found = centreOf(logs, rule);
    found.level = levelOfALook / std::max(comparisons, 1);
    const double centre = found.value;
    const double half = found.halfWidth(n);
    const double worth = std::log(1 + negligible);
    out.ratio = std::exp(centre);
    out.low = std::exp(centre - half);
    out.high = std::exp(centre + half);
    if (std::fabs(centre) + half < worth) {
        out.verdict = Verdict::alike;
        out.sentence = nameA + " and " + nameB + " are alike, within " +
                       quantity::significant(negligible * 100, 1) + " %";
        return out;
    }
    if (std::fabs(centre) > half) {
        out.verdict = centre > 0 ? Verdict::aFaster : Verdict::bFaster;
        // Of the slower one, whichever it is.
        const double by = std::exp(std::fabs(centre));
        const double least = std::exp(std::fabs(centre) - half);
        const double most = std::exp(std::fabs(centre) + half);
        out.sentence = (centre > 0 ? nameA : nameB) + " is faster by " + percentAbove(by) + " (" +
                       percentAbove(least) + " to " + percentAbove(most) + ")";
        return out;
    }
    out.verdict = Verdict::undecided;
    out.morePairs = maxPairs;
    for (int more = 1; more < maxPairs; ++more) {
        const double later = n + more;
        const double reach = found.halfWidth(later) + power * found.spread / std::sqrt(later);
        if (std::fabs(centre) > reach || std::fabs(centre) + reach < worth) {
            out.morePairs = more;
            break;
        }
    }
    out.sentence =
        out.morePairs == 1 ? "not settled: one more pair of runs is likely to settle it"
        : out.morePairs < maxPairs
            ? "not settled: about " + std::to_string(out.morePairs) +
                  " more pairs of runs are likely to settle it"
            : "not settled: they vary too much for a difference this small; look for what makes them vary";
    return out;
}

} // namespace metrodos::benchmark
