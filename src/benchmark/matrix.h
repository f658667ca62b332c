// Every endpoint against every other: what each pair gets alone, and chosen pairs at once.
#pragma once

#include "benchmark/summary.h"

#include <string>
#include <vector>

namespace metrodos::benchmark {

/// From one endpoint to another, by their places in the list.
struct Pair {
    std::size_t from = 0;
    std::size_t to = 0;

    friend bool operator==(const Pair&, const Pair&) = default;
};

/// Each to each in an order in which neighbours in time have no endpoint in common where that can be had, so
/// that a machine that is warm or busy from one run does not meet the next.
[[nodiscard]] std::vector<Pair> pairsOf(std::size_t endpoints);

struct MatrixCell {
    Pair pair;
    Summary summary;
};

/// What a pair got beside others, against what it gets alone.
struct SharedCell {
    Pair pair;
    BitRate alone;
    BitRate atOnce;
    [[nodiscard]] double share() const { return alone.bps() > 0 ? atOnce.bps() / alone.bps() : 0; }
};

/// "0 to 1 and 2 to 1 share something: together they get 941 Mbit/s, alone each about 940": pairs that lose a
/// tenth or more beside each other hang on one element. Empty when none does.
[[nodiscard]] std::string sharedLimit(const std::vector<SharedCell>& cells,
                                      const std::vector<std::string>& names);

/// Cells that differ by less than 5 % form a ceiling that several pairs share; the largest such group of at
/// least three pairs, with its rate. Nothing when there is none.
struct CommonCeiling {
    BitRate rate;
    std::vector<Pair> pairs;
};
[[nodiscard]] std::optional<CommonCeiling> commonCeiling(const std::vector<MatrixCell>& cells);

/// All of it.
struct Matrix {
    std::vector<std::string> names; ///< of the endpoints
    bool simulated = false;
    std::vector<MatrixCell> cells;    ///< one pair after the other
    std::vector<SharedCell> together; ///< chosen pairs at once
};

} // namespace metrodos::benchmark
