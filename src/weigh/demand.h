// What of the needs falls on what: needs have another end, which may give less than is wanted, and not
// everything goes on at once.
#pragma once

#include "weigh/options.h"

namespace metrodos::weigh {

/// Goodput each way, bit/s.
struct Rates {
    double down = 0; ///< towards the spot
    double up = 0;

    [[nodiscard]] double of(bool isDown) const { return isDown ? down : up; }
    [[nodiscard]] double larger() const { return down > up ? down : up; }
    Rates& operator+=(const Rates& other) {
        down += other.down;
        up += other.up;
        return *this;
    }
};

/// A spot's part in the traffic of the house. The service gives no more than was sold; when all that is
/// wanted from it together is more, each gets its share in proportion.
struct Demand {
    Rates wanted;            ///< its need, alone
    Rates wantedAtOnce;      ///< of it, what goes on while everybody is on
    Rates alone;             ///< of wanted, what the other ends can give it
    Rates atOnce;            ///< of wantedAtOnce, what the service can give to all
    Rates serviceAtOnce;     ///< of atOnce, with the service
    Rates inHouse;           ///< of atOnce, with other ends in the house
    Rates ofClients;         ///< of inHouse, what others draw from the device at this spot
    Rates fromService;       ///< of wanted, with the service
    Rates fromServiceAtOnce; ///< of wantedAtOnce, with the service

    /// The same if the service gave all that is wanted from it.
    [[nodiscard]] Demand ifAllWereGiven() const {
        Demand out = *this;
        out.serviceAtOnce = fromServiceAtOnce;
        return out;
    }
};

/// In the order of the spots.
[[nodiscard]] std::vector<Demand> demandsOf(const Options& options);

/// What a spot's way must carry by itself (Demand::alone).
[[nodiscard]] Rates aloneOf(const SpotOptions& spot, const Options& options);

/// What is wanted from the service by all at once, where its rate that way is known and it is less, or where
/// it is less than a single spot wants: the need that no wiring can lift.
struct ServiceShortage {
    bool down = true;
    double wanted = 0; ///< bit/s, at once
    double sold = 0;
};
[[nodiscard]] std::vector<ServiceShortage> shortagesOf(const Options& options,
                                                       const std::vector<Demand>& demands);

/// What is wanted from the service by all at once.
[[nodiscard]] Rates fromServiceAtOnce(const std::vector<Demand>& demands);

} // namespace metrodos::weigh
