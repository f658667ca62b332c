#include "probe/note_network.h"

#include "house/addressing.h"

#include <algorithm>

namespace metrodos::probe {
namespace {

using house::Addressing;
using house::Network;
using quantity::IpAddress;
using quantity::IpPrefix;

bool hasAddress(const std::string& text, const IpAddress& address) {
    const auto read = IpAddress::parse(text);
    return read && *read == address;
}

} // namespace

NotedNetwork noteNetwork(const house::House& house, const LocalNetwork& local) {
    NotedNetwork out{house, {}, {}};
    Addressing& plan = out.house.addressing;
    for (const LocalAddress& mine : local.addresses) {
        if (mine.prefix.length == mine.address.bits()) continue; // an address of its own is no network
        const auto known = std::find_if(plan.networks.begin(), plan.networks.end(), [&](const Network& n) {
            const auto prefix = IpPrefix::parse(n.prefix);
            return prefix && *prefix == mine.prefix;
        });
        Network* network = known == plan.networks.end() ? nullptr : &*known;
        if (network == nullptr) {
            plan.networks.push_back(
                {house::freeNetworkId(plan), "Network at " + mine.interface, mine.prefix.text(), "", "", ""});
            network = &plan.networks.back();
            out.changes.push_back("network " + mine.prefix.text());
        }
        for (const LocalGateway& way : local.gateways)
            if (network->gateway.empty() && mine.prefix.contains(way.address)) {
                network->gateway = way.address.text();
                out.changes.push_back("gateway " + network->gateway);
            }
    }
    const auto isKnown = [&](const IpAddress& address, const std::string& hardware) {
        for (house::PortAddress& p : plan.ports)
            if (hasAddress(p.address, address)) {
                if (p.hardware.empty() && !hardware.empty()) {
                    p.hardware = hardware;
                    out.changes.push_back("hardware address of " + p.address);
                }
                return true;
            }
        return std::any_of(plan.networks.begin(), plan.networks.end(),
                           [&](const Network& n) { return hasAddress(n.gateway, address); });
    };
    for (const LocalAddress& mine : local.addresses)
        if (!isKnown(mine.address, mine.hardware))
            out.seen.push_back({mine.address, mine.hardware, "this computer, " + mine.interface});
    for (const Neighbour& other : local.neighbours)
        if (!isKnown(other.address, other.hardware))
            out.seen.push_back({other.address, other.hardware, "neighbour at " + other.interface});
    return out;
}

} // namespace metrodos::probe
