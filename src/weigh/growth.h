// How cost grows with rooms and years for each way, and where the lines cross.
#pragma once

#include "weigh/plan.h"

namespace metrodos::weigh {

struct GrowthLine {
    std::string way; ///< id of the class
    std::string label;
    bool everywhere = true;     ///< every spot can be reached by it
    double years = 10;          ///< after which everything of it is bought anew
    std::vector<Money> byRooms; ///< for 1, 2 … rooms, over the years asked for
    std::vector<Money> byYears; ///< for the rooms asked for, over 1, 2 … years
};

/// From here on `after` is the cheaper one.
struct Crossing {
    std::string before;
    std::string after;
    int at = 0; ///< rooms or years
};

struct Growth {
    int rooms = 1;  ///< behind byYears
    int years = 10; ///< behind byRooms
    std::vector<GrowthLine> lines;
    std::vector<Crossing> overRooms; ///< of the cheapest line only, among those that reach every spot
    std::vector<Crossing> overYears;
};

/// A room costs what the spots of this house cost on that way in the mean; shared parts are paid once, and a
/// switch as soon as the ports at the hub do not suffice. Things are bought again at the end of their own
/// life, a switch at its own; what adapters and switches draw is paid by the hour, at the price of
/// "electricity". Ways that no spot can take are left out.
[[nodiscard]] Growth growthOf(const Options& options, const Prices& prices, int rooms, int years,
                              int mostRooms = 12, int mostYears = 25);

} // namespace metrodos::weigh
