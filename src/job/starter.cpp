#include "job/starter.h"

#include "house/edit.h"

namespace metrodos::job {

house::House emptyHouse() {
    house::House h;
    h.name = "New house";
    return h;
}

house::House starterHouse(const catalog::Catalog& catalog, Between between, const std::string& address) {
    using namespace house;
    House h = emptyHouse();
    h.rooms = {{"this-room", "This room", 0}, {"other-room", "Other room", 0}};
    const auto machine = [](const char* id, const char* label, const char* deviceClass, const char* room) {
        return Device{id,          label, DeviceKind::host,
                      deviceClass, room,  {{"lan", "LAN", PortKind::ethernet, ""}}};
    };
    h.devices = {machine("this-machine", "This machine", "laptop", "this-room"),
                 machine("far-machine", "Far machine", "", "other-room")};
    Connection cable;
    cable.id = cable.label = "cable";
    cable.ends = {{"this-machine", "lan"}, {"far-machine", "lan"}};
    h.connections = {cable};
    h.endpoints = {{"here-end", "Here", "this-machine", "here"},
                   {"far-end", "There", "far-machine", address}};
    Route route;
    route.id = "first-route";
    route.label = "Here to there";
    route.from = "here-end";
    route.to = "far-end";
    h.routes = {route};
    if (between == Between::cable) return h;
    NewUnit unit;
    unit.patchCategory = "cat5e";
    if (between == Between::network_switch) {
        unit.label = "Switch";
    } else {
        unit.crossing = between == Between::coax_pair ? Medium::coax : Medium::mains;
        unit.label = between == Between::coax_pair ? "Coax pair" : "Mains pair";
    }
    auto with = insertUnit(h, route, "cable", unit);
    if (!with) return h; // it always can: the cable is there
    for (Device& d : with->devices)
        if (d.room.empty()) d.room = d.id == with->devices.back().id ? "other-room" : "this-room";
    if (unit.crossing)
        for (Connection& c : with->connections)
            if (c.medium == *unit.crossing) c.label = catalog.medium(c.medium)->label;
    return *with;
}

} // namespace metrodos::job
