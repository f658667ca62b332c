#include "benchmark/comparison.h"

#include "benchmark/statistics.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>

namespace metrodos::benchmark {
namespace {

using quantity::plain;

double varianceOf(std::span<const double> values) {
    const double centre = mean(values);
    double sum = 0;
    for (const double v : values)
        sum += (v - centre) * (v - centre);
    return sum / static_cast<double>(values.size() - 1);
}

// Half the width of the 95 % interval of a difference of means with n runs each way.
double halfWidth(double varianceA, double varianceB, double nA, double nB) {
    const double a = varianceA / nA;
    const double b = varianceB / nB;
    if (a + b <= 0) return 0;
    // Degrees of freedom by Welch and Satterthwaite.
    const double freedom = (a + b) * (a + b) / (a * a / (nA - 1) + b * b / (nB - 1));
    return studentT975(std::max(1.0, freedom)) * std::sqrt(a + b);
}

std::string rate(double bps) {
    return plain(BitRate::bitsPerSecond(std::fabs(bps)));
}

} // namespace

Comparison compare(std::span<const double> a, std::span<const double> b, const std::string& nameA,
                   const std::string& nameB) {
    Comparison out;
    if (a.size() < 2 || b.size() < 2) {
        out.morePairs = 2 - static_cast<int>(std::min(a.size(), b.size()));
        out.sentence = "two runs of each are the least that says how much they vary";
        return out;
    }
    out.meanA = mean(a);
    out.meanB = mean(b);
    out.difference = out.meanA - out.meanB;
    const double varianceA = varianceOf(a);
    const double varianceB = varianceOf(b);
    const auto nA = static_cast<double>(a.size());
    const auto nB = static_cast<double>(b.size());
    const double half = halfWidth(varianceA, varianceB, nA, nB);
    out.low = out.difference - half;
    out.high = out.difference + half;
    const double worth = negligible * std::max(out.meanA, out.meanB);
    const auto settles = [&](double h) {
        return std::fabs(out.difference) > h || std::fabs(out.difference) + h < worth;
    };
    if (std::fabs(out.difference) + half < worth) {
        out.verdict = Verdict::alike;
        out.sentence = nameA + " and " + nameB + " are alike, within " +
                       quantity::significant(negligible * 100, 1) + " %";
        return out;
    }
    if (settles(half)) {
        out.verdict = out.difference > 0 ? Verdict::aFaster : Verdict::bFaster;
        out.sentence = (out.difference > 0 ? nameA : nameB) + " is faster by " + rate(out.difference) + " (" +
                       rate(std::min(std::fabs(out.low), std::fabs(out.high))) + " to " +
                       rate(std::max(std::fabs(out.low), std::fabs(out.high))) + ")";
        return out;
    }
    out.verdict = Verdict::undecided;
    out.morePairs = maxPairs;
    for (int more = 1; more <= maxPairs; ++more)
        if (settles(halfWidth(varianceA, varianceB, nA + more, nB + more))) {
            out.morePairs = more;
            break;
        }
    out.sentence =
        out.morePairs == 1 ? "not settled: one more pair of runs would settle it"
        : out.morePairs < maxPairs
            ? "not settled: about " + std::to_string(out.morePairs) + " more pairs of runs would settle it"
            : "not settled: they vary too much for a difference this small; look for what makes them vary";
    return out;
}

} // namespace metrodos::benchmark
