// The status pages of a simulated house's adapters: an HTTP server on loopback.
#pragma once

#include "standin/simulated_house.h"

#include <memory>
#include <string>
#include <vector>

namespace metrodos::standin {

struct SimulatedPage {
    house::Id adapter;
    std::string url;
};

/// Answers at /adapter/ID with a document of format "metrodos-adapter-status" that says "simulated": how the
/// adapter is set up as the job has it, and the PHY rates that the simulation gives its ways to the others of
/// its medium, where a route passes them.
class SimulatedAdapters {
  public:
    /// On a free port of 127.0.0.1.
    static quantity::Result<std::unique_ptr<SimulatedAdapters>> start(SimulationSettings settings);
    ~SimulatedAdapters();
    SimulatedAdapters(const SimulatedAdapters&) = delete;
    SimulatedAdapters& operator=(const SimulatedAdapters&) = delete;

    /// Of each device that is on a shared medium.
    [[nodiscard]] const std::vector<SimulatedPage>& pages() const;

  private:
    SimulatedAdapters() = default;
    struct Server;
    std::unique_ptr<Server> m_server;
};

} // namespace metrodos::standin
