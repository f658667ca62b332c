#include "house/house.h"

#include <algorithm>
#include <utility>

namespace metrodos::house {
namespace {

template <typename Items>
auto* find(Items& items, std::string_view id) {
    const auto hit =
        std::find_if(items.begin(), items.end(), [&](const auto& item) { return item.id == id; });
    return hit == items.end() ? nullptr : &*hit;
}

constexpr std::array<std::pair<PortKind, std::string_view>, 6> portKinds{{{PortKind::ethernet, "ethernet"},
                                                                          {PortKind::usb, "usb"},
                                                                          {PortKind::pcie, "pcie"},
                                                                          {PortKind::coax, "coax"},
                                                                          {PortKind::mains, "mains"},
                                                                          {PortKind::radio, "radio"}}};
constexpr std::array<std::pair<DeviceKind, std::string_view>, 4> deviceKinds{
    {{DeviceKind::host, "host"},
     {DeviceKind::network_switch, "network_switch"},
     {DeviceKind::router, "router"},
     {DeviceKind::adapter, "adapter"}}};
constexpr std::array<std::pair<Medium, std::string_view>, 5> media{{{Medium::data_cable, "data_cable"},
                                                                    {Medium::coax, "coax"},
                                                                    {Medium::mains, "mains"},
                                                                    {Medium::air, "air"},
                                                                    {Medium::bus, "bus"}}};

template <typename Table, typename Value>
std::string_view nameIn(const Table& table, Value value) {
    for (const auto& [candidate, text] : table)
        if (candidate == value) return text;
    return {};
}

template <typename Table>
auto valueIn(const Table& table, std::string_view text) -> std::optional<decltype(table[0].first)> {
    for (const auto& [value, candidate] : table)
        if (candidate == text) return value;
    return std::nullopt;
}

} // namespace

const Device* House::device(std::string_view id) const {
    return find(devices, id);
}
Device* House::device(std::string_view id) {
    return find(devices, id);
}
const Port* House::port(const PortRef& ref) const {
    const Device* owner = device(ref.device);
    return owner == nullptr ? nullptr : find(owner->ports, ref.port);
}
Port* House::port(const PortRef& ref) {
    return const_cast<Port*>(std::as_const(*this).port(ref));
}
const Connection* House::connection(std::string_view id) const {
    return find(connections, id);
}
Connection* House::connection(std::string_view id) {
    return find(connections, id);
}
const Endpoint* House::endpoint(std::string_view id) const {
    return find(endpoints, id);
}
const Route* House::route(std::string_view id) const {
    return find(routes, id);
}
Route* House::route(std::string_view id) {
    return find(routes, id);
}
const Room* House::room(std::string_view id) const {
    return find(rooms, id);
}

Id House::freeId(const std::string& stem) const {
    const auto taken = [&](std::string_view id) {
        return device(id) != nullptr || connection(id) != nullptr || endpoint(id) != nullptr ||
               route(id) != nullptr || room(id) != nullptr;
    };
    if (!taken(stem)) return stem;
    for (int n = 2;; ++n)
        if (Id id = stem + "-" + std::to_string(n); !taken(id)) return id;
}

bool isId(std::string_view text) {
    return !text.empty() && text.size() <= 64 && std::all_of(text.begin(), text.end(), [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-';
    });
}

std::string_view name(PortKind kind) {
    return nameIn(portKinds, kind);
}
std::string_view name(DeviceKind kind) {
    return nameIn(deviceKinds, kind);
}
std::string_view name(Medium medium) {
    return nameIn(media, medium);
}
std::optional<PortKind> portKind(std::string_view name) {
    return valueIn(portKinds, name);
}
std::optional<DeviceKind> deviceKind(std::string_view name) {
    return valueIn(deviceKinds, name);
}
std::optional<Medium> medium(std::string_view name) {
    return valueIn(media, name);
}

} // namespace metrodos::house
