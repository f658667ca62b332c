#include "house/validate.h"

#include <map>
#include <set>

namespace metrodos::house {
namespace {

using quantity::Problem;

class Check {
  public:
    explicit Check(const House& house)
        : m_house(house) {}

    std::vector<Problem> all() {
        if (m_house.name.size() > maximumLabel) fault("house", "the name is too long", "shorten it");
        count("rooms", m_house.rooms.size());
        count("devices", m_house.devices.size());
        count("connections", m_house.connections.size());
        count("endpoints", m_house.endpoints.size());
        count("routes", m_house.routes.size());
        if (!m_faults.empty()) return m_faults;
        for (const Room& room : m_house.rooms)
            checkRoom(room);
        for (const Device& device : m_house.devices)
            checkDevice(device);
        for (const Connection& connection : m_house.connections)
            checkConnection(connection);
        for (const Endpoint& endpoint : m_house.endpoints)
            checkEndpoint(endpoint);
        for (const Route& route : m_house.routes)
            checkRoute(route);
        return std::move(m_faults);
    }

  private:
    void fault(std::string where, std::string what, std::string advice = {}) {
        m_faults.push_back({std::move(what), std::move(where), std::move(advice)});
    }

    void count(const std::string& what, std::size_t n) {
        if (n > maximumItems) fault(what, "there are more than 5000", "split the job");
    }

    std::string identity(const std::string& kind, const Id& id, const std::string& label) {
        std::string where = kind + " " + (id.empty() ? "without id" : id.substr(0, 64));
        if (!isId(id)) fault(where, "the id must be 1 to 64 of a-z, 0-9 and '-'", "give it another id");
        if (!m_ids.insert(id).second)
            fault(where, "another thing has the same id", "give one of them another id");
        if (label.size() > maximumLabel) fault(where, "the label is too long", "shorten it to 200 bytes");
        return where;
    }

    void checkRoom(const Room& room) {
        const std::string where = identity("room", room.id, room.label);
        if (room.floor < -10 || room.floor > 100) fault(where, "the floor must be from -10 to 100");
    }

    void checkDevice(const Device& device) {
        const std::string where = identity("device", device.id, device.label);
        if (!device.room.empty() && m_house.room(device.room) == nullptr)
            fault(where, "its room “" + device.room + "” does not exist", "add the room or leave it empty");
        if (device.ports.size() > 256) fault(where, "it has more than 256 ports");
        std::set<Id> ids;
        for (const Port& port : device.ports) {
            if (!isId(port.id))
                fault(where + " port " + port.id.substr(0, 64), "the id must be 1 to 64 of a-z, 0-9 and '-'");
            if (!ids.insert(port.id).second)
                fault(where + " port " + port.id, "another port has the same id",
                      "give one of them another id");
            if (port.label.size() > maximumLabel) fault(where + " port " + port.id, "the label is too long");
        }
    }

    void checkConnection(const Connection& connection) {
        const std::string where = identity("connection", connection.id, connection.label);
        const std::size_t ends = connection.ends.size();
        if (ends < 2) fault(where, "it has fewer than two ends", "say what its other end is plugged into");
        if (ends > 2 && !isShared(connection.medium)) fault(where, "a cable or socket has exactly two ends");
        if (ends > 256) fault(where, "it has more than 256 ends");
        for (const PortRef& end : connection.ends) {
            const Port* port = m_house.port(end);
            const std::string spot = where + " end " + end.device + "." + end.port;
            if (port == nullptr) {
                fault(spot, "no such port", "name a port that exists");
                continue;
            }
            if (!joins(connection.medium, port->kind))
                fault(spot, "a " + std::string(name(connection.medium)) +
                                " connection does not fit a port of kind " + std::string(name(port->kind)));
            if (const auto [first, fresh] = m_taken.emplace(end, connection.id); !fresh)
                fault(spot, "the port is already joined by " + first->second, "unplug one of them");
        }
        if (connection.goodPairs && (*connection.goodPairs < 0 || *connection.goodPairs > 4))
            fault(where, "good pairs must be from 0 to 4");
        if (connection.length &&
            !(connection.length->inMetres() >= 0 && connection.length->inMetres() <= 1000))
            fault(where, "the length must be from 0 to 1000 m", "give the length of one run in metres");
    }

    void checkEndpoint(const Endpoint& endpoint) {
        const std::string where = identity("endpoint", endpoint.id, endpoint.label);
        const Device* device = m_house.device(endpoint.device);
        if (device == nullptr)
            fault(where, "its device “" + endpoint.device + "” does not exist", "name a device that exists");
        else if (device->kind != DeviceKind::host)
            fault(where, "its device is not a host", "an endpoint is a machine that can run the agent");
        if (endpoint.address.size() > 300) fault(where, "the address is too long", "write it as host:port");
    }

    void checkRoute(const Route& route) {
        const std::string where = identity("route", route.id, route.label);
        const Endpoint* from = m_house.endpoint(route.from);
        const Endpoint* to = m_house.endpoint(route.to);
        if (from == nullptr) fault(where, "its endpoint “" + route.from + "” does not exist");
        if (to == nullptr) fault(where, "its endpoint “" + route.to + "” does not exist");
        if (from != nullptr && to != nullptr && from->device == to->device)
            fault(where, "both ends are the same machine", "choose two machines");
        if (route.mtu < 576 || route.mtu > 9216) fault(where, "the MTU must be from 576 to 9216 bytes");
        if (route.ipVersion != 4 && route.ipVersion != 6) fault(where, "the IP version must be 4 or 6");
    }

    const House& m_house;
    std::vector<Problem> m_faults;
    std::set<Id> m_ids;
    std::map<PortRef, Id> m_taken;
};

} // namespace

std::vector<Problem> validate(const House& house) {
    return Check(house).all();
}

} // namespace metrodos::house
