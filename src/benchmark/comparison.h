// Whether two things differ, from runs that took turns, and how many more it takes to know.
#pragma once

#include "benchmark/summary.h"

#include <optional>
#include <span>
#include <string>

namespace metrodos::benchmark {

enum class Verdict {
    tooFew,  ///< fewer than three pairs of runs
    aFaster, ///< the interval of the ratio lies above 1
    bFaster,
    alike, ///< it lies within ± `negligible`
    undecided,
};

struct Comparison {
    Verdict verdict = Verdict::tooFew;
    int pairs = 0;
    double ratio = 1; ///< of A to B: the centre of the pairs' ratios by the rule, taken in their logarithms
    double low = 1; ///< its interval; looking after each pair, one of twenty comparisons of equal things ends
                    ///< with a winner
    double high = 1;
    int morePairs =
        0; ///< further pairs that would settle it four times of five, from the spread so far; 0: settled
    std::string sentence;
};

inline constexpr double negligible = 0.05; ///< a difference that nobody would pay for, relative
inline constexpr int maxPairs = 50;        ///< beyond, more repeats are not the way to find out

/// `a` and `b` are rates in bit/s in the order of their runs, which took turns: the n-th of each are
/// neighbours in time, and are compared with each other, so that a drift of the hour does not decide. What
/// has no partner yet does not count. The rule that sums up the runs decides what the centre of the pairs is:
/// trimmed mean, median or mean. A best run has no interval; by `best` and `sustained` the mean of all pairs
/// speaks, of `sustained` with the figures that figureOf() gives. Where it is one of several comparisons that
/// are looked at together, each is held to its part of the same risk (Bonferroni): `comparisons`, at least 1.
[[nodiscard]] Comparison compare(std::span<const double> a, std::span<const double> b,
                                 const std::string& nameA, const std::string& nameB, Rule rule = Rule::mean,
                                 int comparisons = 1);

} // namespace metrodos::benchmark
