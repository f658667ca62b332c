#include "job/log.h"
#include "report/handover.h"

#include <algorithm>
#include <atomic>
#include <mutex>
#include <thread>

namespace metrodos::report {

std::shared_ptr<const Verdicts> verdictsOf(const job::Document& job, const catalog::Catalog& catalog) {
    const benchmark::RouteRuns judged = job::evidence(job.runs, job.house);
    std::vector<const house::Route*> routes;
    for (const house::Route& route : job.house.routes)
        if (!benchmark::runsOf(judged, route.id).empty()) routes.push_back(&route);
    auto out = std::make_shared<Verdicts>();
    std::mutex mutex; // of `out`
    std::atomic<std::size_t> next{0};
    const auto work = [&] {
        for (std::size_t i = next++; i < routes.size(); i = next++)
            if (auto d = trace::diagnoseRoute(job.house, catalog, *routes[i], judged)) {
                const std::lock_guard lock(mutex);
                out->emplace(routes[i]->id, std::move(*d));
            }
    };
    {
        const std::size_t wanted =
            std::min<std::size_t>(std::max(1U, std::thread::hardware_concurrency()), routes.size());
        std::vector<std::jthread> threads;
        for (std::size_t i = 1; i < wanted; ++i)
            threads.emplace_back(work);
        work();
    }
    return out;
}

} // namespace metrodos::report
