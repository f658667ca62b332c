#include "desktop/model/run_request.h"

#include "desktop/model/machine_access.h"
#include "desktop/model/route_model.h"

namespace metrodos::desktop {
namespace {

using quantity::problem;
using quantity::Result;

// The service has no agent: it is a web address that is loaded from and to, from this machine.
Result<RunRequest> toService(RunRequest request, const house::Service& service, const house::Route& route,
                             const MachineAccess& machines) {
    request.fromService = route.from == service.id;
    request.service = machines.serviceUrl(service, request.fromService ? route.to : route.from);
    if (request.service.empty())
        return problem("the service has no test address", "",
                       "give one in Walk, table “service”, like http://server/large-file");
    for (const auto& step : request.wanted.steps)
        for (const benchmark::RunConfig& config : step)
            if (step.size() > 1 || config.protocol != benchmark::Protocol::tcp || config.rate)
                return problem("the service is tested as it is", "",
                               "choose TCP without a pace, one way at a time");
    return request;
}

} // namespace

Result<RunRequest> prepareRuns(const RouteModel& model, const MachineAccess& machines, WantedRuns wanted) {
    const house::Route* route = model.route();
    if (route == nullptr || !model.prediction())
        return problem("there is no route to measure", "", "open a job and choose one");
    RunRequest request;
    request.route = route->id;
    request.job = model.job().file();
    request.wanted = std::move(wanted);
    for (auto& step : request.wanted.steps)
        for (benchmark::RunConfig& config : step)
            config.arrangement = request.wanted.arrangement;
    for (const auto& e : model.prediction()->elements)
        if (e.element.kind == house::ElementKind::storage) request.disks.push_back(e.element.id);
    if (const auto& service = model.job().house().service;
        service && (route->to == service->id || route->from == service->id))
        return toService(std::move(request), *service, *route, machines);
    auto from = machines.to(route->from);
    if (!from) return tl::unexpected(from.error());
    auto to = machines.to(route->to);
    if (!to) return tl::unexpected(to.error());
    request.from = std::move(*from);
    request.to = std::move(*to);
    if (!request.wanted.steps.empty() && !request.wanted.steps.front().empty())
        request.from.ipVersion = request.to.ipVersion = request.wanted.steps.front().front().ipVersion;
    return request;
}

} // namespace metrodos::desktop
