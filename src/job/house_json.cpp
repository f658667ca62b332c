#include "job/house_json.h"

#include <nlohmann/json.hpp>

namespace metrodos::job {
namespace {

using nlohmann::json;
using namespace house;

json toJson(const std::optional<quantity::BitRate>& rate) {
    return rate ? json(rate->bps()) : json(nullptr);
}

std::string text(const json& object, const char* key) {
    const auto it = object.find(key);
    return it == object.end() || it->is_null() ? std::string() : it->get<std::string>();
}

// A catalog id: null means unknown.
json classId(const std::string& id) {
    return id.empty() ? json(nullptr) : json(id);
}

struct Wrong {
    std::string what;
};

template <typename T>
T named(std::optional<T> value, const json& object, const char* key) {
    if (!value) throw Wrong{"“" + object.at(key).dump() + "” is not a " + key};
    return *value;
}

std::optional<quantity::BitRate> rate(const json& object, const char* key) {
    if (!object.contains(key) || object.at(key).is_null()) return std::nullopt;
    return quantity::BitRate::bitsPerSecond(object.at(key).get<double>());
}

Room readRoom(const json& v) {
    return {text(v, "id"), text(v, "label"), v.value("floor", 0)};
}

Device readDevice(const json& v) {
    Device d{text(v, "id"),    text(v, "label"), named(deviceKind(text(v, "kind")), v, "kind"),
             text(v, "class"), text(v, "room"),  {}};
    for (const json& p : v.at("ports"))
        d.ports.push_back(
            {text(p, "id"), text(p, "label"), named(portKind(text(p, "kind")), p, "kind"), text(p, "phy")});
    return d;
}

Connection readConnection(const json& v) {
    Connection c;
    c.id = text(v, "id");
    c.label = text(v, "label");
    c.medium = named(medium(text(v, "medium")), v, "medium");
    for (const json& end : v.at("ends"))
        c.ends.push_back({text(end, "device"), text(end, "port")});
    c.cableClass = text(v, "class");
    if (v.contains("length_m") && !v.at("length_m").is_null())
        c.length = quantity::Length::metres(v.at("length_m").get<double>());
    if (v.contains("good_pairs") && !v.at("good_pairs").is_null())
        c.goodPairs = v.at("good_pairs").get<int>();
    c.situation = text(v, "situation");
    return c;
}

Route readRoute(const json& v) {
    Route r;
    r.id = text(v, "id");
    r.label = text(v, "label");
    r.from = text(v, "from");
    r.to = text(v, "to");
    r.mtu = v.value("mtu_bytes", 1500);
    r.vlanTag = v.value("vlan_tag", false);
    r.ipVersion = v.value("ip_version", 4);
    r.needForward = rate(v, "need_forward_bps");
    r.needBackward = rate(v, "need_backward_bps");
    return r;
}

} // namespace

json toJson(const House& house) {
    json rooms = json::array();
    for (const Room& r : house.rooms)
        rooms.push_back({{"id", r.id}, {"label", r.label}, {"floor", r.floor}});
    json devices = json::array();
    for (const Device& d : house.devices) {
        json ports = json::array();
        for (const Port& p : d.ports)
            ports.push_back(
                {{"id", p.id}, {"label", p.label}, {"kind", name(p.kind)}, {"phy", classId(p.phy)}});
        devices.push_back({{"id", d.id},
                           {"label", d.label},
                           {"kind", name(d.kind)},
                           {"class", classId(d.deviceClass)},
                           {"room", classId(d.room)},
                           {"ports", std::move(ports)}});
    }
    json connections = json::array();
    for (const Connection& c : house.connections) {
        json ends = json::array();
        for (const PortRef& end : c.ends)
            ends.push_back({{"device", end.device}, {"port", end.port}});
        connections.push_back({{"id", c.id},
                               {"label", c.label},
                               {"medium", name(c.medium)},
                               {"ends", std::move(ends)},
                               {"class", classId(c.cableClass)},
                               {"length_m", c.length ? json(c.length->inMetres()) : json(nullptr)},
                               {"good_pairs", c.goodPairs ? json(*c.goodPairs) : json(nullptr)},
                               {"situation", classId(c.situation)}});
    }
    json endpoints = json::array();
    for (const Endpoint& e : house.endpoints)
        endpoints.push_back(
            {{"id", e.id}, {"label", e.label}, {"device", e.device}, {"address", classId(e.address)}});
    json routes = json::array();
    for (const Route& r : house.routes)
        routes.push_back({{"id", r.id},
                          {"label", r.label},
                          {"from", r.from},
                          {"to", r.to},
                          {"mtu_bytes", r.mtu},
                          {"vlan_tag", r.vlanTag},
                          {"ip_version", r.ipVersion},
                          {"need_forward_bps", toJson(r.needForward)},
                          {"need_backward_bps", toJson(r.needBackward)}});
    return {{"name", house.name},
            {"rooms", std::move(rooms)},
            {"devices", std::move(devices)},
            {"connections", std::move(connections)},
            {"endpoints", std::move(endpoints)},
            {"routes", std::move(routes)}};
}

quantity::Result<House> houseFromJson(const json& value) {
    try {
        House out;
        out.name = value.at("name").get<std::string>();
        for (const json& v : value.at("rooms"))
            out.rooms.push_back(readRoom(v));
        for (const json& v : value.at("devices"))
            out.devices.push_back(readDevice(v));
        for (const json& v : value.at("connections"))
            out.connections.push_back(readConnection(v));
        for (const json& v : value.at("endpoints"))
            out.endpoints.push_back({text(v, "id"), text(v, "label"), text(v, "device"), text(v, "address")});
        for (const json& v : value.at("routes"))
            out.routes.push_back(readRoute(v));
        return out;
    } catch (const Wrong& wrong) {
        return quantity::problem(wrong.what, "house", "correct the file");
    } catch (const json::exception& error) {
        return quantity::problem(std::string("the house is not well formed: ") + error.what(), "house",
                                 "correct the file");
    }
}

} // namespace metrodos::job
