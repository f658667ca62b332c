// One way for each spot, and what follows from that: parts, cost, ports, headroom.
#pragma once

#include "weigh/hub.h"
#include "weigh/price_book.h"

#include <limits>

namespace metrodos::weigh {

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
    std::string nicClass;    ///< of a network adapter for its machine; empty: none
    bool carried = false;    ///< all that its other ends can give it, with the rest of the house
    bool isFed = true;       ///< they can give all that is wanted, the service to all at once
    BitRate p10;             ///< of the direction with less headroom, at once with all the others
    BitRate p50;
    BitRate need; ///< that way, as it was asked for
    /// How many times all needs could grow together before anything on the way of this one is full, at the
    /// share: the service and the ports and uplinks of the hub included.
    double headroom = 0;
    double houseHeadroom = 0; ///< the same without the service: what the house could do for a later one
    /// Of the houses like this one, with what is found wrong in such houses as often as the catalog says,
    /// those that give it all it needs at once; 0 before estimateConfidence().
    double carriedShare = 0;
    double soundShare = 0; ///< of those in which nothing is wrong; never less
    std::string limit;     ///< label of what decides
    std::string limitId;   ///< its resource, or the spot's id where it is the spot's own

    /// Whether the need is met.
    [[nodiscard]] bool isMet() const { return carried && isFed; }
};

/// What keeps a need from being carried.
struct Limit {
    std::string element; ///< "service", a resource, a spot's or a device's id
    bool down = true;
    BitRate need;
    BitRate carries; ///< of it
    std::string because;
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
    double load = 0; ///< of the fullest thing of the house by what is wanted and carried, at the share; above
                     ///< 1 where more is wanted than the service can fill
    double headroom = 0;           ///< the worst houseHeadroom of those that are carried: 1 / load
    bool carriesAll = false;       ///< every need is met
    bool wiringCarriesAll = false; ///< all that the other ends can give is carried
    std::vector<Limit> limits;     ///< where a need is not met; the service first
    double carriedShare = 0;       ///< of the houses like this one in which all needs are met at once
    double soundShare = 0;         ///< of those in which nothing is wrong
    double gap = 0; ///< proven: nothing that the objective wants can be better by more than this share
    std::vector<std::string> notes;
};

/// What every choice of ways asks of the options, worked out once for a search that makes thousands of them.
struct Prepared {
    explicit Prepared(const Options& options);
    std::vector<Demand> demands;
    std::vector<std::vector<double>> carried;            ///< carriedBy, by spot and way
    std::vector<std::vector<std::vector<double>>> rates; ///< at the share, by spot, way and passage
};

/// The share of each shared medium's time that carries nobody's traffic: what each node beyond the first two
/// takes, and what two families of adapters take from each other.
[[nodiscard]] std::map<std::string, double> lostTime(const std::vector<const SpotWay*>& ways);

/// How much of each resource of a choice is taken at the share, by resource; above 1 is too much.
struct Loads {
    std::map<std::string, double> fed;    ///< by what goes on at once of what the other ends can give
    std::map<std::string, double> wanted; ///< by what was asked for; what is a spot's own, by its whole need
};
[[nodiscard]] Loads loadsOf(const Options& options, const std::vector<Demand>& demands,
                            const std::vector<Pick>& picks, const Prepared* prepared = nullptr);

/// What a choice comes to, with one of the hubs. Nothing when it cannot be: a way that is ruled out,
/// a need marked as carried that is not, or too few ports. With `prepared` of the same options, as a search
/// asks: only cost, load, holes, years and steadiness, without the figures of spots and the parts.
[[nodiscard]] std::optional<Plan> planOf(const Options& options, const Prices& prices,
                                         const std::vector<Pick>& picks, const std::vector<Hub>& hubs,
                                         const HubChoice& choice = {}, const Prepared* prepared = nullptr);
/// The same with any hub.
[[nodiscard]] std::optional<Plan> planOf(const Options& options, const Prices& prices,
                                         const std::vector<Pick>& picks, const HubChoice& choice = {});

/// How much is not carried: 0 for a need that is; 2 less the share of it (0–1) for one that is not; 3 where
/// nothing goes, which is worse than any way.
[[nodiscard]] double uncarriedOf(const SpotOptions& spot, const Options& options, const Pick& pick);
/// Of all spots together.
[[nodiscard]] double uncarriedOf(const Options& options, const std::vector<Pick>& picks);

} // namespace metrodos::weigh
