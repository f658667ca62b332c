// Says when the window has to make the runs of a schedule, each time once.
#pragma once

#include "benchmark/route_runs.h"
#include "house/house.h"

#include <map>
#include <optional>

namespace metrodos::desktop {

class ScheduleClock {
  public:
    /// The schedule whose runs are due at `now`, in seconds since 1970: not an agent's, not tried before by
    /// this clock, and without a run of that time in the job. It counts as tried from then on.
    std::optional<house::Schedule> take(const house::House& house, const benchmark::RouteRuns& runs,
                                        std::int64_t now);
    /// Of another job.
    void forget() { m_tried.clear(); }

  private:
    std::map<house::Id, std::int64_t> m_tried;
};

} // namespace metrodos::desktop
