// What there is to choose from: for each spot the ways to it, what they carry, what they share and what they
// take.
#pragma once

#include "benchmark/route_runs.h"
#include "benchmark/watch_report.h"
#include "capacity/ways.h"
#include "weigh/need.h"
#include "weigh/risks.h"

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::weigh {

/// Parts or work of a way. What carries the same `shared` key is paid once for all ways that name it.
struct PartUse {
    std::string item; ///< of the price book
    double count = 1;
    std::string shared; ///< empty: its own
};

/// Something that a way passes and may share: a flow of rate r takes r ÷ rate of its time; the sum may not
/// exceed 1.
struct Passage {
    std::string resource; ///< "coax", "mains", "air", or one of the spot's own
    std::string label;
    capacity::Distribution rate;
    bool down = true;             ///< which way's need goes through it
    bool isOwn = false;           ///< nobody else's traffic does
    std::vector<Risk> risks = {}; ///< what may be wrong with what it stands for
    /// Share of the resource's time that another adapter takes for itself, beyond the two that the rate is
    /// of.
    double perNode = 0;
    /// A shared medium: what its adapters speak, and the share of its time that is lost where others speak
    /// another language on it.
    std::string language = {};
    double lostToOthers = 0;
};

/// What the watches of a way have seen in one direction, all together.
struct Watched {
    double seconds = 0;                      ///< that were measured
    double dropOutSeconds = 0;               ///< of them
    std::optional<catalog::RateSpread> rate; ///< over the time, of those that filled the way
};

struct SpotWay {
    std::string id; ///< of the catalog's class: "coax", "new-own" …; several may have the same
    catalog::WayMeans means = catalog::WayMeans::data;
    std::string deviceClass; ///< of the adapter at the spot, by which those of one id differ; empty: none
    std::string nicClass;    ///< of a faster network adapter for the machine at the spot; empty: none
    std::string label;
    std::vector<Passage> passages;
    catalog::RateSpread down; ///< alone on it, goodput towards the spot, the machine there included
    catalog::RateSpread up;
    /// The same whole, as the prediction of the way has it; nothing: the least of the passages.
    std::optional<capacity::Distribution> wholeDown;
    std::optional<capacity::Distribution> wholeUp;
    catalog::Spread<double> rttUs;
    /// Share of the time without a drop-out, a spike, or less than the need of the spot: by its class, its
    /// margin over the need, and how its media vary by the hour; by its watches where there are some.
    double steadiness = 1;
    double loadedUs = 0; ///< round trip that nine in ten stay below while its media are loaded
    std::optional<double> measuredLoadedUs; ///< the same as runs that filled it have it, of 95 in 100
    std::optional<Watched> watchedDown;
    std::optional<Watched> watchedUp;
    std::vector<PartUse> parts;
    double minutes = 0;     ///< own work for this spot, priced as "labour"
    double minutesOnce = 0; ///< and once for all spots on this way
    int holes = 0;
    double years = 10;
    /// Key of the box at the hub that all such ways come from; empty: a port of its own.
    std::string hubShare;
    /// Items of the price book of which one must be that box, for all ways of the key together; what is good
    /// for a faster way is in the list of a slower one as well. Empty: it is there already.
    std::vector<std::string> hubBox;
    bool takesPort = true; ///< false: that box is there and joined, so that it takes no port more at the hub
    std::string security;
    std::string rulesOut;
    std::vector<std::string> cautions;
    std::string ruledOut; ///< why it cannot be; empty: it can
    BitRate promise;      ///< the rate printed on the box; 0: none
    std::optional<BitRate> measuredDown;
    std::optional<BitRate> measuredUp;
    std::shared_ptr<const capacity::Way> route; ///< from machine to machine, where one was predicted

    [[nodiscard]] bool isPossible() const { return ruledOut.empty(); }
    /// The round trip under load that a need is held against, in microseconds.
    [[nodiscard]] double delayUs() const {
        return measuredLoadedUs.value_or(loadedUs > rttUs.p90 ? loadedUs : rttUs.p90);
    }
    /// For how long it has been watched.
    [[nodiscard]] double watchedSeconds() const {
        return (watchedDown ? watchedDown->seconds : 0) + (watchedUp ? watchedUp->seconds : 0);
    }
    /// What tells it from the other ways to its spot: "coax:coax-500", "new-own".
    [[nodiscard]] std::string key() const {
        return id + (deviceClass.empty() ? "" : ":" + deviceClass) + (nicClass.empty() ? "" : "+" + nicClass);
    }
};

struct SpotOptions {
    house::Id spot;
    std::string label;
    std::string room;
    Need need;
    std::string pin; ///< the id or the key of the way that must be taken; empty: any
    std::vector<SpotWay> ways;
    /// No spot of the job: a device that others draw from, which has to be reached as well. Its id is the
    /// device's.
    bool isPeer = false;

    /// By its index, as plans name it.
    [[nodiscard]] const SpotWay& way(int index) const { return ways[static_cast<std::size_t>(index)]; }
    /// Possible, and not ruled out by a pin.
    [[nodiscard]] bool mayTake(const SpotWay& way) const {
        return way.isPossible() && (pin.empty() || isPinned(way));
    }
    [[nodiscard]] bool isPinned(const SpotWay& way) const { return way.id == pin || way.key() == pin; }
};

/// Ports of one rate.
struct Ports {
    BitRate goodput;
    int count = 0;
};

/// A switch that may be bought for the hub.
struct SwitchOffer {
    std::string item;
    BitRate goodput; ///< of a port
    int ports = 5;
};

using catalog::Running;

/// What is done about the entry filter where coax is used: none is bought where the tree has one; and none
/// stands in front of a modem whose cable internet goes above what it passes, which is split off first,
/// before the filter.
enum class EntryFilter { isThere, atEntry, behindModem };

struct Options {
    house::Id hub;        ///< room that everything comes from
    std::string hubLabel; ///< what that room is called; several may be called so
    std::vector<SpotOptions> spots;
    std::vector<Ports> freePorts; ///< at the hub, by falling rate
    int portsToMove = 0;          ///< no port is free: one is freed by moving what is in it to a new switch
    std::vector<SwitchOffer> offers;
    BitRate uplink;                   ///< what the hub's fastest port carries towards a new switch
    std::optional<BitRate> service;   ///< towards the house; nothing: not known
    std::optional<BitRate> serviceUp; ///< out of it
    std::string serviceLimit; ///< what makes it no more, where that is not what was sold; empty: the service
    Running running;
    EntryFilter entryFilter = EntryFilter::atEntry;
    double steadyFrom = 0.95; ///< steadiness of a way on which a steady need is met
    double share = 0.9;       ///< of the houses like this one in which a need must be carried to count
};

/// How many ports of at least this rate.
[[nodiscard]] int portsFrom(const std::vector<Ports>& ports, BitRate rate);

/// What `way` carries at the share of what the other ends of the spot's need can give it, as a share of that
/// 0–1 and more: the least over its resources, of a half-duplex one with both directions together; 0 where it
/// is ruled out, and at most 0.99 where delay or steadiness fail. A spot without a need is carried by
/// anything: 1000.
[[nodiscard]] double carriedBy(const SpotWay& way, const SpotOptions& spot, const Options& options);

[[nodiscard]] EntryFilter entryFilterOf(const house::House& house, const catalog::Catalog& catalog);

/// The room that everything comes from: where the service ends; otherwise that of the first router or switch.
[[nodiscard]] std::optional<house::Id> hubRoomOf(const house::House& house);

/// The room of a spot, or of the device that is there; empty: not known.
[[nodiscard]] house::Id roomOf(const house::House& house, const house::Spot& spot);

/// All ways to all spots of the house. A Problem when there is no spot, or when it is not known where
/// everything comes from. Runs and watches make the ways that they went over better known.
[[nodiscard]] quantity::Result<Options> optionsOf(const house::House& house, const catalog::Catalog& catalog,
                                                  const benchmark::RouteRuns& runs = {},
                                                  const std::vector<benchmark::WatchReport>& watches = {});

} // namespace metrodos::weigh
