#include "house/findings.h"

#include "house/route.h"

#include <algorithm>
#include <map>
#include <set>

namespace metrodos::house {
namespace {

using quantity::Problem;
using quantity::problem;
using quantity::Result;

constexpr double maxCopper = 100; // m, ISO/IEC 11801-1: one channel
constexpr double maxCoax = 200;   // m: no run inside a house is longer
constexpr double maxOutletStep = 60;

std::set<Id> jacksWithRun(const House& house) {
    std::set<Id> out;
    for (const Connection& connection : house.connections)
        for (const PortRef& end : connection.ends)
            if (house.jack(end.device) != nullptr) out.insert(end.device);
    return out;
}

class Look {
  public:
    explicit Look(const House& house)
        : m_house(house) {}

    std::vector<Problem> all() {
        runs();
        jacks();
        coaxLoops();
        services();
        return std::move(m_found);
    }

  private:
    void say(std::string where, std::string what, std::string advice) {
        m_found.push_back({std::move(what), std::move(where), std::move(advice)});
    }

    void runs() {
        for (const Connection& c : m_house.connections) {
            const std::string where = "connection " + c.id;
            if (c.ends.size() < 2 && jackOf(c.medium))
                say(where,
                    c.ends.empty() ? "neither end of “" + c.label + "” is known"
                                   : "the run “" + c.label + "” has one end only",
                    "find its other end with a tester and enter it");
            if (!c.length) continue;
            const double metres = c.length->inMetres();
            if (c.medium == Medium::data_cable && metres > maxCopper)
                say(where, "a copper run of more than 100 m does not link", "check the length");
            if (c.medium == Medium::coax && metres > maxCoax)
                say(where, "a coax run of more than 200 m is not found in a house", "check the length");
            if (metres == 0 && c.medium == Medium::data_cable)
                say(where, "a cable of no length", "enter its length, or leave it empty if it is not known");
        }
        for (const Circuit& circuit : m_house.circuits)
            for (const CircuitOutlet& outlet : circuit.outlets)
                if (outlet.fromPrevious && outlet.fromPrevious->inMetres() > maxOutletStep)
                    say("circuit " + circuit.id,
                        "more than 60 m of wire before the outlet “" + outlet.jack + "”", "check the length");
    }

    void jacks() {
        const std::set<Id> wired = jacksWithRun(m_house);
        std::set<Id> onCircuit;
        for (const Circuit& circuit : m_house.circuits)
            for (const CircuitOutlet& outlet : circuit.outlets)
                onCircuit.insert(outlet.jack);
        for (const Jack& jack : m_house.jacks) {
            const std::string where = "jack " + jack.id;
            if (jack.kind == JackKind::mains) {
                if (!onCircuit.contains(jack.id))
                    say(where, "the outlet “" + jack.label + "” is on no circuit",
                        "find its circuit at the panel and enter it there");
            } else if (!wired.contains(jack.id)) {
                say(where, "no run ends in the jack “" + jack.label + "”",
                    "find the cable behind it with a tester and enter it");
            }
        }
    }

    // The coax plant must be a forest: union-find over what its runs join.
    void coaxLoops() {
        std::map<Id, Id> parent;
        const auto root = [&](Id at) {
            while (parent.contains(at) && parent.at(at) != at)
                at = parent.at(at);
            return at;
        };
        for (const Connection& c : m_house.connections) {
            if (c.medium != Medium::coax || c.ends.size() != 2) continue;
            std::vector<Id> nodes;
            for (const PortRef& end : c.ends)
                if (m_house.jack(end.device) != nullptr || m_house.coaxPart(end.device) != nullptr)
                    nodes.push_back(root(end.device));
            if (nodes.size() < 2) continue;
            if (nodes[0] == nodes[1])
                say("connection " + c.id, "the run “" + c.label + "” closes a loop in the coax tree",
                    "follow its cables again: a tree has one way between two places");
            parent[nodes[0]] = nodes[1];
            parent.try_emplace(nodes[1], nodes[1]);
        }
    }

    void services() {
        if (!m_house.service) return;
        const RouteFinder finder(m_house);
        const std::vector<Id> near = finder.reachable(m_house.service->device);
        for (const Device& device : m_house.devices)
            if (device.kind == DeviceKind::host &&
                std::find(near.begin(), near.end(), device.id) == near.end())
                say("device " + device.id, "nothing joins “" + device.label + "” to the service",
                    "add the missing cable, adapter or jack");
    }

    const House& m_house;
    std::vector<Problem> m_found;
};

} // namespace

std::vector<Problem> findings(const House& house) {
    return Look(house).all();
}

std::vector<OpenEnd> continuityList(const House& house) {
    const std::set<Id> wired = jacksWithRun(house);
    std::vector<OpenEnd> out;
    for (const Connection& c : house.connections) {
        const auto kind = jackOf(c.medium);
        if (!kind || c.ends.size() >= 2) continue;
        OpenEnd open{c.id, {}};
        for (const Jack& jack : house.jacks)
            if (jack.kind == *kind && !wired.contains(jack.id)) open.candidates.push_back(jack.id);
        out.push_back(std::move(open));
    }
    return out;
}

Result<House> withEndFound(const House& house, const Id& connection, const PortRef& end) {
    House out = house;
    Connection* cable = out.connection(connection);
    if (cable == nullptr)
        return problem("there is no cable “" + connection + "”", "", "choose one of the list");
    if (cable->ends.size() >= 2)
        return problem("both ends of “" + cable->label + "” are known", "", "take the wrong one off first");
    for (const Connection& other : house.connections)
        if (!end.port.empty() || house.room(end.device) == nullptr)
            if (std::find(other.ends.begin(), other.ends.end(), end) != other.ends.end())
                return problem("“" + other.label + "” ends there already", "", "take that one off first");
    cable->ends.push_back(end);
    return out;
}

Result<House> withEndLost(const House& house, const Id& connection, const PortRef& end) {
    House out = house;
    Connection* cable = out.connection(connection);
    if (cable == nullptr || std::erase(cable->ends, end) == 0)
        return problem("the cable does not end there", "", "choose one of its ends");
    return out;
}

} // namespace metrodos::house
