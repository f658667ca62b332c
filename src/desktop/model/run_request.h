// What one press of Space asks for, made ready: which machines, which runs, and what is to be kept with them.
#pragma once

#include "benchmark/run.h"
#include "desktop/model/endpoint_access.h"
#include "quantity/problem.h"

#include <filesystem>
#include <string>
#include <vector>

namespace metrodos::desktop {

class MachineAccess;
class RouteModel;

/// The runs that are wanted on the chosen route.
struct WantedRuns {
    /// In turn; those of one step at once. Empty: there is nothing to do.
    std::vector<std::vector<benchmark::RunConfig>> steps;
    benchmark::Conditions conditions;
    std::string trialStep;              ///< empty: of no trial
    benchmark::Arrangement arrangement; ///< of all of them
    /// How long machines that do not answer yet are waited for: a link may have to come up first.
    std::chrono::seconds patience{0};
    double pause = 0; ///< seconds of quiet before each of the steps
};

struct RunRequest {
    EndpointAccess from;
    EndpointAccess to;
    /// The route ends in the service: its test address; then there are no machines to link to, and each step
    /// has one run.
    std::string service = {};
    bool fromService = false; ///< the service is where the route begins
    house::Id route;
    std::filesystem::path job;
    WantedRuns wanted;
    std::vector<house::Id> disks = {}; ///< elements that only a simulated run passes
};

/// A Problem says what is missing: a route, an address, a key.
[[nodiscard]] quantity::Result<RunRequest> prepareRuns(const RouteModel& model, const MachineAccess& machines,
                                                       WantedRuns wanted);

} // namespace metrodos::desktop
