// One way for each spot, and what follows from that: parts, cost, ports, headroom.
#pragma once

#include "weigh/options.h"
#include "weigh/price_book.h"

#include <cstdint>

namespace metrodos::weigh {

/// What is chosen for a spot.
struct Pick {
    int way = -1;        ///< index into its ways; −1: none
    bool carried = true; ///< its need is to be carried; false: as much as there is

    friend bool operator==(const Pick&, const Pick&) = default;
};

struct PartLine {
    std::string item;
    std::string label;
    std::string unit;
    double count = 0;
    int fromStock = 0; ///< of these, what is in the van
    Money unitPrice;
    Money total; ///< of what must be bought
};

struct SpotResult {
    house::Id spot;
    int way = -1;
    std::string wayId;
    std::string deviceClass; ///< of the adapter at the spot; empty: none
    bool carried = false;
    BitRate p10; ///< of the direction with less headroom, at once with all the others
    BitRate p50;
    BitRate need;
    double headroom = 0; ///< how many times all needs could grow together before this one fails, at the share
    double carriedShare =
        0; ///< of the houses like this one that carry all needs at once; 0 before estimateConfidence()
    std::string limit; ///< label of what decides
};

struct Plan {
    std::string id; ///< letters and digits, the same for the same choice
    std::string label;
    std::vector<SpotResult> spots; ///< in the order of the options
    std::vector<PartLine> parts;
    std::map<std::string, std::string> hubBoxes; ///< item by key (SpotWay::hubShare), of those to be bought
    Money cost;
    double minutes = 0; ///< own work
    int holes = 0;
    double years = 0;    ///< the mean of its ways
    double unsteady = 0; ///< sum over the spots of 1 − steadiness
    double load = 0;     ///< of the fullest resource, by the needs that are carried, at the share; 0–1
    double headroom = 0; ///< the worst of those that are carried
    bool carriesAll = false;
    double gap = 0; ///< proven: nothing that the objective wants can be better by more than this share
    std::vector<std::string> notes;
};

/// How much of each resource the carried needs take at the share, by resource; above 1 is too much.
[[nodiscard]] std::map<std::string, double> loadsOf(const Options& options, const std::vector<Pick>& picks);

/// The goodput that a hub port of a pick must have: the larger need of a wire of its own.
[[nodiscard]] BitRate portNeeded(const Need& need);

/// The hub with nothing, one or two of the switches bought.
struct Hub {
    std::vector<int> bought;  ///< indices into the offers
    std::vector<Ports> ports; ///< that are free then, by falling rate
};
/// What the hub may be, without those that another one beats in every rate and in price.
[[nodiscard]] std::vector<Hub> hubsOf(const Options& options, const Prices& prices);

/// What a choice comes to, with the cheapest of the hubs. Nothing when it cannot be: a way that is ruled out,
/// a need marked as carried that is not, or too few ports.
[[nodiscard]] std::optional<Plan> planOf(const Options& options, const Prices& prices,
                                         const std::vector<Pick>& picks, const std::vector<Hub>& hubs);
/// The same with any hub.
[[nodiscard]] std::optional<Plan> planOf(const Options& options, const Prices& prices,
                                         const std::vector<Pick>& picks);

/// How much is not carried: 0 for a need that is; 2 less the share of it (0–1) for one that is not; 3 where
/// nothing goes, which is worse than any way.
[[nodiscard]] double uncarriedOf(const SpotOptions& spot, const Options& options, const Pick& pick);
/// Of all spots together.
[[nodiscard]] double uncarriedOf(const Options& options, const std::vector<Pick>& picks);

/// Whether so much towards the spots passes a switch that is bought: it hangs on one port. What the service
/// does not bring goes from spot to spot inside the switch.
[[nodiscard]] bool uplinkHolds(const Options& options, const Hub& hub, BitRate allDown);

} // namespace metrodos::weigh
