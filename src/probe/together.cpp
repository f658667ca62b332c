#include "probe/together.h"

#include "probe/run_stamp.h"

#include <optional>
#include <thread>

namespace metrodos::probe {

using benchmark::Run;
using quantity::problem;
using quantity::Result;

bool Gate::pass() {
    std::unique_lock lock(m_mutex);
    --m_missing;
    m_changed.notify_all();
    m_changed.wait(lock, [&] { return m_missing == 0 || m_broken; });
    return !m_broken;
}

void Gate::breakDown() {
    const std::lock_guard lock(m_mutex);
    m_broken = true;
    m_changed.notify_all();
}

Result<std::vector<Run>> runTogether(std::size_t legs, const std::stop_token& stop, const LegOf& leg) {
    Gate gate(legs);
    std::stop_source own;
    const std::stop_callback passOn(stop, [&] {
        own.request_stop();
        gate.breakDown();
    });
    const std::string group = legs > 1 ? newRunId() : std::string();
    std::vector<Result<Run>> results(legs, problem("the run was not begun"));
    std::mutex mutex;
    std::optional<quantity::Problem> first;
    {
        std::vector<std::jthread> threads;
        for (std::size_t i = 0; i < legs; ++i)
            threads.emplace_back([&, i] {
                results[i] = leg(i, group, own.get_token(), gate);
                if (results[i]) return;
                const std::lock_guard lock(mutex);
                if (!first) first = results[i].error();
                own.request_stop();
                gate.breakDown();
            });
    }
    if (first) return tl::unexpected(*first);
    std::vector<Run> runs;
    for (Result<Run>& result : results)
        runs.push_back(std::move(*result));
    return runs;
}

} // namespace metrodos::probe
