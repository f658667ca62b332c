#include "desktop/model/schedule_clock.h"

#include "benchmark/schedule.h"
#include "quantity/moment.h"

#include <algorithm>

namespace metrodos::desktop {

std::optional<house::Schedule> ScheduleClock::take(const house::House& house,
                                                   const benchmark::RouteRuns& runs, std::int64_t now) {
    for (const house::Schedule& s : house.schedules) {
        if (s.unattended) continue;
        const auto slot = benchmark::slotDue(s, now);
        if (!slot || m_tried[s.id] >= *slot || now < m_notBefore[s.id]) continue;
        m_tried[s.id] = *slot;
        // The window may have been closed and opened again meanwhile.
        const bool isDone = std::any_of(runs.begin(), runs.end(), [&](const benchmark::RouteRun& r) {
            return r.run.step == s.id && quantity::utcSeconds(r.run.startedAt).value_or(0) >= *slot;
        });
        if (!isDone) return s;
    }
    return std::nullopt;
}

void ScheduleClock::postpone(const house::Id& schedule, std::int64_t now) {
    constexpr std::int64_t whileIt = 30; // s
    m_tried.erase(schedule);
    m_notBefore[schedule] = now + whileIt;
}

} // namespace metrodos::desktop
