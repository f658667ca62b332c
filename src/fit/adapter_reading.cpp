#include "fit/adapter_reading.h"

#include "house/machine_ports.h"

#include <algorithm>

namespace metrodos::fit {

using house::Connection;
using house::Device;
using house::House;
using house::Id;
using house::isOn;
using quantity::BitRate;

namespace {

// The one that another one calls by this name: what was given to it comes before its label here.
const Device* named(const House& house, const Connection& medium, const std::string& name) {
    for (const bool byRecord : {true, false})
        for (const Device& d : house.devices)
            if (isOn(medium, d.id) && (byRecord ? d.setUp.name : d.label) == name) return &d;
    return nullptr;
}

} // namespace

House withStatus(const House& house, const Id& adapter, const house::AdapterStatus& status,
                 const std::string& at, std::vector<std::string>& unknown) {
    House out = house;
    Device* device = out.device(adapter);
    if (device == nullptr) return out;
    house::AdapterRecord& record = device->setUp;
    const auto take = [](auto& to, const auto& said) {
        if (said) to = said;
    };
    if (!status.name.empty()) record.name = status.name;
    if (!status.firmware.empty()) record.firmware = status.firmware;
    if (!status.priority.empty()) record.priority = status.priority;
    take(record.powerSaving, status.powerSaving);
    take(record.lightsOff, status.lightsOff);
    take(record.modemProtection, status.modemProtection);
    take(record.isPrivate, status.isPrivate);
    record.at = at;
    for (const house::PeerRates& peer : status.peers) {
        bool isKnown = false;
        for (Connection& c : out.connections) {
            if (!house::isShared(c.medium) || !isOn(c, adapter)) continue;
            const Device* other = named(house, c, peer.name);
            if (other == nullptr || other->id == adapter) continue;
            isKnown = true;
            if (peer.to) house::noteRate(c, {adapter, other->id, *peer.to, at});
            if (peer.from) house::noteRate(c, {other->id, adapter, *peer.from, at});
        }
        if (!isKnown) unknown.push_back(peer.name);
    }
    return out;
}

std::optional<catalog::RateSpread> impliedGoodput(const catalog::Catalog& catalog, house::Medium medium,
                                                  BitRate shown) {
    const catalog::MediumClass* cls = catalog.medium(medium);
    if (cls == nullptr) return std::nullopt;
    const auto& share = cls->phyShare;
    return catalog::RateSpread{shown * share.p10, shown * share.p50, shown * share.p90};
}

std::vector<AdapterRates> ratesOf(const House& house, const Id& adapter) {
    std::vector<AdapterRates> out;
    for (const Connection& c : house.connections) {
        if (!house::isShared(c.medium) || !isOn(c, adapter)) continue;
        for (const Device& other : house.devices) {
            if (other.id == adapter || !isOn(c, other.id)) continue;
            AdapterRates rates{c.id, other.id, {}, {}, ""};
            for (const house::PhyReading& r : c.phyRates) {
                const bool isTo = r.from == adapter && r.to == other.id;
                const bool isFrom = r.from == other.id && r.to == adapter;
                if (isTo) rates.to = r.rate;
                if (isFrom) rates.from = r.rate;
                if (isTo || isFrom) rates.at = std::max(rates.at, r.at);
            }
            out.push_back(std::move(rates));
        }
    }
    return out;
}

} // namespace metrodos::fit
