#include "desktop/model/machine_access.h"

#include "probe/guest_remote.h"

namespace metrodos::desktop {

quantity::Result<std::shared_ptr<probe::GuestEnd>> MachineAccess::invite(const house::Id& endpoint,
                                                                         const std::string& by) {
    m_guests.erase(endpoint);
    if (by != "here") {
        EndpointAccess agent;
        agent.address = by;
        if (auto known = addKey(agent, {}); !known) return tl::unexpected(known.error());
        return m_guests[endpoint] =
                   std::make_shared<probe::RemoteGuest>(by, [agent] { return openLink(agent); });
    }
    auto server = probe::GuestServer::startAnywhere({});
    if (!server) return tl::unexpected(server.error());
    return m_guests[endpoint] = std::move(*server);
}

quantity::Result<EndpointAccess> MachineAccess::to(const house::Id& id) const {
    EndpointAccess out;
    if (const house::Endpoint* endpoint = m_job.house().endpoint(id)) out.address = endpoint->address;
    if (const auto by = servesGuest(out.address)) {
        const auto guest = m_guests.find(id);
        if (guest == m_guests.end() || guest->second->servedBy() != *by ||
            guest->second->state().expiresIn.count() == 0)
            return quantity::problem("the code of this device has ended", "",
                                     "invite it again: Measure, page Machines");
        out.guest = guest->second;
        return out;
    }
    if (auto known = addKey(out, id); !known) return tl::unexpected(known.error());
    return out;
}

quantity::Result<void> MachineAccess::addKey(EndpointAccess& out, const house::Id& endpoint) const {
    if (m_standins != nullptr) {
        if (!m_standins->isReady())
            return quantity::problem("the simulated house is still starting", "", "try again in a moment");
        if (out.address.empty()) out.address = m_standins->address(endpoint);
        if (const auto key = m_standins->key()) out.keys.push_back(*key);
        return {};
    }
    // One made with this machine alone fits it and no other; the shared one may fit any.
    out.known = m_known;
    out.keys = m_known->keysFor(out.address);
    if (const auto shared = probe::Key::load(keyFile())) out.keys.push_back(*shared);
    return {};
}

std::string MachineAccess::adapterPage(const house::Device& adapter) const {
    if (!adapter.setUp.statusUrl.empty() || m_standins == nullptr) return adapter.setUp.statusUrl;
    return m_standins->page(adapter.id);
}

std::string MachineAccess::serviceUrl(const house::Service& service, const house::Id& machine) const {
    if (!service.testUrl.empty() || m_standins == nullptr || m_standins->service().empty())
        return service.testUrl;
    return m_standins->service() + "/" + machine;
}

} // namespace metrodos::desktop
