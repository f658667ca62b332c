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
    /// What was taken could not be begun yet: it is due again half a minute after `now`.
    void postpone(const house::Id& schedule, std::int64_t now);
    /// Of another job.
    void forget() {
        m_tried.clear();
        m_notBefore.clear();
    }

  private:
    std::map<house::Id, std::int64_t> m_tried;     ///< the newest time that was
    std::map<house::Id, std::int64_t> m_notBefore; ///< seconds since 1970
};

} // namespace metrodos::desktop
