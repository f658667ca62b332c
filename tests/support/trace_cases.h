// Random houses with one route, hidden faults and noise, and what becomes of them when the suggested tests
// are followed. The truth is the simulation's; the inference sees the survey and the runs only.
#pragma once

#include "standin/simulate.h"
#include "trace/diagnose.h"

#include <random>

namespace metrodos::testing {

struct TraceCase {
    house::House surveyed; ///< what the installer wrote down
    house::House real;     ///< the same house with all that is known, and what is wrong in it
    std::vector<standin::HiddenFault> hidden;
    std::uint64_t seed = 1;
    std::string fault; ///< what was done to it, for messages

    [[nodiscard]] const house::Route& route() const { return real.routes.front(); }
    /// Of the real house.
    [[nodiscard]] std::vector<house::Element> elements() const;
};

[[nodiscard]] TraceCase randomCase(std::mt19937_64& random, const catalog::Catalog& catalog);

/// The elements that limit the route in its slower direction with four streams, by name; several where they
/// are within three in a hundred of the least.
[[nodiscard]] std::vector<std::string> limitersOf(const TraceCase& c, const catalog::Catalog& catalog);

struct Followed {
    std::vector<trace::Diagnosis> steps; ///< before the first test, and after each
    std::vector<std::string> tests;      ///< ids of the tests made
    double minutes = 0;
    [[nodiscard]] const trace::Diagnosis& last() const { return steps.back(); }
};

/// Makes the first of the suggested tests, again and again, until none is suggested or so many were made.
[[nodiscard]] Followed follow(TraceCase c, const catalog::Catalog& catalog, int maxTests = 12);

/// The tests that the hand routine needs on the same case: after the whole route one stretch after another,
/// from the end `from` outwards, until the rate has come down to that of the whole; then the parts of that
/// stretch are exchanged one by one until the limiter is met.
[[nodiscard]] int handRoutine(const TraceCase& c, const catalog::Catalog& catalog);

} // namespace metrodos::testing
