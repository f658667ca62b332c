// When the runs of a schedule are due, and what each asks for.
#pragma once

#include "benchmark/run.h"
#include "house/logged.h"

namespace metrodos::benchmark {

/// How many times its runs are due in all.
[[nodiscard]] int slotCount(const house::Schedule& schedule);
/// Seconds since 1970 at which its runs are due for the n-th time, from 0; nothing where `from` cannot be
/// read.
[[nodiscard]] std::optional<std::int64_t> slotAt(const house::Schedule& schedule, int n);
/// The first time that they are due at or after `now`; nothing: it is over, or cannot be read.
[[nodiscard]] std::optional<std::int64_t> nextSlot(const house::Schedule& schedule, std::int64_t now);
/// Whether they are due now: one that is missed is made up for within a quarter of the time to the next, not
/// later. The time that it is of.
[[nodiscard]] std::optional<std::int64_t> slotDue(const house::Schedule& schedule, std::int64_t now);

/// Forward, then backward.
[[nodiscard]] std::vector<RunConfig> configsOf(const house::Schedule& schedule);

/// The share of the time that its runs take.
[[nodiscard]] double dutyOf(const house::Schedule& schedule);

} // namespace metrodos::benchmark
