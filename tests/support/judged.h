// Houses with simulated runs and what is said of them, for the tests of trace.
#pragma once

#include "standin/simulate.h"
#include "support/classes.h"
#include "support/houses.h"
#include "trace/diagnose.h"

#include <algorithm>
#include <string>
#include <vector>

namespace metrodos::testing {

using benchmark::Direction;
using benchmark::Run;

inline benchmark::RouteRuns simulated(const house::House& h, const house::Id& route, int streams = 4,
                                      const standin::Situation& situation = {}, int repeat = 0) {
    benchmark::RouteRuns out;
    for (const Direction d : {Direction::forward, Direction::backward}) {
        benchmark::RunConfig config;
        config.direction = d;
        config.streams = streams;
        config.seconds = 5;
        out.push_back(
            {route, standin::simulate(h, classes(), *h.route(route), config, 5, repeat, situation).value()});
    }
    return out;
}

inline benchmark::RouteRuns operator+(benchmark::RouteRuns a, const benchmark::RouteRuns& b) {
    a.insert(a.end(), b.begin(), b.end());
    return a;
}

inline trace::Diagnosis judged(const house::House& surveyed, const benchmark::RouteRuns& runs,
                               std::size_t route = 0) {
    return trace::diagnoseRoute(surveyed, classes(), surveyed.routes[route], runs).value();
}

inline bool warns(const trace::Diagnosis& d, const std::string& words) {
    return std::any_of(d.warnings.begin(), d.warnings.end(),
                       [&](const std::string& w) { return w.find(words) != std::string::npos; });
}

inline double probability(const trace::Diagnosis& d, const std::string& element) {
    for (const auto& s : d.suspects)
        if (s.element == element) return s.probability;
    return 0;
}

inline const trace::Suspect& first(const trace::Diagnosis& d) {
    return d.suspects.front();
}

inline standin::HiddenFault hidden(const std::string& element, double forward, double backward) {
    standin::HiddenFault out;
    out.element = element;
    out.forward = forward;
    out.backward = backward;
    return out;
}

// A second route from the same desk to a table over mains.
inline house::House twoMains() {
    house::House h = wiredHouse();
    h.device("switch")->ports.push_back({"p3", "3", house::PortKind::ethernet, "1000base-t"});
    for (const char* id : {"mains-a", "mains-b", "mains-c"})
        h.devices.push_back({id,
                             id,
                             house::DeviceKind::adapter,
                             "mains-1200",
                             "",
                             {{"lan", "LAN", house::PortKind::ethernet, "1000base-t"},
                              {"plug", "plug", house::PortKind::mains, ""}}});
    h.connection("run-2")->ends = {{"switch", "p2"}, {"mains-a", "lan"}};
    house::Connection wiring;
    wiring.id = "mains";
    wiring.label = "house wiring";
    wiring.medium = house::Medium::mains;
    wiring.ends = {{"mains-a", "plug"}, {"mains-b", "plug"}, {"mains-c", "plug"}};
    wiring.situation = "same_circuit";
    house::Connection lead = *h.connection("run-2");
    lead.id = "run-3";
    lead.ends = {{"mains-b", "lan"}, {"shelf", "lan"}};
    h.devices.push_back({"table",
                         "Table computer",
                         house::DeviceKind::host,
                         "desktop",
                         "",
                         {{"lan", "LAN", house::PortKind::ethernet, "1000base-t"}}});
    house::Connection other = lead;
    other.id = "run-4";
    other.ends = {{"mains-c", "lan"}, {"table", "lan"}};
    h.connections.insert(h.connections.end(), {wiring, lead, other});
    h.endpoints.push_back({"table-end", "Table", "table", ""});
    house::Route r = h.routes[0];
    r.id = "desk-table";
    r.label = "Desk to table";
    r.to = "table-end";
    h.routes.push_back(r);
    return h;
}

inline std::string all(const trace::Diagnosis& d) {
    std::string out;
    for (const auto& s : d.suspects) {
        out += s.element + " " + std::to_string(s.probability) + " " + s.state + "\n";
        for (const auto& e : s.evidence)
            out += "      " + e.text + " " + std::to_string(e.before) + " " + std::to_string(e.after) + "\n";
    }
    return out;
}

} // namespace metrodos::testing
