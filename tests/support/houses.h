// Small houses for tests, built in code.
#pragma once

#include "house/house.h"

namespace metrodos::testing {

using namespace metrodos::house;

/// desk computer (port) – cable – switch – cable – shelf computer (port); every Ethernet port has the PHYs
/// given.
inline House wiredHouse(const std::string& deskPhy = "1000base-t",
                        const std::string& switchPhy = "1000base-t",
                        const std::string& shelfPhy = "1000base-t") {
    House h;
    h.name = "Test House";
    h.rooms = {{"study", "Study", 0}};
    h.devices = {{"desk",
                  "Desk computer",
                  DeviceKind::host,
                  "workstation",
                  "study",
                  {{"lan", "LAN", PortKind::ethernet, deskPhy}}},
                 {"switch",
                  "Switch",
                  DeviceKind::network_switch,
                  "switch-1g",
                  "study",
                  {{"p1", "1", PortKind::ethernet, switchPhy}, {"p2", "2", PortKind::ethernet, switchPhy}}},
                 {"shelf",
                  "Shelf computer",
                  DeviceKind::host,
                  "workstation",
                  "study",
                  {{"lan", "LAN", PortKind::ethernet, shelfPhy}}}};
    Connection a;
    a.id = "run-1";
    a.label = "wall run";
    a.ends = {{"desk", "lan"}, {"switch", "p1"}};
    a.cableClass = "cat6";
    a.length = quantity::Length::metres(20);
    a.goodPairs = 4;
    Connection b = a;
    b.id = "run-2";
    b.label = "patch lead";
    b.ends = {{"switch", "p2"}, {"shelf", "lan"}};
    b.length = quantity::Length::metres(2);
    h.connections = {a, b};
    h.endpoints = {{"desk-end", "Desk", "desk", ""}, {"shelf-end", "Shelf", "shelf", ""}};
    Route r;
    r.id = "desk-shelf";
    r.label = "Desk to shelf";
    r.from = "desk-end";
    r.to = "shelf-end";
    h.routes = {r};
    return h;
}

/// The same with the second cable replaced by: switch – lead – coax adapter – coax – coax adapter – lead –
/// USB adapter – USB socket of the shelf computer.
inline House coaxHouse(const std::string& socket = "usb3-5g", const std::string& coaxClass = "coax-2500") {
    House h = wiredHouse("2.5gbase-t", "2.5gbase-t");
    h.device("switch")->deviceClass = "switch-2.5g";
    h.device("shelf")->ports = {{"usb", "USB", PortKind::usb, socket}};
    for (const char* id : {"coax-a", "coax-b"})
        h.devices.push_back(
            {id,
             "Coax adapter",
             DeviceKind::adapter,
             coaxClass,
             "",
             {{"lan", "LAN", PortKind::ethernet, "2.5gbase-t"}, {"line", "coax", PortKind::coax, ""}}});
    h.devices.push_back(
        {"nic",
         "USB adapter",
         DeviceKind::adapter,
         "usb-nic-2.5g",
         "",
         {{"lan", "LAN", PortKind::ethernet, "2.5gbase-t"}, {"plug", "plug", PortKind::usb, "usb3-5g"}}});
    h.connection("run-2")->ends = {{"switch", "p2"}, {"coax-a", "lan"}};
    Connection coax;
    coax.id = "coax";
    coax.label = "old aerial coax";
    coax.medium = Medium::coax;
    coax.ends = {{"coax-a", "line"}, {"coax-b", "line"}};
    coax.situation = "good";
    Connection lead = *h.connection("run-2");
    lead.id = "run-3";
    lead.ends = {{"coax-b", "lan"}, {"nic", "lan"}};
    Connection bus;
    bus.id = "socket";
    bus.label = "USB socket";
    bus.medium = Medium::bus;
    bus.ends = {{"nic", "plug"}, {"shelf", "usb"}};
    h.connections.insert(h.connections.end(), {coax, lead, bus});
    return h;
}

/// Two machines plugged into jacks of one run.
inline House jacked() {
    House h = wiredHouse();
    h.jacks = {{"j1", "Study data 1", "study", JackKind::data},
               {"j2", "Study data 2", "study", JackKind::data}};
    h.connections = {h.connections[0]};
    h.connections[0].ends = {{"j1", ""}, {"j2", ""}};
    h.device("desk")->ports[0].jack = "j1";
    h.device("shelf")->ports[0].jack = "j2";
    return h;
}

} // namespace metrodos::testing
