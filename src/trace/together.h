// What is slow only while others work: only a run of two routes at once tells what they share.
#pragma once

#include "trace/diagnose.h"

namespace metrodos::trace {

/// The rates of one direction with others on the network and without, where the first is far below.
struct SlowBeside {
    benchmark::Direction direction = benchmark::Direction::forward;
    BitRate busy;
    BitRate quiet;
};
[[nodiscard]] std::optional<SlowBeside> slowBeside(const Case& asked);

/// Run this route and another of the house at once: the one that passes most of what is suspected. Its
/// information is that of one answer: whether the limit is among the things that both pass. Nothing where
/// nothing was slow beside others, no other route shares anything with this one, or it was declined.
[[nodiscard]] std::optional<NextTest> bothAtOnce(const Case& asked, const std::vector<Suspect>& suspects);

} // namespace metrodos::trace
