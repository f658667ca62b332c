// What may be wrong with the things of a way that nobody has found yet, in the houses like this one: the
// faults of the catalog, as the inference believes in them before any run (trace::unknownsOf).
#pragma once

#include "capacity/predict.h"

#include <array>
#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace metrodos::weigh {

/// The faults of one thing in one direction.
struct Risk {
    struct Outcome {
        double chance = 0; ///< that it is so
        std::array<double, 5> carries =
            {}; ///< bit/s that it leaves: fifths of its distribution, equally likely
    };
    /// What its draws go by: the same thing has the same fault both ways, and on every way that passes it.
    std::string thing;
    std::vector<Outcome> outcomes;
};

/// Of each element of a way the faults that it may have, one direction after the other; those without any
/// have none. `nameOf` gives what an element is called among all ways. What loses segments leaves its Mathis
/// bound at the round trip of the way to each of several streams (trace::usualStreams). Small windows and
/// what is in no survey are no part of it: the first belong to the machine of the day, the second to no way.
struct ElementRisks {
    std::vector<Risk> forward; ///< of the prediction's route
    std::vector<Risk> backward;
};
[[nodiscard]] std::vector<ElementRisks>
risksOf(const capacity::RoutePrediction& prediction, const house::House& house,
        const catalog::Catalog& catalog, const std::function<std::string(const house::Element&)>& nameOf);

/// The least in bit/s that faults leave in the n-th house; infinity where none of them is there.
[[nodiscard]] double leftBy(const std::vector<Risk>& risks, std::uint64_t n);

} // namespace metrodos::weigh
