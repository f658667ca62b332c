// Who speaks for the machines of the open job: the agents at their addresses, or the stand-ins of the demo.
#pragma once

#include "desktop/model/demo.h"
#include "desktop/model/endpoint_access.h"
#include "desktop/model/job_model.h"
#include "probe/guest_server.h"

#include <map>
#include <memory>

namespace metrodos::desktop {

class MachineAccess {
  public:
    explicit MachineAccess(const JobModel& job)
        : m_job(job) {}

    /// Stand-ins speak for the machines that have no address of their own; nullptr: there are none.
    void setStandins(std::unique_ptr<Standins> standins) { m_standins = std::move(standins); }
    [[nodiscard]] const Standins* standins() const { return m_standins.get(); }

    /// Address and key of an endpoint; a Problem while the simulated house is still starting.
    [[nodiscard]] quantity::Result<EndpointAccess> to(const house::Id& endpoint) const;
    /// Makes a code by which a device with a browser is this endpoint until the code ends; one that it has
    /// already ends. `by`: who serves the page, "here" or the address of an agent.
    [[nodiscard]] quantity::Result<std::shared_ptr<probe::GuestEnd>> invite(const house::Id& endpoint,
                                                                            const std::string& by);
    /// The machines that this computer has met.
    [[nodiscard]] const std::shared_ptr<probe::KnownMachines>& known() const { return m_known; }
    /// Those of a job that is left end.
    void dismissGuests() { m_guests.clear(); }
    /// Where `machine` loads from the service and to it; empty: no address is known.
    [[nodiscard]] std::string serviceUrl(const house::Service& service, const house::Id& machine) const;

    /// The status page of an adapter; empty: no address is known.
    [[nodiscard]] std::string adapterPage(const house::Device& adapter) const;

  private:
    const JobModel& m_job;
    std::unique_ptr<Standins> m_standins;
    std::shared_ptr<probe::KnownMachines> m_known = std::make_shared<probe::KnownMachines>(machinesFolder());
    /// Key for an agent at this address, into `out`; a Problem while the simulated house is still starting.
    [[nodiscard]] quantity::Result<void> addKey(EndpointAccess& out, const house::Id& endpoint) const;

    std::map<house::Id, std::shared_ptr<probe::GuestEnd>> m_guests; ///< by endpoint
};

} // namespace metrodos::desktop
