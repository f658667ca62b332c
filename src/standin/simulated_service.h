// The internet service of a simulated house: an HTTP server on loopback that sends and takes as fast as the
// house would let it.
#pragma once

#include "standin/simulated_house.h"

#include <memory>
#include <string>

namespace metrodos::standin {

/// Answers at /load/ENDPOINT, with an endpoint of the house: GET sends without end, POST takes, both paced at
/// what the route between the service and that endpoint carries in the simulation, all connections together,
/// in real time; HEAD answers at once. Every answer carries the header that says "simulated".
class SimulatedService {
  public:
    /// On a free port of 127.0.0.1. A house without a service has none: a Problem.
    static quantity::Result<std::unique_ptr<SimulatedService>> start(SimulationSettings settings);
    ~SimulatedService();
    SimulatedService(const SimulatedService&) = delete;
    SimulatedService& operator=(const SimulatedService&) = delete;

    /// "http://127.0.0.1:PORT/load", to be followed by "/ENDPOINT".
    [[nodiscard]] std::string url() const;

  private:
    SimulatedService() = default;
    struct Server;
    std::unique_ptr<Server> m_server;
};

} // namespace metrodos::standin
