// Generic classes of the things found in a house, read from data/catalog: each value carries its source.
#pragma once

#include "catalog/faults.h"
#include "catalog/planning.h"
#include "catalog/plant.h"
#include "house/house.h"

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::catalog {

using quantity::BitRate;
using quantity::Length;
using quantity::Money;

/// A way to send Ethernet over copper.
struct Phy {
    std::string id;
    std::string label;
    BitRate rate;  ///< line rate
    int pairs = 4; ///< pairs that it needs
    std::string source;
};

/// How far a category carries a PHY: surely up to one length, usually up to the other.
struct Reach {
    Length certain;
    Length likely;
};

struct CableCategory {
    std::string id;
    std::string label;
    std::map<std::string, Reach> reach; ///< by PHY id; a missing PHY is not carried
    Money pricePerMetre;                ///< guide price in a neutral currency
    std::string source;
};

/// A socket or slot between a network adapter and its host.
struct Bus {
    std::string id;
    std::string label;
    house::PortKind kind = house::PortKind::usb;
    BitRate raw;
    RateSpread goodput;
    bool halfDuplex = false; ///< both directions share it
    std::string source;
};

/// What a computer's network stack moves, and the receive window that it opens.
struct HostClass {
    std::string id;
    std::string label;
    RateSpread goodput;
    double windowBytes = 0;
    /// So little is known of it that its own ceiling is measured before anything else.
    bool baselineFirst = false;
    std::string source;
};

enum class Family { network_switch, router, bus, coax, mains, air };

/// A box that is not a host.
struct DeviceClass {
    std::string id;
    std::string label;
    Family family = Family::network_switch;
    Money price;             ///< guide price of one in a neutral currency
    std::string ethernetPhy; ///< of its Ethernet ports
    std::string busPhy;      ///< of its plug, for family bus
    std::string speaks;  ///< which of the languages of its medium: those of another do not hear each other;
                         ///< empty: the usual one
    std::string builtIn; ///< class of the adapter that a router has inside; empty: none
    BitRate rated;       ///< the promise on the box; 0 where there is none
    RateSpread goodput;  ///< what the box itself can carry, one direction
    std::map<std::string, RateSpread> medium; ///< by situation: what a pair carries over its medium
    std::map<std::string, int> refinedBy; ///< by situation: one's own houses that the figure rests on as well
    std::string source;
};

struct Situation {
    std::string id;
    std::string label;
};

struct MediumClass {
    house::Medium medium = house::Medium::coax;
    std::string label;
    Spread<double> rttMicroseconds;
    double variation = 0;   ///< relative standard deviation of the rate from second to second
    double hours = 0;       ///< standard deviation of ln rate from hour to hour: appliances, neighbours
    double loadedDelay = 1; ///< times the idle round trip while the medium is loaded as far as the need
    std::vector<Situation> situations;
    Spread<double> phyShare; ///< TCP goodput of the PHY rate that its adapters show
    std::string source;
};

/// All classes. Lists keep the order of the files, which is the order in which they are offered.
struct Catalog {
    std::vector<Phy> phys;                     ///< by rising rate
    std::map<std::string, double> unknownPort; ///< PHY id → weight, summing to 1
    std::vector<CableCategory> cables;
    std::map<std::string, double> unknownCable; ///< category id → weight, summing to 1
    Length unknownLength;
    double likelyLinkProbability = 0;
    double badPairProbability = 0;
    std::vector<Bus> buses;
    std::vector<HostClass> hosts;
    std::vector<DeviceClass> devices;
    std::vector<MediumClass> media;
    double wiredRttMicroseconds = 0;
    Spread<double> serviceShare; ///< of the rate that was sold, what arrives
    RateSpread unknownService;   ///< a service of which nobody knows the rate
    std::vector<Termination> terminations;
    Length patchLead; ///< between a jack and what is plugged into it
    CoaxModel coax;
    MainsModel mains;
    AirModel air;
    std::vector<DiskClass> disks;
    std::vector<FileProtocol> protocols;
    FaultCatalog faults;
    Planning planning;

    [[nodiscard]] const Phy* phy(std::string_view id) const;
    [[nodiscard]] const CableCategory* cable(std::string_view id) const;
    [[nodiscard]] const Bus* bus(std::string_view id) const;
    [[nodiscard]] const HostClass* host(std::string_view id) const;
    [[nodiscard]] const DeviceClass* device(std::string_view id) const;
    /// What a box of this class is on a medium: itself where it is an adapter for it, or what is built into
    /// it; nullptr: neither.
    [[nodiscard]] const DeviceClass* adapterOf(std::string_view deviceClass, Family medium) const;
    /// Whether the box has an adapter of one of these classes inside, and a port for its medium.
    [[nodiscard]] bool hasInside(const house::Device& box, const std::vector<std::string>& adapters) const;
    [[nodiscard]] const MediumClass* medium(house::Medium medium) const;
    [[nodiscard]] const Termination* termination(std::string_view id) const;
    [[nodiscard]] const DiskClass* disk(std::string_view id) const;
    [[nodiscard]] const FileProtocol* protocol(std::string_view id) const;
};

/// An adapter of a medium that several share.
[[nodiscard]] constexpr bool isOfMedium(Family family) {
    return family == Family::coax || family == Family::mains || family == Family::air;
}

/// Of one of those.
[[nodiscard]] constexpr house::Medium mediumOf(Family family) {
    return family == Family::coax    ? house::Medium::coax
           : family == Family::mains ? house::Medium::mains
                                     : house::Medium::air;
}

[[nodiscard]] constexpr Family familyOf(house::Medium medium) {
    switch (medium) {
    case house::Medium::coax:
        return Family::coax;
    case house::Medium::mains:
        return Family::mains;
    case house::Medium::air:
        return Family::air;
    default:
        return Family::bus;
    }
}

} // namespace metrodos::catalog
