// Paired log ratios: d_i = ln(a_i / b_i) of neighbours in time, whose mean is tested against 0 by Student's
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

// Half the width of the interval of a mean of n values of this spread.
double halfWidth(double spread, double n) {
    return studentT(levelOfALook, n - 1) * spread / std::sqrt(n);
}

std::string percentAbove(double ratio) {
    return quantity::significant(std::fabs(ratio - 1) * 100, 2) + " %";
}

} // namespace

Comparison compare(std::span<const double> a, std::span<const double> b, const std::string& nameA,
                   const std::string& nameB) {
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
    const double centre = mean(logs);
    double squares = 0;
    for (const double d : logs)
        squares += (d - centre) * (d - centre);
    const double spread = std::sqrt(squares / (n - 1));
    const double half = halfWidth(spread, n);
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
        const double reach = halfWidth(spread, later) + power * spread / std::sqrt(later);
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
