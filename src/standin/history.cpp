#include "standin/history.h"

#include "quantity/moment.h"
#include "standin/simulate.h"

#include <algorithm>

namespace metrodos::standin {
namespace {

constexpr int streams = 4;
constexpr double seconds = 5;
constexpr std::int64_t fromRunToRun = 40; // s
constexpr std::int64_t day = 24 * 3600;

class History {
  public:
    History(const house::House& house, const catalog::Catalog& catalog, std::string stem, std::uint64_t seed)
        : m_house(house)
        , m_catalog(catalog)
        , m_stem(std::move(stem))
        , m_seed(seed) {}

    /// Nothing where the route is not joined.
    benchmark::Run* add(const house::Id& id, benchmark::Direction direction, std::int64_t at,
                        const Situation& situation) {
        const house::Route* route = m_house.route(id);
        if (route == nullptr) return nullptr;
        benchmark::RunConfig config;
        config.direction = direction;
        config.streams = streams;
        config.seconds = seconds;
        const int number = static_cast<int>(m_runs.size()) + 1;
        auto run = simulate(m_house, m_catalog, *route, config, m_seed, number, situation);
        if (!run) return nullptr;
        run->id = m_stem + "-" + std::to_string(number);
        run->startedAt = quantity::utcText(at);
        run->conditions.hour = quantity::localTime(at).hour;
        m_runs.push_back({id, std::move(*run)});
        return &m_runs.back().run;
    }
    benchmark::RouteRuns take() { return std::move(m_runs); }

  private:
    const house::House& m_house;
    const catalog::Catalog& m_catalog;
    std::string m_stem;
    std::uint64_t m_seed;
    benchmark::RouteRuns m_runs;
};

constexpr benchmark::Direction directions[] = {benchmark::Direction::forward, benchmark::Direction::backward};

// Monday to Friday of UTC; the first of 1970 was a Thursday.
bool isWorkday(std::int64_t at) {
    constexpr std::int64_t thursday = 3;
    constexpr std::int64_t saturday = 5;
    return (at / day + thursday) % 7 < saturday;
}

} // namespace

benchmark::RouteRuns runsOf(const house::House& house, const catalog::Catalog& catalog,
                            const PastVisit& visit, const std::string& stem, std::uint64_t seed) {
    History history(house, catalog, stem, seed);
    std::int64_t at = visit.at;
    for (const house::Id& route : visit.routes)
        for (int n = 0; n < visit.repeats; ++n)
            for (const benchmark::Direction d : directions) {
                if (benchmark::Run* run = history.add(route, d, at, visit.situation))
                    run->conditions.othersActive = false;
                at += fromRunToRun;
            }
    return history.take();
}

benchmark::RouteRuns runsOf(const house::House& house, const catalog::Catalog& catalog,
                            const PastSchedule& schedule, const std::string& stem, std::uint64_t seed) {
    History history(house, catalog, stem, seed);
    const std::int64_t step = schedule.everyMinutes * 60;
    const std::int64_t end = schedule.from + schedule.hours * 3600;
    for (std::int64_t at = schedule.from; at < end; at += step) {
        const int hour = static_cast<int>(at % day / 3600);
        const bool isOn = !schedule.appliance.empty() && isWorkday(at) &&
                          std::any_of(schedule.hoursOn.begin(), schedule.hoursOn.end(),
                                      [&](const house::HourSpan& s) { return s.contains(hour); });
        for (const benchmark::Direction d : directions) {
            const std::int64_t begins = at + (d == benchmark::Direction::forward ? 0 : fromRunToRun / 4);
            benchmark::Run* run =
                history.add(schedule.route, d, begins, isOn ? schedule.disturbed : schedule.situation);
            if (run == nullptr) continue;
            run->step = schedule.schedule;
            if (isOn && schedule.isNoted) run->conditions.appliances = {schedule.appliance};
        }
    }
    return history.take();
}

} // namespace metrodos::standin
