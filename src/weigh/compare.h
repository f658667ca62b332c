// Two plans side by side: what differs, and what that buys.
#pragma once

#include "weigh/plan.h"

namespace metrodos::weigh {

struct Difference {
    house::Id spot;
    std::string label;
    std::string wayA; ///< label; empty: none
    std::string wayB;
    std::string idA; ///< of the way
    std::string idB;
    std::string classA; ///< of the adapter; empty: none
    std::string classB;
    BitRate p10A;
    BitRate p10B;
    bool carriedA = false;
    bool carriedB = false;
};

struct Comparison {
    std::vector<Difference> spots; ///< only those that differ
    Money costA;
    Money costB;
    std::string buys; ///< one sentence: "B costs ¤ 120 more and takes 40 min longer; it carries …"
};

/// Both of the same options.
[[nodiscard]] Comparison compare(const Options& options, const Prices& prices, const Plan& a, const Plan& b);

/// Whether the plan meets the needs, in one sentence without its full stop: how surely all at once, what
/// keeps it from it, or that it is the service and not the wiring. The only place that says it.
[[nodiscard]] std::string verdictOf(const Plan& plan);

/// An amount with the currency of the price book, like "¤ 120" or "¤ 0.60".
[[nodiscard]] std::string amount(const Prices& prices, Money money);

/// The same with any currency.
[[nodiscard]] std::string amount(const std::string& currency, Money money);

/// Of parts: "8", "2.42".
[[nodiscard]] std::string countText(double count);
/// "45 min", "2 h 25 min".
[[nodiscard]] std::string workTime(double minutes);

} // namespace metrodos::weigh
