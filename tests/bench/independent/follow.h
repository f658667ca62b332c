// Lets the judge see a house of the second simulation: four runs, then the tests that it suggests.
#pragma once

#include "catalog/catalog.h"
#include "independent/world.h"

#include <iosfwd>
#include <string>
#include <vector>

namespace independent {

/// What was said at one time.
struct Said {
    std::string first;  ///< id of the first suspect
    bool right = false; ///< it is one of those that limit
    double ofTruth = 0; ///< probability given to those together
    double said = 0;    ///< its probability
};

struct Judged {
    std::string fault;
    std::vector<std::string> truth;
    Said afterFour;
    Said atEnd;
    std::vector<std::string> tests;
};

/// Four runs, both ways with one stream and with four, then at most so many of the suggested tests.
[[nodiscard]] Judged judge(World world, const metrodos::catalog::Catalog& catalog, int maxTests);

/// How many tests one makes by hand: stretch by stretch from the end `from` until the rate has fallen to that
/// of the whole, and then the parts of that stretch one by one until the limiter is exchanged.
[[nodiscard]] int handRoutine(const World& world);

/// Milliseconds that a verdict takes, sorted: on a route of about 25 elements with 50 runs.
[[nodiscard]] std::vector<double> timesOfVerdicts(const metrodos::catalog::Catalog& catalog, int times);

/// What the judge sees of one house in four runs, and what it says.
void tell(World world, const metrodos::catalog::Catalog& catalog, std::ostream& out);

} // namespace independent
