// Houses with something in the walls, for tests of the channel models.
#pragma once

#include "house/house.h"

namespace metrodos::testing {

using namespace metrodos::house;

inline Connection coaxRun(const Id& id, const PortRef& a, const PortRef& b, double metres,
                          const std::string& type = "rg6") {
    Connection c;
    c.id = c.label = id;
    c.medium = Medium::coax;
    c.ends = {a, b};
    c.cableClass = type;
    c.length = quantity::Length::metres(metres);
    c.badConnectors = 0;
    return c;
}

inline CoaxPart splitter(const Id& id, int ways, bool rated) {
    CoaxPart part;
    part.id = part.label = id;
    part.kind = CoaxPartKind::splitter;
    part.ways = ways;
    part.rated = rated;
    part.terminated = true;
    return part;
}

/// entry – 1 m – [filter – 0 m –] splitter s1 (2-way): out-1 – 10 m – jack a, out-2 – 5 m – splitter s2
/// (3-way): out-1 – 20 m – jack b, out-2 – 4 m – splitter s3 (4-way): out-1 – 15 m – jack c. RG-6, sound
/// connectors.
inline House coaxTreeHouse(bool withFilter, bool rated) {
    House h;
    h.rooms = {{"cupboard", "Cupboard", 0}};
    for (const char* id : {"a", "b", "c"})
        h.jacks.push_back({id, std::string("jack ") + id, "cupboard", JackKind::coax});
    CoaxPart entry;
    entry.id = entry.label = "entry";
    entry.kind = CoaxPartKind::entry;
    h.coaxParts = {entry, splitter("s1", 2, rated), splitter("s2", 3, rated), splitter("s3", 4, rated)};
    if (withFilter) {
        CoaxPart filter;
        filter.id = filter.label = "filter";
        filter.kind = CoaxPartKind::filter;
        h.coaxParts.push_back(filter);
        h.connections = {coaxRun("feed", {"entry", "out"}, {"filter", "in"}, 1),
                         coaxRun("jumper", {"filter", "out"}, {"s1", "in"}, 0)};
    } else {
        h.connections = {coaxRun("feed", {"entry", "out"}, {"s1", "in"}, 1)};
    }
    h.connections.push_back(coaxRun("run-a", {"s1", "out-1"}, {"a", ""}, 10));
    h.connections.push_back(coaxRun("link-12", {"s1", "out-2"}, {"s2", "in"}, 5));
    h.connections.push_back(coaxRun("run-b", {"s2", "out-1"}, {"b", ""}, 20));
    h.connections.push_back(coaxRun("link-23", {"s2", "out-2"}, {"s3", "in"}, 4));
    h.connections.push_back(coaxRun("run-c", {"s3", "out-1"}, {"c", ""}, 15));
    return h;
}

/// One main panel with circuits c0 and c1 on leg 1 and c2 on leg 2, a sub-panel with c3 on leg 1, and another
/// supply with c4; eight outlets each, "o<circuit>-<position>", 6 m from the panel and 3.5 m apart. `tag`
/// makes other ids and with them other fading.
inline House mainsHouse(const std::string& tag = "") {
    House h;
    h.rooms = {{"hall", "Hall", 0}, {"loft", "Loft", 2}};
    h.panels = {
        {"main", "Main panel", "hall", ""}, {"sub", "Sub-panel", "loft", "main"}, {"other", "Barn", "", ""}};
    for (int c = 0; c < 5; ++c) {
        Circuit circuit;
        circuit.id = "c" + std::to_string(c) + tag;
        circuit.label = "circuit " + std::to_string(c);
        circuit.panel = c == 3 ? "sub" : c == 4 ? "other" : "main";
        circuit.leg = c == 2 ? "2" : "1";
        circuit.protection = Protection::breaker;
        circuit.wiring = "copper";
        for (int o = 0; o < 8; ++o) {
            Jack jack{"o" + std::to_string(c) + "-" + std::to_string(o) + tag, "outlet",
                      o < 4 ? "hall" : "loft", JackKind::mains};
            circuit.outlets.push_back({jack.id, quantity::Length::metres(o == 0 ? 6 : 3.5)});
            h.jacks.push_back(std::move(jack));
        }
        h.circuits.push_back(std::move(circuit));
    }
    return h;
}

} // namespace metrodos::testing
