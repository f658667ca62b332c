// The job's data as plain values: a graph of ports joined by connections. Routes are found in it (route.h).
#pragma once

#include "quantity/quantity.h"

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::house {

/// A stable name for a thing, unique among all things of the house: 1 to 64 of a–z, 0–9 and '-'.
using Id = std::string;

struct Room {
    Id id;
    std::string label;
    int floor = 0; ///< 0 is the ground floor, −1 the cellar

    friend bool operator==(const Room&, const Room&) = default;
};

/// What a port joins to. Ethernet ports are elements of a route by themselves; the others belong to the
/// connection that they end.
enum class PortKind { ethernet, usb, pcie, coax, mains, radio };

struct Port {
    Id id;             ///< unique within its device
    std::string label; ///< as printed on the box: "LAN 3"
    PortKind kind = PortKind::ethernet;
    std::string phy; ///< catalog id of the fastest mode it supports; empty: unknown

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

    friend bool operator==(const Device&, const Device&) = default;
};

struct PortRef {
    Id device;
    Id port;

    friend auto operator<=>(const PortRef&, const PortRef&) = default;
};

enum class Medium { data_cable, coax, mains, air, bus };

/// Joins ports of one medium: exactly two for a data cable or a bus, two or more for a shared medium.
struct Connection {
    Id id;
    std::string label;
    Medium medium = Medium::data_cable;
    std::vector<PortRef> ends;
    std::string cableClass;                 ///< data cable: catalog id of the category; empty: unknown
    std::optional<quantity::Length> length; ///< patch leads included; nothing: unknown
    std::optional<int> goodPairs; ///< data cable: pairs measured as sound, 0–4; nothing: not measured
    std::string situation; ///< coax, mains, air: catalog id of how the ends lie to each other; empty: unknown

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

    friend bool operator==(const Route&, const Route&) = default;
};

struct House {
    std::string name;
    std::vector<Room> rooms;
    std::vector<Device> devices;
    std::vector<Connection> connections;
    std::vector<Endpoint> endpoints;
    std::vector<Route> routes;

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
    /// The first id of the form "stem", "stem-2", "stem-3" … that nothing in the house has.
    [[nodiscard]] Id freeId(const std::string& stem) const;

    friend bool operator==(const House&, const House&) = default;
};

[[nodiscard]] bool isId(std::string_view text);

/// The words used for the enumerations in files: "ethernet", "network_switch", "data_cable" …
[[nodiscard]] std::string_view name(PortKind kind);
[[nodiscard]] std::string_view name(DeviceKind kind);
[[nodiscard]] std::string_view name(Medium medium);
[[nodiscard]] std::optional<PortKind> portKind(std::string_view name);
[[nodiscard]] std::optional<DeviceKind> deviceKind(std::string_view name);
[[nodiscard]] std::optional<Medium> medium(std::string_view name);

/// The kind of port that a medium joins.
[[nodiscard]] constexpr bool joins(Medium medium, PortKind kind) {
    switch (medium) {
    case Medium::data_cable:
        return kind == PortKind::ethernet;
    case Medium::coax:
        return kind == PortKind::coax;
    case Medium::mains:
        return kind == PortKind::mains;
    case Medium::air:
        return kind == PortKind::radio;
    case Medium::bus:
        return kind == PortKind::usb || kind == PortKind::pcie;
    }
    return false;
}

/// One road for all its users in both directions.
[[nodiscard]] constexpr bool isShared(Medium medium) {
    return medium == Medium::coax || medium == Medium::mains || medium == Medium::air;
}

} // namespace metrodos::house
