// Whole-house plans by what people want most of them, and the front of cost against headroom.
#pragma once

#include "weigh/program.h"

#include <functional>
#include <string_view>

namespace metrodos::weigh {

using house::Objective;
using house::objectives;

/// "cheapest that carries every need" …
[[nodiscard]] const char* label(Objective objective);

/// The best plan of an objective.
[[nodiscard]] quantity::Result<Plan> planBy(Objective objective, const Options& options, const Prices& prices,
                                            const std::stop_token& stop = {}, double seconds = 20);

/// Plans from the cheapest to the one with most headroom, each the cheapest of its headroom (the ε-constraint
/// method); all carry as many needs as the cheapest. At most `most`, always with both ends.
[[nodiscard]] quantity::Result<std::vector<Plan>> front(const Options& options, const Prices& prices,
                                                        const std::stop_token& stop = {}, int most = 16,
                                                        double seconds = 20);

/// All of it.
struct Weighed {
    std::vector<Plan> plans;               ///< without repeats, those of the chosen objective first
    std::map<Objective, std::string> best; ///< id of the best plan of each objective
    std::vector<std::string> front;        ///< ids by rising cost
};
/// Told after each piece of work: the share that is done, and what there is so far.
using Progress = std::function<void(double done, const Weighed& soFar)>;
[[nodiscard]] quantity::Result<Weighed> weigh(const Options& options, const Prices& prices, Objective first,
                                              const Progress& progress = {},
                                              const std::stop_token& stop = {});

} // namespace metrodos::weigh
