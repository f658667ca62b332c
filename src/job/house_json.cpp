#include "job/house_json.h"

#include "job/survey_json.h"

namespace metrodos::job {
namespace {

using namespace house;

Room readRoom(const json& v) {
    return {text(v, "id"), text(v, "label"), v.value("floor", 0), text(v, "building")};
}

Device readDevice(const json& v) {
    Device d{text(v, "id"),    text(v, "label"), named(deviceKind(text(v, "kind")), v, "kind"),
             text(v, "class"), text(v, "room"),  {}};
    for (const json& p : v.at("ports")) {
        d.ports.push_back({text(p, "id"), text(p, "label"), named(portKind(text(p, "kind")), p, "kind"),
                           text(p, "phy"), text(p, "jack")});
        if (p.contains("strip")) d.ports.back().strip = named(strip(text(p, "strip")), p, "strip");
    }
    if (v.contains("storage") && v.at("storage").is_object()) {
        const json& disks = v.at("storage");
        d.storage = Storage{text(disks, "class"), disks.value("disks", 1)};
        if (disks.contains("layout"))
            d.storage->layout = named(diskLayout(text(disks, "layout")), disks, "layout");
    }
    return d;
}

Connection readConnection(const json& v) {
    Connection c;
    c.id = text(v, "id");
    c.label = text(v, "label");
    c.medium = named(medium(text(v, "medium")), v, "medium");
    for (const json& end : v.at("ends"))
        for (const char* what : {"device", "jack", "part", "room"})
            if (end.contains(what)) {
                c.ends.push_back({text(end, what), text(end, "port")});
                break;
            }
    c.cableClass = text(v, "class");
    c.length = length(v, "length_m");
    c.goodPairs = optional<int>(v, "good_pairs");
    c.situation = text(v, "situation");
    c.termination = text(v, "termination");
    c.badConnectors = optional<int>(v, "bad_connectors");
    c.endTerminated = optional<bool>(v, "end_terminated");
    c.walls = optional<int>(v, "walls");
    c.stations = optional<int>(v, "stations");
    c.linkedAt = rate(v, "linked_bps");
    c.halfDuplex = v.value("half_duplex", false);
    if (v.contains("phy_rates"))
        for (const json& one : v.at("phy_rates"))
            if (const auto read = rate(one, "bps"))
                c.phyRates.push_back({text(one, "from"), text(one, "to"), *read});
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
    r.fileProtocol = text(v, "file_protocol");
    if (const auto declined = v.find("declined_tests"); declined != v.end())
        for (const json& test : *declined)
            r.declined.push_back(test.get<std::string>());
    return r;
}

} // namespace

json toJson(const House& house) {
    json rooms = json::array();
    for (const Room& r : house.rooms)
        rooms.push_back(
            {{"id", r.id}, {"label", r.label}, {"floor", r.floor}, {"building", orNull(r.building)}});
    json devices = json::array();
    for (const Device& d : house.devices) {
        json ports = json::array();
        for (const Port& p : d.ports)
            ports.push_back({{"id", p.id},
                             {"label", p.label},
                             {"kind", name(p.kind)},
                             {"phy", orNull(p.phy)},
                             {"jack", orNull(p.jack)},
                             {"strip", name(p.strip)}});
        json storage = nullptr;
        if (d.storage)
            storage = {{"class", orNull(d.storage->diskClass)},
                       {"disks", d.storage->disks},
                       {"layout", name(d.storage->layout)}};
        devices.push_back({{"id", d.id},
                           {"label", d.label},
                           {"kind", name(d.kind)},
                           {"class", orNull(d.deviceClass)},
                           {"room", orNull(d.room)},
                           {"ports", std::move(ports)},
                           {"storage", std::move(storage)}});
    }
    json connections = json::array();
    for (const Connection& c : house.connections) {
        json ends = json::array();
        for (const PortRef& end : c.ends)
            ends.push_back(house.jack(end.device) != nullptr   ? json{{"jack", end.device}}
                           : house.room(end.device) != nullptr ? json{{"room", end.device}}
                           : house.coaxPart(end.device) != nullptr
                               ? json{{"part", end.device}, {"port", end.port}}
                               : json{{"device", end.device}, {"port", end.port}});
        json phyRates = json::array();
        for (const PhyReading& r : c.phyRates)
            phyRates.push_back({{"from", r.from}, {"to", r.to}, {"bps", r.rate.bps()}});
        connections.push_back({{"id", c.id},
                               {"label", c.label},
                               {"medium", name(c.medium)},
                               {"ends", std::move(ends)},
                               {"class", orNull(c.cableClass)},
                               {"length_m", orNull(c.length)},
                               {"good_pairs", orNull(c.goodPairs)},
                               {"situation", orNull(c.situation)},
                               {"termination", orNull(c.termination)},
                               {"bad_connectors", orNull(c.badConnectors)},
                               {"end_terminated", orNull(c.endTerminated)},
                               {"walls", orNull(c.walls)},
                               {"stations", orNull(c.stations)},
                               {"linked_bps", orNull(c.linkedAt)},
                               {"half_duplex", c.halfDuplex},
                               {"phy_rates", std::move(phyRates)}});
    }
    json endpoints = json::array();
    for (const Endpoint& e : house.endpoints)
        endpoints.push_back(
            {{"id", e.id}, {"label", e.label}, {"device", e.device}, {"address", orNull(e.address)}});
    json routes = json::array();
    for (const Route& r : house.routes)
        routes.push_back({{"id", r.id},
                          {"label", r.label},
                          {"from", r.from},
                          {"to", r.to},
                          {"mtu_bytes", r.mtu},
                          {"vlan_tag", r.vlanTag},
                          {"ip_version", r.ipVersion},
                          {"need_forward_bps", orNull(r.needForward)},
                          {"need_backward_bps", orNull(r.needBackward)},
                          {"file_protocol", orNull(r.fileProtocol)},
                          {"declined_tests", r.declined}});
    json out{{"name", house.name},
             {"rooms", std::move(rooms)},
             {"devices", std::move(devices)},
             {"connections", std::move(connections)},
             {"endpoints", std::move(endpoints)},
             {"routes", std::move(routes)}};
    addSurvey(out, house);
    return out;
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
        readSurvey(value, out);
        return out;
    } catch (const Wrong& wrong) {
        return quantity::problem(wrong.what, "house", "correct the file");
    } catch (const json::exception& error) {
        return quantity::problem(std::string("the house is not well formed: ") + error.what(), "house",
                                 "correct the file");
    }
}

} // namespace metrodos::job
