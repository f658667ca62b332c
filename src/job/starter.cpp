#include "job/starter.h"

namespace metrodos::job {

house::House starterHouse() {
    using namespace house;
    House h;
    h.name = "New house";
    const auto machine = [](const char* id, const char* label, const char* deviceClass) {
        return Device{id, label, DeviceKind::host, deviceClass, "", {{"lan", "LAN", PortKind::ethernet, ""}}};
    };
    h.devices = {machine("this-machine", "This machine", "laptop"),
                 machine("far-machine", "Far machine", "")};
    Connection cable;
    cable.id = cable.label = "cable";
    cable.ends = {{"this-machine", "lan"}, {"far-machine", "lan"}};
    h.connections = {cable};
    h.endpoints = {{"here-end", "Here", "this-machine", "here"}, {"far-end", "There", "far-machine", ""}};
    Route route;
    route.id = "first-route";
    route.label = "Here to there";
    route.from = "here-end";
    route.to = "far-end";
    h.routes = {route};
    return h;
}

} // namespace metrodos::job
