// A house whose endpoints answer on loopback with the agent's own protocol; their runs come from the flow
// model.
#pragma once

#include "probe/agent.h"
#include "standin/flow_model.h"

#include <functional>
#include <memory>

namespace metrodos::standin {

struct SimulationSettings {
    /// Asked at the start and before every run, so that what is edited in the job is what is simulated.
    std::function<quantity::Result<house::House>()> house;
    catalog::Catalog catalog;
    probe::Key key;
    std::uint64_t seed = 1;
    bool realTime = true; ///< samples arrive every 100 ms; otherwise as fast as they can be computed
};

struct SimulatedEndpoint {
    house::Id id;
    std::string host;
    std::uint16_t port = 0;
};

/// Serves every endpoint of the house until destroyed.
class SimulatedHouse {
  public:
    static quantity::Result<std::unique_ptr<SimulatedHouse>> start(SimulationSettings settings);
    ~SimulatedHouse();

    [[nodiscard]] const std::vector<SimulatedEndpoint>& endpoints() const { return m_endpoints; }

    struct Shared;

  private:
    SimulatedHouse() = default;
    std::shared_ptr<Shared> m_shared;
    std::vector<std::unique_ptr<probe::Agent>> m_agents;
    std::vector<SimulatedEndpoint> m_endpoints;
};

} // namespace metrodos::standin
