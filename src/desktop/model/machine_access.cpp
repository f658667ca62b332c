#include "desktop/model/machine_access.h"

namespace metrodos::desktop {

quantity::Result<std::shared_ptr<probe::GuestServer>> MachineAccess::invite(const house::Id& endpoint) {
    m_guests.erase(endpoint);
    probe::GuestSettings settings;
    auto page = probe::guestPage();
    if (!page) return tl::unexpected(page.error());
    settings.page = std::move(*page);
    auto server = probe::GuestServer::start(settings);
    if (!server) { // the usual port is taken by another guest
        settings.listen = "0.0.0.0:0";
        server = probe::GuestServer::start(settings);
    }
    if (!server) return tl::unexpected(server.error());
    return m_guests[endpoint] = std::move(*server);
}

quantity::Result<EndpointAccess> MachineAccess::to(const house::Id& id) const {
    EndpointAccess out;
    if (const house::Endpoint* endpoint = m_job.house().endpoint(id)) out.address = endpoint->address;
    if (out.address == guestAddress) {
        const auto guest = m_guests.find(id);
        if (guest == m_guests.end() || guest->second->expiresIn().count() == 0)
            return quantity::problem("the code of this device has ended", "",
                                     "invite it again: Measure, page Machines");
        out.guest = guest->second;
        return out;
    }
    if (m_standins != nullptr) {
        if (!m_standins->isReady())
            return quantity::problem("the simulated house is still starting", "", "try again in a moment");
        if (out.address.empty()) out.address = m_standins->address(id);
        out.key = m_standins->key();
    } else if (const auto key = probe::Key::load(keyFile())) {
        out.key = *key;
    }
    return out;
}

std::string MachineAccess::serviceUrl(const house::Service& service, const house::Id& machine) const {
    if (!service.testUrl.empty() || m_standins == nullptr || m_standins->service().empty())
        return service.testUrl;
    return m_standins->service() + "/" + machine;
}

} // namespace metrodos::desktop
