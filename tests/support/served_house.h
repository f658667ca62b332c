// A house with a service, a router and rooms with a machine each, for plans whose sums can be worked out by
// hand.
#pragma once

#include "house/house.h"
#include "support/classes.h"
#include "weigh/need.h"

#include <string>

namespace metrodos::testing {

/// A hall with a router of four 1 Gbit/s ports and the service, and `rooms` rooms on its floor: "room-1" …
/// with a spot "spot-1" … each, at a desktop computer "machine-1" … with a port of 1 Gbit/s, joined by a
/// tested run of category 6A.
inline house::House servedHouse(double downMbps, double upMbps, int rooms, const std::string& uses = "") {
    using namespace metrodos::house;
    House h;
    h.name = "Millrace Cottage";
    h.rooms = {{"hall", "Hall", 0}};
    Device router{"router", "Router", DeviceKind::router, "router-1g", "hall", {}};
    for (int i = 1; i <= 4; ++i)
        router.ports.push_back(
            {"p" + std::to_string(i), std::to_string(i), PortKind::ethernet, "1000base-t"});
    h.devices.push_back(router);
    h.service = Service{"internet", "internet service", "router", quantity::BitRate::megabits(downMbps),
                        quantity::BitRate::megabits(upMbps)};
    for (int i = 1; i <= rooms; ++i) {
        const std::string n = std::to_string(i);
        h.rooms.push_back({"room-" + n, "Room " + n, 0});
        h.devices.push_back({"machine-" + n,
                             "Machine " + n,
                             DeviceKind::host,
                             "desktop",
                             "room-" + n,
                             {{"lan", "LAN", PortKind::ethernet, "1000base-t"}}});
        Connection run;
        run.id = "run-" + n;
        run.label = "run " + n;
        run.cableClass = "cat6a";
        run.length = quantity::Length::metres(20);
        run.goodPairs = 4;
        run.ends = {{"router", "p" + n}, {"machine-" + n, "lan"}};
        h.connections.push_back(run);
        Spot spot;
        spot.id = "spot-" + n;
        spot.label = "Spot " + n;
        spot.room = "room-" + n;
        spot.device = "machine-" + n;
        if (!uses.empty()) spot.uses = weigh::parseUses(uses, classes(), h).value();
        h.spots.push_back(std::move(spot));
    }
    return h;
}

/// An outlet in the hall and one in the first room, on one ring.
inline void addRing(house::House& h) {
    using namespace metrodos::house;
    h.panels = {{"panel", "Panel", "hall", ""}};
    h.jacks = {{"hall-outlet", "Hall outlet", "hall", JackKind::mains},
               {"room-outlet", "Room outlet", "room-1", JackKind::mains}};
    Circuit ring;
    ring.id = ring.label = "ring";
    ring.panel = "panel";
    ring.outlets = {{"hall-outlet", quantity::Length::metres(4)},
                    {"room-outlet", quantity::Length::metres(6)}};
    h.circuits = {ring};
}

/// A store with a port of 1 Gbit/s on the router's last port.
inline void addStore(house::House& h) {
    using namespace metrodos::house;
    Device store{"store",   "Store", DeviceKind::host,
                 "desktop", "hall",  {{"lan", "LAN", PortKind::ethernet, "1000base-t"}}};
    store.storage = Storage{"nvme", 2, DiskLayout::stripe};
    h.devices.push_back(store);
    Connection lead;
    lead.id = "store-lead";
    lead.label = "lead of the store";
    lead.cableClass = "cat6a";
    lead.length = quantity::Length::metres(1);
    lead.goodPairs = 4;
    lead.ends = {{"router", "p4"}, {"store", "lan"}};
    h.connections.push_back(lead);
}

} // namespace metrodos::testing
