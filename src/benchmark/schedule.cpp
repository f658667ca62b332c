#include "benchmark/schedule.h"

#include "quantity/moment.h"

#include <algorithm>

namespace metrodos::benchmark {
namespace {

constexpr std::int64_t minute = 60;

std::int64_t step(const house::Schedule& s) {
    return std::max(s.everyMinutes, 1) * minute;
}

} // namespace

int slotCount(const house::Schedule& s) {
    return static_cast<int>(std::max<std::int64_t>(1, s.hours * 60 * minute / step(s)));
}

std::optional<std::int64_t> slotAt(const house::Schedule& s, int n) {
    const auto first = quantity::utcSeconds(s.from);
    if (!first || n < 0 || n >= slotCount(s)) return std::nullopt;
    return *first + n * step(s);
}

std::optional<std::int64_t> nextSlot(const house::Schedule& s, std::int64_t now) {
    const auto first = quantity::utcSeconds(s.from);
    if (!first) return std::nullopt;
    if (now <= *first) return first;
    const std::int64_t n = (now - *first + step(s) - 1) / step(s);
    return n < slotCount(s) ? std::optional(*first + n * step(s)) : std::nullopt;
}

std::optional<std::int64_t> slotDue(const house::Schedule& s, std::int64_t now) {
    const auto first = quantity::utcSeconds(s.from);
    if (!first || now < *first) return std::nullopt;
    const std::int64_t n = (now - *first) / step(s);
    const std::int64_t at = *first + n * step(s);
    return n < slotCount(s) && now - at <= step(s) / 4 ? std::optional(at) : std::nullopt;
}

std::vector<RunConfig> configsOf(const house::Schedule& s) {
    RunConfig config;
    config.seconds = s.seconds;
    config.streams = s.streams;
    RunConfig back = config;
    back.direction = Direction::backward;
    return {config, back};
}

double dutyOf(const house::Schedule& s) {
    return 2 * s.seconds / static_cast<double>(step(s));
}

} // namespace metrodos::benchmark
