#include "fit/cupboard.h"

#include <algorithm>
#include <map>

namespace metrodos::fit {
namespace {

using house::Connection;
using house::House;
using house::Id;
using house::PortRef;

// A run of cable, and no lead between two boxes of one room or network of adapters.
bool isRun(const House& house, const Connection& c) {
    if (!house::jackOf(c.medium) || c.ends.size() > 2) return false;
    const auto isAdapter = [&](const PortRef& end) {
        const house::Port* port = house.port(end);
        return port != nullptr && port->kind != house::PortKind::ethernet;
    };
    if (std::any_of(c.ends.begin(), c.ends.end(), isAdapter)) return false;
    return c.ends.size() < 2 || house.roomOf(c.ends[0]) != house.roomOf(c.ends[1]) ||
           house.roomOf(c.ends[0]).empty();
}

// How much an end speaks for its room being the cupboard: runs come together at switches and routers, and
// hang loose where nobody knew them; splitters may sit anywhere, and a jack is the other end.
int weightOf(const House& house, const PortRef& end) {
    const house::Device* device = house.device(end.device);
    if (device != nullptr && device->kind != house::DeviceKind::host) return 4;
    if (house.room(end.device) != nullptr) return 4;
    return house.coaxPart(end.device) != nullptr ? 2 : 1;
}

// Where a jack's run goes on: what is plugged into it.
std::optional<PortRef> pluggedInto(const House& house, const Id& jack) {
    for (const house::Device& d : house.devices)
        for (const house::Port& p : d.ports)
            if (p.jack == jack) return PortRef{d.id, p.id};
    return std::nullopt;
}

} // namespace

Cupboard cupboardOf(const House& house) {
    Cupboard out;
    std::map<Id, int> ends;
    for (const Connection& c : house.connections)
        if (isRun(house, c))
            for (const PortRef& end : c.ends)
                if (const Id room = house.roomOf(end); !room.empty()) ends[room] += weightOf(house, end);
    // Of rooms with as many, the first of the survey.
    for (const house::Room& room : house.rooms)
        if (ends[room.id] > 0 && (out.room.empty() || ends[room.id] > ends[out.room])) out.room = room.id;
    if (out.room.empty()) return out;
    for (const Connection& c : house.connections) {
        if (!isRun(house, c)) continue;
        const auto here = std::find_if(c.ends.begin(), c.ends.end(),
                                       [&](const PortRef& end) { return house.roomOf(end) == out.room; });
        // One that has both ends elsewhere does not pass the cupboard.
        if (here == c.ends.end() && c.ends.size() == 2) continue;
        CupboardRun run{c.id, c.medium, c.label,   here != c.ends.end(), "", "", "",
                        "",   "",       c.foundBy, c.goodPairs};
        if (run.isHere) {
            PortRef joined = *here;
            if (house.jack(joined.device) != nullptr)
                joined = pluggedInto(house, joined.device).value_or(joined);
            // A jack with nothing in it is joined to nothing, and so is a loose end.
            if (house.room(joined.device) == nullptr && house.jack(joined.device) == nullptr) {
                run.joinedTo = joined.device;
                const std::string label = house.labelOf(joined);
                const house::Device* device = house.device(joined.device);
                const house::CoaxPart* part = house.coaxPart(joined.device);
                run.joinedLabel = device != nullptr ? device->label : part != nullptr ? part->label : label;
                const std::size_t comma = run.joinedLabel.size() + 2; // ", " and the port
                if (label.size() > comma) run.joinedPort = label.substr(comma);
            }
        }
        for (const PortRef& end : c.ends)
            if (here == c.ends.end() || !(end == *here)) {
                run.farLabel = house.labelOf(end);
                run.isFarLoose = house.room(end.device) != nullptr;
                run.farRoom = house.roomOf(end);
            }
        out.runs.push_back(std::move(run));
    }
    const auto rank = [](const CupboardRun& r) {
        return std::tuple(!r.isHere, r.joinedTo.empty(), r.joinedLabel, r.joinedPort.size(), r.joinedPort);
    };
    std::ranges::stable_sort(out.runs, {}, rank);
    return out;
}

} // namespace metrodos::fit
