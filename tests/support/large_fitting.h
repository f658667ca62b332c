// A house of forty rooms in which a plan of some three hundred steps is to be fitted.
#pragma once

#include "support/served_house.h"

namespace metrodos::testing {

inline house::House largeFitting() {
    using namespace metrodos::house;
    House h = servedHouse(900, 300, 40);
    for (int i = 5; i <= 40; ++i) // a port for each run
        h.device("router")->ports.push_back(
            {"p" + std::to_string(i), std::to_string(i), PortKind::ethernet, "1000base-t"});
    for (const Connection& c : h.connections)
        h.fitting.planned.push_back(c.id);
    for (int i = 1; i <= 40; ++i) {
        const std::string n = std::to_string(i);
        for (int k = 0; k < 3; ++k) {
            const std::string id = "box-" + n + "-" + std::to_string(k);
            h.devices.push_back(
                {id,
                 "Mains adapter " + n,
                 DeviceKind::adapter,
                 "mains-1200",
                 "room-" + n,
                 {{"lan", "LAN", PortKind::ethernet, "1000base-t"}, {"line", "line", PortKind::mains, ""}}});
            h.fitting.planned.push_back(id);
        }
        h.endpoints.push_back({"end-" + n, "Machine " + n, "machine-" + n, ""});
        Route route;
        route.id = "route-" + n;
        route.label = "To " + n;
        route.from = "end-1";
        route.to = "end-" + n;
        if (i > 1) h.routes.push_back(route);
    }
    return h;
}

} // namespace metrodos::testing
