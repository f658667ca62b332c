// What somebody else asks for the cabling of the house (house::Quote), held against a plan.
#pragma once

#include "weigh/plan.h"

#include <string>

namespace metrodos::weigh {

struct AgainstQuote {
    Money perRun;
    Money planLess;  ///< what the plan costs less than the quote; negative: more
    int reached = 0; ///< spots that the plan reaches by anything but what joins them already
    /// Rooms from which cabling at the quote's price per run is the cheapest of all ways over the job's
    /// years; 0: it is not up to twelve, or no cable can be laid here.
    int cheapestFrom = 0;
    std::string words; ///< whole sentences
};

/// A plan's cost has its own work in it at the price of an hour of "labour". The quote is taken as it was
/// given: what is in it beyond the runs is not known here, and the words say so.
[[nodiscard]] AgainstQuote againstQuote(const Options& options, const Prices& prices, const Plan& plan,
                                        const house::Quote& quote, int years);

/// “1850 for 5 runs from Example Cabling”: the runs (1 where they are not said, at most 500) and who asks may
/// be left out. Empty: there is none.
[[nodiscard]] quantity::Result<std::optional<house::Quote>> parseQuote(std::string_view text);
/// The same in words that parseQuote() reads.
[[nodiscard]] std::string quoteText(const house::Quote& quote);

} // namespace metrodos::weigh
