// Whether two sets of runs differ, and how many more it takes to know.
#pragma once

#include "benchmark/run.h"

#include <optional>
#include <span>
#include <string>

namespace metrodos::benchmark {

enum class Verdict {
    tooFew,  ///< fewer than two runs of one of them
    aFaster, ///< the 95 % interval of the difference lies above 0
    bFaster,
    alike, ///< it lies within ± `negligible` of the faster one
    undecided,
};

struct Comparison {
    Verdict verdict = Verdict::tooFew;
    double meanA = 0; ///< bit/s
    double meanB = 0;
    double difference = 0; ///< A − B
    double low = 0;        ///< 95 % interval of the difference (Welch 1947)
    double high = 0;
    int morePairs = 0; ///< further pairs of runs that would settle it, from the spread so far; 0: settled
    std::string sentence;
};

inline constexpr double negligible = 0.05; ///< a difference that nobody would pay for, relative
inline constexpr int maxPairs = 50;        ///< beyond, more repeats are not the way to find out

/// `a` and `b` are rates in bit/s.
[[nodiscard]] Comparison compare(std::span<const double> a, std::span<const double> b,
                                 const std::string& nameA, const std::string& nameB);

} // namespace metrodos::benchmark
