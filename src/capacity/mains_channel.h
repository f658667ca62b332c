// What mains adapters carry between two outlets: loss and noise over frequency, bits per carrier, PHY rate
// each way, goodput.
#pragma once

#include "capacity/contribution.h"
#include "capacity/distribution.h"
#include "capacity/mains_path.h"

#include <memory>

namespace metrodos::capacity {

struct MainsQuestion {
    house::Id outletA; ///< the adapter towards `from`
    house::Id outletB;
    house::Strip stripA = house::Strip::wall;
    house::Strip stripB = house::Strip::wall;
    std::string deviceClass; ///< catalog id of the slower adapter; empty: the fastest class
    std::optional<int> hour; ///< 0–23; nothing: any hour
    bool withCosts = false;  ///< what each contribution costs, and the hours
};

/// Half-duplex: each direction's goodput is what it carries alone.
struct MainsForecast {
    bool isKnown = false; ///< both outlets are on circuits of the survey
    Distribution forward = Distribution::certain(BitRate::bitsPerSecond(1)); ///< A to B
    Distribution backward = Distribution::certain(BitRate::bitsPerSecond(1));
    catalog::RateSpread phyForward;
    catalog::RateSpread phyBackward;
    std::vector<Contribution> contributions; ///< at 15 MHz; costs in bit/s of the slower direction
    std::vector<std::string> rulings;
    std::vector<double>
        byHour; ///< median of the slower direction for each hour, bit/s; empty unless asked for
};

/// PHY rate = Σ over carriers of bits / symbol time × net share, bits = log2(1 + SNR / gap), cut to the
/// class's, below 1 unused; goodput = PHY × MAC share. docs/models.md has the equations. The fading of a pair
/// of outlets is the same in both directions and in every call; noise belongs to the receiving outlet.
[[nodiscard]] MainsForecast mainsForecast(const house::House& house, const catalog::Catalog& catalog,
                                          const MainsQuestion& question);

/// The same for many pairs of one house: how loud each appliance is at an outlet is worked out once. Holds
/// references to house and catalog; for one thread.
class MainsPlant {
  public:
    MainsPlant(const house::House& house, const catalog::Catalog& catalog);
    ~MainsPlant();

    [[nodiscard]] MainsForecast forecast(const MainsQuestion& question) const;
    /// All of the house that a forecast between two outlets depends on, as text: the same text, the same
    /// forecast.
    [[nodiscard]] std::string key(const house::Id& outletA, const house::Id& outletB) const;

  private:
    struct Impl;
    std::unique_ptr<Impl> m_impl;
};

/// The outlet of a room that carries most to `far`, by the slower direction's median, with every outlet's
/// figure, best first.
struct OutletChoice {
    house::Id outlet;
    catalog::RateSpread slower;
};
[[nodiscard]] std::vector<OutletChoice> bestOutlets(const house::House& house,
                                                    const catalog::Catalog& catalog, const house::Id& room,
                                                    const house::Id& far, const std::string& deviceClass);

} // namespace metrodos::capacity
