#include "house/validate.h"

#include <algorithm>
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
        if (m_house.name.size() > maxLabel) fault("house", "the name is too long", "shorten it");
        count("rooms", m_house.rooms.size());
        count("devices", m_house.devices.size());
        count("connections", m_house.connections.size());
        count("endpoints", m_house.endpoints.size());
        count("routes", m_house.routes.size());
        count("jacks", m_house.jacks.size());
        count("coax parts", m_house.coaxParts.size());
        count("panels", m_house.panels.size());
        count("circuits", m_house.circuits.size());
        count("appliances", m_house.appliances.size());
        count("spots", m_house.spots.size());
        count("runs set aside", m_house.setAside.size());
        count("schedules", m_house.schedules.size());
        count("changes", m_house.changes.size());
        count("chapters", m_house.chapters.size());
        if (!m_faults.empty()) return m_faults;
        for (const Room& room : m_house.rooms)
            checkRoom(room);
        for (const Device& device : m_house.devices)
            checkDevice(device);
        for (const Jack& jack : m_house.jacks)
            checkIn(identity("jack", jack.id, jack.label), jack.room);
        for (const CoaxPart& part : m_house.coaxParts)
            checkPart(part);
        for (const Connection& connection : m_house.connections)
            checkConnection(connection);
        for (const Panel& panel : m_house.panels)
            checkPanel(panel);
        for (const Circuit& circuit : m_house.circuits)
            checkCircuit(circuit);
        for (const Appliance& appliance : m_house.appliances)
            checkAppliance(appliance);
        for (const Trial& trial : m_house.trials)
            checkTrial(trial);
        for (const Schedule& schedule : m_house.schedules)
            checkSchedule(schedule);
        for (const Endpoint& endpoint : m_house.endpoints)
            checkEndpoint(endpoint);
        for (const Route& route : m_house.routes)
            checkRoute(route);
        for (const Spot& spot : m_house.spots) {
            const std::string where = identity("spot", spot.id, spot.label);
            checkIn(where, spot.room);
            if (!spot.device.empty() && m_house.device(spot.device) == nullptr)
                fault(where, "its device “" + spot.device + "” does not exist", "name a device that exists");
            for (const Use& use : spot.uses)
                if (use.count < 1 || use.count > 999)
                    fault(where, "a use happens " + std::to_string(use.count) + " times at once",
                          "say 1 to 999");
            for (const Use& use : spot.uses)
                checkPeer(where, use.peer);
            checkPeer(where, spot.peer);
        }
        checkAddressing();
        if (m_house.service) {
            const std::string where = identity("service", m_house.service->id, m_house.service->label);
            if (m_house.device(m_house.service->device) == nullptr)
                fault(where, "its device “" + m_house.service->device + "” does not exist",
                      "name the box that the service ends in");
        }
        return std::move(m_faults);
    }

  private:
    void fault(std::string where, std::string what, std::string advice = {}) {
        m_faults.push_back({std::move(what), std::move(where), std::move(advice)});
    }

    void checkPeer(const std::string& where, const std::string& peer) {
        if (!peer.empty() && peer != servicePeer && m_house.device(peer) == nullptr)
            fault(where, "the other end “" + peer + "” of a need does not exist",
                  "name a device that exists, or “service”");
    }

    void count(const std::string& what, std::size_t n) {
        if (n > maxItems) fault(what, "there are more than 5000", "split the job");
    }

    std::string identity(const std::string& kind, const Id& id, const std::string& label) {
        std::string where = kind + " " + (id.empty() ? "without id" : id.substr(0, 64));
        if (!isId(id)) fault(where, "the id must be 1 to 64 of a-z, 0-9 and '-'", "give it another id");
        if (!m_ids.insert(id).second)
            fault(where, "another thing has the same id", "give one of them another id");
        if (label.size() > maxLabel) fault(where, "the label is too long", "shorten it to 200 bytes");
        return where;
    }

    void checkIn(const std::string& where, const Id& room) {
        if (!room.empty() && m_house.room(room) == nullptr)
            fault(where, "its room “" + room + "” does not exist", "add the room or leave it empty");
    }

    // A jack of this kind must be there under the id.
    void checkJack(const std::string& where, const Id& id, JackKind kind) {
        const Jack* jack = m_house.jack(id);
        if (jack == nullptr || jack->kind != kind)
            fault(where, "there is no " + std::string(name(kind)) + " jack “" + id + "”",
                  "name one that exists");
    }

    void checkPart(const CoaxPart& part) {
        const std::string where = identity("coax part", part.id, part.label);
        checkIn(where, part.room);
        if (part.kind == CoaxPartKind::splitter && (part.ways < 2 || part.ways > 8))
            fault(where, "a splitter has from 2 to 8 ways");
    }

    void checkPanel(const Panel& panel) {
        const std::string where = identity("panel", panel.id, panel.label);
        checkIn(where, panel.room);
        // Each panel is fed by at most one: following that must come to an end.
        std::size_t steps = 0;
        for (const Panel* at = &panel; at != nullptr && !at->fedBy.empty(); ++steps) {
            if (m_house.panel(at->fedBy) == nullptr) {
                fault(where, "the panel “" + at->fedBy + "” that feeds it does not exist", "add it first");
                return;
            }
            if (steps > m_house.panels.size()) {
                fault(where, "it feeds itself over others", "say which panel the supply enters");
                return;
            }
            at = m_house.panel(at->fedBy);
        }
    }

    void checkCircuit(const Circuit& circuit) {
        const std::string where = identity("circuit", circuit.id, circuit.label);
        if (!circuit.panel.empty() && m_house.panel(circuit.panel) == nullptr)
            fault(where, "its panel “" + circuit.panel + "” does not exist", "add it or leave it empty");
        if (circuit.leg.size() > 16) fault(where, "the name of the leg is too long", "write 1, 2 or 3");
        for (const CircuitOutlet& outlet : circuit.outlets) {
            checkJack(where, outlet.jack, JackKind::mains);
            if (!m_wired.insert(outlet.jack).second)
                fault(where, "the outlet “" + outlet.jack + "” is on a circuit already",
                      "take one of them out");
            checkLength(where, outlet.fromPrevious);
        }
    }

    void checkTrial(const Trial& trial) {
        const std::string where = identity("trial", trial.id, trial.label);
        if (trial.steps.size() > 1000)
            fault(where, "the trial has more than 1000 steps", "split it into several");
        for (const TrialStep& step : trial.steps) {
            (void)identity("step", step.id, "");
            if (m_house.route(step.route) == nullptr)
                fault(where, "a step runs over the route “" + step.route + "”, which is not there",
                      "add the route or remove the step");
        }
    }

    void checkSchedule(const Schedule& s) {
        const std::string where = identity("schedule", s.id, s.label);
        if (m_house.route(s.route) == nullptr)
            fault(where, "it runs over the route “" + s.route + "”, which is not there",
                  "add the route or remove the schedule");
        if (!(s.everyMinutes >= 1 && s.everyMinutes <= 1440 && s.hours >= 1 && s.hours <= 744 &&
              s.seconds >= 1 && s.seconds <= 60 && s.streams >= 1 && s.streams <= 32))
            fault(where, "its figures are out of range",
                  "run every 1 to 1440 minutes for 1 to 744 hours, 1 to 60 seconds with 1 to 32 streams");
        // Both directions in turn, and a second between.
        else if (2 * (s.seconds + 1) > maxDuty * 60 * s.everyMinutes)
            fault(where, "its runs would take more than a quarter of the time", "run less often or shorter");
    }

    void checkAppliance(const Appliance& appliance) {
        const std::string where = identity("appliance", appliance.id, appliance.label);
        if (!appliance.outlet.empty()) checkJack(where, appliance.outlet, JackKind::mains);
        for (const HourSpan& span : appliance.hours)
            if (span.from < 0 || span.from > 24 || span.to < 0 || span.to > 24)
                fault(where, "hours go from 0 to 24");
    }

    void checkLength(const std::string& where, const std::optional<quantity::Length>& length) {
        if (length && !(length->inMetres() >= 0 && length->inMetres() <= 1000))
            fault(where, "the length must be from 0 to 1000 m", "give the length of one run in metres");
    }

    void checkRoom(const Room& room) {
        const std::string where = identity("room", room.id, room.label);
        if (room.building.size() > maxLabel) fault(where, "the building's name is too long");
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
            if (port.label.size() > maxLabel) fault(where + " port " + port.id, "the label is too long");
            if (!port.jack.empty()) checkPlugged(where + " port " + port.id, port);
        }
        if (device.storage && (device.storage->disks < 1 || device.storage->disks > 64))
            fault(where, "it has from 1 to 64 disks");
    }

    void checkPlugged(const std::string& where, const Port& port) {
        if (const auto kind = jackOf(port.kind)) return checkJack(where, port.jack, *kind);
        fault(where, "a port of kind " + std::string(name(port.kind)) + " is not plugged into a jack",
              "leave its jack empty");
    }

    // An end that is no port of a device: a jack, a part of the coax tree, or a loose end in a room.
    bool checkPassiveEnd(const std::string& spot, const Connection& connection, const PortRef& end) {
        if (const Jack* jack = m_house.jack(end.device)) {
            if (jackOf(connection.medium) != jack->kind)
                fault(spot,
                      "this kind of cable does not end in a " + std::string(name(jack->kind)) + " jack");
        } else if (const CoaxPart* part = m_house.coaxPart(end.device)) {
            const auto ports = portsOf(*part);
            if (connection.medium != Medium::coax)
                fault(spot, "only coax is screwed onto it");
            else if (std::find(ports.begin(), ports.end(), end.port) == ports.end())
                fault(spot, "it has no such port", "its ports are " + ports.front() + " to " + ports.back());
        } else if (m_house.room(end.device) != nullptr) {
            if (!jackOf(connection.medium)) fault(spot, "only a run of cable can end loose in a room");
            return true; // any number of cables may end loose there
        } else {
            return false;
        }
        if (const auto [first, fresh] = m_taken.emplace(end, connection.id); !fresh)
            fault(spot, "another cable, " + first->second + ", ends there", "take one of them off");
        return true;
    }

    void checkConnection(const Connection& connection) {
        const std::string where = identity("connection", connection.id, connection.label);
        const std::size_t ends = connection.ends.size();
        if (ends < 2 && !jackOf(connection.medium))
            fault(where, "it has fewer than two ends", "say what its other end is plugged into");
        if (ends > 2 && !isShared(connection.medium)) fault(where, "a cable or socket has exactly two ends");
        if (ends > 256) fault(where, "it has more than 256 ends");
        if (connection.badConnectors && (*connection.badConnectors < 0 || *connection.badConnectors > 2))
            fault(where, "a run has from 0 to 2 bad connectors");
        if (connection.walls && (*connection.walls < 0 || *connection.walls > 20))
            fault(where, "walls must be from 0 to 20");
        if (connection.stations && (*connection.stations < 1 || *connection.stations > 256))
            fault(where, "stations must be from 1 to 256");
        for (const PortRef& end : connection.ends) {
            const Port* port = m_house.port(end);
            const std::string spot = where + " end " + end.device + (end.port.empty() ? "" : "." + end.port);
            if (port == nullptr && checkPassiveEnd(spot, connection, end)) continue;
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
        checkLength(where, connection.length);
    }

    // What does not fit together is for addressing.h to say: a plan may be half made.
    void checkAddressing() {
        const Addressing& plan = m_house.addressing;
        if (plan.networks.size() > maxNetworks || plan.ports.size() > maxAddresses)
            fault("addresses", "there are more than 100 networks or 1000 addresses", "split the job");
        std::set<Id> ids;
        const auto check = [&](const Id& id, const std::string& what) {
            if (!isId(id)) fault(what + " " + id.substr(0, 64), "the id must be 1 to 64 of a-z, 0-9 and '-'");
            if (!ids.insert(what + id).second) fault(what + " " + id, "another one has the same id");
        };
        for (const Network& n : plan.networks)
            check(n.id, "network");
        for (const PortAddress& p : plan.ports)
            check(p.id, "address");
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
        const Id from = m_house.deviceAt(route.from);
        const Id to = m_house.deviceAt(route.to);
        if (from.empty()) fault(where, "its endpoint “" + route.from + "” does not exist");
        if (to.empty()) fault(where, "its endpoint “" + route.to + "” does not exist");
        if (!from.empty() && from == to)
            fault(where, "both ends are the same machine", "choose two machines");
        if (route.mtu < 576 || route.mtu > 9216) fault(where, "the MTU must be from 576 to 9216 bytes");
        if (route.ipVersion != 4 && route.ipVersion != 6) fault(where, "the IP version must be 4 or 6");
    }

    const House& m_house;
    std::vector<Problem> m_faults;
    std::set<Id> m_ids;
    std::set<Id> m_wired; // outlets that are on a circuit
    std::map<PortRef, Id> m_taken;
};

} // namespace

std::vector<Problem> validate(const House& house) {
    return Check(house).all();
}

} // namespace metrodos::house
