#include "desktop/model/machine_access.h"

namespace metrodos::desktop {

quantity::Result<EndpointAccess> MachineAccess::to(const house::Id& id) const {
    EndpointAccess out;
    if (const house::Endpoint* endpoint = m_job.house().endpoint(id)) out.address = endpoint->address;
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
