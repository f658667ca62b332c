// The hub of a choice of ways: which switches are bought, which port each wire takes, and what passes an
// uplink. Internal to the layer.
#pragma once

#include "weigh/demand.h"
#include "weigh/price_book.h"

#include <cstdint>
#include <limits>

namespace metrodos::weigh {

/// What is chosen for a spot.
struct Pick {
    int way = -1;        ///< index into its ways; −1: none
    bool carried = true; ///< its need is to be carried; false: as much as there is

    friend bool operator==(const Pick&, const Pick&) = default;
};

/// The hub with nothing, one or two of the switches bought.
struct Hub {
    std::vector<int> bought;  ///< indices into the offers
    std::vector<Ports> ports; ///< that are free then, by falling rate
    /// Ends of traffic within the house are put onto the largest of the switches together, so that it does
    /// not pass the uplink: as many as it has ports besides the uplink. 0: they lie as it comes.
    int together = 0;
};
/// What the hub may be, without those that another one beats in every rate and in price.
[[nodiscard]] std::vector<Hub> hubsOf(const Options& options, const Prices& prices);

/// How the hub is chosen for a choice of ways.
struct HubChoice {
    double maxLoad = std::numeric_limits<double>::infinity(); ///< of Plan::load, at most
    bool fastest = false; ///< the one with most headroom and, of equal ones, the cheapest; else the cheapest
};

/// What of a carried pick passes the uplink of a switch that is bought for the hub.
struct UplinkPart {
    Rates always;          ///< bit/s, whatever lies where
    Rates apart;           ///< and besides, unless the ends in the house lie together
    bool isInside = false; ///< it is such an end, and takes one of the switch's ports
};
[[nodiscard]] UplinkPart uplinkPartOf(const SpotWay& way, const Demand& demand);

inline constexpr std::size_t noSpot = std::numeric_limits<std::size_t>::max();

/// A port that the hub must have.
struct PortUse {
    std::size_t spot = noSpot; ///< whose wire it is; noSpot: of an adapter that several share
    double fed = 0;            ///< bit/s that it must carry
    double wanted = 0;
    std::string share = {}; ///< of the adapter's users (SpotWay::hubShare)
};

/// What goes to and from the hub.
struct HubTraffic {
    std::vector<PortUse> ports;
    Rates always; ///< over the uplink of a switch that is bought
    Rates apart;
    Rates wantedAlways;
    Rates wantedApart;
    int inside = 0; ///< ends of traffic in the house with a port of their own
};

[[nodiscard]] HubTraffic hubTrafficOf(const Options& options, const std::vector<Demand>& demands,
                                      const std::vector<Pick>& picks);

/// What a hub makes of it.
struct HubUse {
    double load = 0;                ///< of its fullest port or uplink, by what is wanted
    double uplinkLoad = 0;          ///< of the uplink alone
    std::vector<std::size_t> order; ///< of the port uses: the k-th takes the k-th fastest port
    std::vector<BitRate> ports;     ///< by that order
};
/// Nothing where the hub does not do.
[[nodiscard]] std::optional<HubUse> useOf(const Options& options, const Hub& hub, const HubTraffic& traffic,
                                          const HubChoice& choice);

} // namespace metrodos::weigh
