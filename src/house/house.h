// The job's data as plain values: a graph of ports joined by connections. Routes are found in it (route.h).
#pragma once

#include "house/fitted.h"
#include "house/logged.h"
#include "house/practices.h"
#include "house/survey.h"
#include "quantity/quantity.h"

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::house {

struct Room {
    Id id;
    std::string label;
    int floor = 0;             ///< 0 is the ground floor, −1 the cellar
    std::string building = {}; ///< empty: the house itself; otherwise a detached one

    friend bool operator==(const Room&, const Room&) = default;
};

/// What a port joins to. Ethernet ports are elements of a route by themselves; the others belong to the
/// connection that they end.
enum class PortKind { ethernet, usb, pcie, coax, mains, radio, phone };

struct Port {
    Id id;             ///< unique within its device
    std::string label; ///< as printed on the box: "LAN 3"
    PortKind kind = PortKind::ethernet;
    std::string phy;              ///< catalog id of the fastest mode it supports; empty: unknown
    Id jack = {};                 ///< the jack that it is plugged into; empty: none, or not known
    Strip strip = Strip::unknown; ///< mains: what lies between it and its outlet

    friend bool operator==(const Port&, const Port&) = default;
};

enum class DeviceKind { host, network_switch, router, adapter };

struct Device {
    Id id;
    std::string label;
    DeviceKind kind = DeviceKind::host;
    std::string deviceClass; ///< catalog id; empty: unknown
    Id room;                 ///< empty: unknown
    std::vector<Port> ports;
    std::optional<Storage> storage = std::nullopt; ///< of a host
    AdapterRecord setUp = {};                      ///< of an adapter

    friend bool operator==(const Device&, const Device&) = default;
};

/// An end of a connection: a port of a device or of a part of the coax tree; or a jack, or a loose end in a
/// room, both with an empty port.
struct PortRef {
    Id device;
    Id port;

    friend auto operator<=>(const PortRef&, const PortRef&) = default;
};

enum class Medium { data_cable, coax, mains, air, bus, phone };

/// The PHY rate that an adapter shows of its way to another one on the same medium.
struct PhyReading {
    Id from; ///< device that sends
    Id to;   ///< device that receives
    quantity::BitRate rate;
    std::string at = {}; ///< ISO 8601, UTC: when it was read; empty: not known

    friend bool operator==(const PhyReading&, const PhyReading&) = default;
};

/// Joins ports of one medium: a run of cable or a bus has two ends, a shared medium that adapters form a
/// network on two or more. A run of data cable, coax or phone wire may have fewer: the far end is not known.
struct Connection {
    Id id;
    std::string label;
    Medium medium = Medium::data_cable;
    std::vector<PortRef> ends;
    std::string cableClass; ///< data cable, coax: catalog id of the category or type; empty: unknown
    std::optional<quantity::Length> length; ///< nothing: unknown. Air: the distance
    std::optional<int> goodPairs; ///< data cable: pairs measured as sound, 0–4; nothing: not measured
    std::string situation; ///< coax, mains, air: catalog id of how the ends lie to each other; empty: unknown
    std::string termination;          ///< data cable: catalog id of how its ends are made; empty: unknown
    std::optional<int> badConnectors; ///< coax: corroded or badly crimped ends, 0–2; nothing: not looked at
    std::optional<bool> endTerminated; ///< coax: a loose end carries a terminator
    std::optional<int> walls;          ///< air: walls and floors between the ends
    std::optional<int> stations;       ///< air: stations that share the channel, neighbours included
    /// Data cable, bus: the raw rate that it runs at, as a machine at its end said; nothing: not read.
    std::optional<quantity::BitRate> linkedAt = {};
    bool halfDuplex = false; ///< of that link
    /// Coax, mains, air: what the adapters at its ends say of their modems, of each way the latest.
    std::vector<PhyReading> phyRates = {};
    /// A run: how it was told which end is which.
    FoundBy foundBy = FoundBy::unknown;

    friend bool operator==(const Connection&, const Connection&) = default;
};

/// A machine that can take part in a run.
struct Endpoint {
    Id id;
    std::string label;
    Id device;
    std::string address; ///< "host:port" of its agent; empty: not reachable yet

    friend bool operator==(const Endpoint&, const Endpoint&) = default;
};

/// A pair of endpoints that the job asks about, with the framing of its runs. The elements are found, not
/// kept.
struct Route {
    Id id;
    std::string label;
    Id from;
    Id to;
    int mtu = 1500; ///< bytes, 576–9216
    bool vlanTag = false;
    int ipVersion = 4; ///< 4 or 6
    std::optional<quantity::BitRate> needForward;
    std::optional<quantity::BitRate> needBackward;
    std::string fileProtocol; ///< catalog id: files are copied from disk to disk; empty: memory to memory
    std::vector<std::string> declined; ///< ids of tests that cannot be made here

    friend bool operator==(const Route&, const Route&) = default;
};

/// How the two ends of a step are joined: as they are in the house, or on the bench, where nothing of the
/// house has a part.
enum class Setup {
    place,
    baseline, ///< by one short good cable: the ceiling of the machines
    bench,    ///< by the adapters side by side: the ceiling of the adapters
};
[[nodiscard]] constexpr std::string_view name(Setup s) {
    return s == Setup::place ? "place" : s == Setup::baseline ? "baseline" : "bench";
}
[[nodiscard]] std::optional<Setup> setup(std::string_view name);

/// What may be other than surveyed while a run is made: at another outlet; the appliances near it switched
/// off; or nothing but the modems looked at, whose PHY rate shows the medium without those who share it. A
/// run is never the last.
enum class AlterationKind { other_outlet, appliances_off, phy_rate };
[[nodiscard]] constexpr std::string_view name(AlterationKind kind) {
    switch (kind) {
    case AlterationKind::other_outlet:
        return "outlet";
    case AlterationKind::appliances_off:
        return "off";
    case AlterationKind::phy_rate:
        return "phy";
    }
    return "";
}
[[nodiscard]] std::optional<AlterationKind> alterationKind(std::string_view name);

/// The directions of a step of a trial, or of what is asked for with one press of a key.
enum class Directions { forward, backward, both, together };
[[nodiscard]] constexpr std::string_view name(Directions directions) {
    switch (directions) {
    case Directions::forward:
        return "forward";
    case Directions::backward:
        return "backward";
    case Directions::both: // in turn
        return "both";
    case Directions::together: // at once
        return "together";
    }
    return "";
}
[[nodiscard]] std::optional<Directions> directions(std::string_view name);

inline constexpr double maxPause = 600; ///< s

/// One thing to do in a trial: set something up, then run.
struct TrialStep {
    Id id; ///< within the house, since runs refer to it
    Id route;
    Setup setup = Setup::place;
    std::string prepare; ///< what to plug where, in the imperative
    std::string arm;     ///< which of the things compared: "A", "B"; empty: nothing is
    Directions directions = Directions::both;
    std::vector<int> streams = {1};
    double seconds = 10;
    double pause = 0; ///< seconds of quiet before each of its runs, 0–600
    /// Where a part of the route is plugged in for this step: a jack, or "device.port"; empty: as surveyed.
    std::string place = {};
    Id element = {}; ///< of the route, that is other than surveyed there; empty: none

    friend bool operator==(const TrialStep&, const TrialStep&) = default;
};

/// A plan of runs. What has been done of it follows from the runs.
struct Trial {
    Id id;
    std::string label;
    std::vector<TrialStep> steps;
    std::string revisits = {}; ///< day whose runs it repeats, "2026-05-04" of the local clock; empty: none

    friend bool operator==(const Trial&, const Trial&) = default;
};

struct House {
    std::string name;
    std::vector<Room> rooms;
    std::vector<Device> devices;
    std::vector<Connection> connections;
    std::vector<Endpoint> endpoints;
    std::vector<Route> routes;
    std::vector<Jack> jacks;
    std::vector<CoaxPart> coaxParts;
    CoaxUse coaxUse;
    std::vector<Panel> panels;
    std::vector<Circuit> circuits;
    std::vector<Appliance> appliances;
    std::optional<Service> service;
    std::vector<Spot> spots;
    std::vector<Trial> trials;
    Weighing weighing;
    Measuring measuring;
    Practices practices;
    Fitting fitting;
    Addressing addressing;
    std::vector<SetAside> setAside;      ///< runs that do not count
    std::vector<Schedule> schedules;     ///< runs that are made again and again
    std::vector<DatedChange> changes;    ///< what was exchanged, oldest first
    std::vector<ChapterChoice> chapters; ///< of documents, in their order; others come as they do

    [[nodiscard]] const Device* device(std::string_view id) const;
    [[nodiscard]] Device* device(std::string_view id);
    [[nodiscard]] const Port* port(const PortRef& ref) const;
    [[nodiscard]] Port* port(const PortRef& ref);
    [[nodiscard]] const Connection* connection(std::string_view id) const;
    [[nodiscard]] Connection* connection(std::string_view id);
    [[nodiscard]] const Endpoint* endpoint(std::string_view id) const;
    [[nodiscard]] const Route* route(std::string_view id) const;
    [[nodiscard]] Route* route(std::string_view id);
    [[nodiscard]] const Room* room(std::string_view id) const;
    [[nodiscard]] const Jack* jack(std::string_view id) const;
    [[nodiscard]] const CoaxPart* coaxPart(std::string_view id) const;
    [[nodiscard]] const Panel* panel(std::string_view id) const;
    [[nodiscard]] const Circuit* circuit(std::string_view id) const;
    [[nodiscard]] const Schedule* schedule(std::string_view id) const;
    /// Why a run or report does not count; nullptr: it does.
    [[nodiscard]] const SetAside* whySetAside(std::string_view id) const;
    /// The data cable that a port is joined to, by itself or by the jack it is plugged into; nullptr: none.
    [[nodiscard]] const Connection* cableAt(const PortRef& port) const;
    /// Forgets what the links at the ports of this device were read to run at; for a change to one end.
    void forgetLinks(const Id& device);
    /// The device of an endpoint or of the service; empty when there is none.
    [[nodiscard]] Id deviceAt(std::string_view endpointOrService) const;
    /// The label of an endpoint or of the service; empty when there is none.
    [[nodiscard]] std::string endLabel(std::string_view endpointOrService) const;
    /// What lies between a port and its outlet: what was noted of the port, or else of the outlet.
    [[nodiscard]] Strip stripOf(const Port& port) const;
    /// The same of an outlet, by the adapter in it where there is one.
    [[nodiscard]] Strip stripAt(std::string_view outlet) const;
    /// The room that an end of a connection lies in; empty when it is not known.
    [[nodiscard]] Id roomOf(const PortRef& end) const;
    /// What an end is called: "Hall switch, port 2", "Loft coax 1", "loose in the Hall".
    [[nodiscard]] std::string labelOf(const PortRef& end) const;
    /// The first id of the form "stem", "stem-2", "stem-3" … that nothing in the house has.
    [[nodiscard]] Id freeId(const std::string& stem) const;
    /// The same among the changes.
    [[nodiscard]] Id freeChange(const std::string& stem) const;

    friend bool operator==(const House&, const House&) = default;
};

/// Notes the rate of a way, in place of what was noted of it before.
void noteRate(Connection& medium, PhyReading reading);

[[nodiscard]] bool isId(std::string_view text);

/// The words used for the enumerations in files: "ethernet", "network_switch", "data_cable" …
[[nodiscard]] std::string_view name(PortKind kind);
[[nodiscard]] std::string_view name(DeviceKind kind);
[[nodiscard]] std::string_view name(Medium medium);
[[nodiscard]] std::optional<PortKind> portKind(std::string_view name);
[[nodiscard]] std::optional<DeviceKind> deviceKind(std::string_view name);
[[nodiscard]] std::optional<Medium> medium(std::string_view name);

/// The kind of port that a new box joins this medium with.
[[nodiscard]] constexpr PortKind portFor(Medium medium) {
    switch (medium) {
    case Medium::coax:
        return PortKind::coax;
    case Medium::mains:
        return PortKind::mains;
    case Medium::air:
        return PortKind::radio;
    case Medium::bus:
        return PortKind::usb;
    case Medium::phone:
        return PortKind::phone;
    case Medium::data_cable:
        break;
    }
    return PortKind::ethernet;
}

/// Whether a port of this kind can be joined to the medium.
[[nodiscard]] constexpr bool joins(Medium medium, PortKind kind) {
    return kind == portFor(medium) || (medium == Medium::bus && kind == PortKind::pcie);
}

/// The kind of jack that a port of this kind is plugged into; nothing: none.
[[nodiscard]] constexpr std::optional<JackKind> jackOf(PortKind kind) {
    switch (kind) {
    case PortKind::ethernet:
        return JackKind::data;
    case PortKind::coax:
        return JackKind::coax;
    case PortKind::mains:
        return JackKind::mains;
    case PortKind::phone:
        return JackKind::phone;
    default:
        return std::nullopt;
    }
}

/// The kind of jack that a run of this medium may end in; nothing: none.
[[nodiscard]] constexpr std::optional<JackKind> jackOf(Medium medium) {
    return medium == Medium::mains ? std::nullopt : jackOf(portFor(medium));
}

/// One road for all its users in both directions.
[[nodiscard]] constexpr bool isShared(Medium medium) {
    return medium == Medium::coax || medium == Medium::mains || medium == Medium::air;
}

} // namespace metrodos::house
