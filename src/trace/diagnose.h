// Says which element limits a route: the prediction, weighed by what the runs measured.
#pragma once

#include "benchmark/summary.h"
#include "capacity/predict.h"

#include <optional>
#include <string>
#include <vector>

namespace metrodos::trace {

using quantity::BitRate;

/// The id of the suspect that stands for everything that is not on the list of elements.
inline constexpr const char* unlisted = "unlisted";

struct Suspect {
    std::string element; ///< id of the element, or `unlisted`
    std::string label;
    double probability = 0;
    BitRate ceiling; ///< of the direction that speaks most; as measured where it is the limiter
    std::optional<BitRate> ifReplaced; ///< what the rest of the route would carry; nothing for `unlisted`
    std::vector<std::string> because;
};

struct NextTest {
    std::string id;
    std::string does;           ///< what to do, in the imperative
    double informationBits = 0; ///< expected
    int minutes = 0;
};

struct Diagnosis {
    std::string route;
    std::vector<Suspect> suspects;   ///< by falling probability, those above 0.5 %
    std::vector<NextTest> nextTests; ///< by falling information per minute
    std::vector<std::string> warnings;
    std::optional<BitRate> measuredForward;
    std::optional<BitRate> measuredBackward;
    std::string nextElement; ///< label of what would limit if the first suspect were replaced
    std::string sentence;    ///< "what is the limit now, and what next?"
};

/// `runs` are those of this route, complete or not; with none the prediction speaks alone. Paced runs and
/// those beside others are left out.
[[nodiscard]] Diagnosis diagnose(const capacity::RoutePrediction& prediction, const catalog::Catalog& catalog,
                                 const std::vector<benchmark::Run>& runs);

/// The figure that speaks for the capacity of a direction: the median of the runs with the most streams.
[[nodiscard]] std::optional<BitRate> capacityMeasured(const std::vector<benchmark::Run>& runs,
                                                      benchmark::Direction direction);

} // namespace metrodos::trace
