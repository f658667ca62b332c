#include "fit/pairing.h"

#include "house/machine_ports.h"

#include <algorithm>

namespace metrodos::fit {

using house::Device;
using house::House;
using house::Id;
using house::Medium;

std::vector<Id> adaptersOn(const House& house, Medium medium) {
    std::vector<Id> out;
    for (const Device& d : house.devices) {
        const bool isOnIt =
            std::any_of(house.connections.begin(), house.connections.end(), [&](const house::Connection& c) {
                return c.medium == medium && house::isOn(c, d.id);
            });
        if (isOnIt) out.push_back(d.id);
    }
    return out;
}

std::vector<PairTurn> pairingOf(const House& house, Medium medium) {
    if (!house::isShared(medium) || medium == Medium::air) return {};
    std::vector<Id> members;
    std::vector<Id> fresh;
    for (const Id& id : adaptersOn(house, medium)) {
        const auto& planned = house.fitting.planned;
        (std::find(planned.begin(), planned.end(), id) == planned.end() ? members : fresh).push_back(id);
    }
    const bool isFirst = members.empty();
    if (isFirst && !fresh.empty()) {
        members.push_back(fresh.front());
        fresh.erase(fresh.begin());
    }
    if (members.empty()) return {};
    std::vector<PairTurn> out;
    const std::string& member = members.front();
    for (const Id& next : fresh) {
        PairTurn turn{member, next, "", !house.device(next)->setUp.pairedAt.empty()};
        const bool isMember = !isFirst || !out.empty();
        turn.does = "Press pair on “" + house.device(member)->label + "”" +
                    (isMember ? ", which is a member" : "") + ", then on “" + house.device(next)->label +
                    "” within two minutes";
        out.push_back(std::move(turn));
    }
    return out;
}

House withPaired(const House& house, const PairTurn& turn, const std::string& at) {
    House out = house;
    if (Device* second = out.device(turn.second)) second->setUp.pairedAt = at;
    if (Device* first = out.device(turn.first); first != nullptr && first->setUp.pairedAt.empty())
        first->setUp.pairedAt = at;
    return out;
}

House withPrivacy(const House& house, Medium medium, bool isPrivate, const std::string& at) {
    House out = house;
    for (const Id& id : adaptersOn(house, medium)) {
        house::AdapterRecord& record = out.device(id)->setUp;
        record.isPrivate = isPrivate;
        record.at = at;
    }
    return out;
}

House withKeyPlace(const House& house, Medium medium, const std::string& place) {
    House out = house;
    for (const Id& id : adaptersOn(house, medium))
        out.device(id)->setUp.keyPlace = place;
    return out;
}

std::string keyPlaceOf(const House& house, Medium medium) {
    for (const Id& id : adaptersOn(house, medium))
        if (const std::string& place = house.device(id)->setUp.keyPlace; !place.empty()) return place;
    return {};
}

} // namespace metrodos::fit
