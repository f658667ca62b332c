#include "benchmark/week.h"

#include "benchmark/run_filter.h"
#include "benchmark/statistics.h"
#include "benchmark/welch.h"
#include "quantity/format.h"
#include "quantity/moment.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace metrodos::benchmark {
namespace {

constexpr std::size_t leastRuns = 3;
constexpr double sameTime = 0.9; // of the runs of either: these runs cannot tell the two apart

bool counts(const RouteRun& r, const house::Id& route) {
    return r.route == route && r.run.complete && r.run.goodput.bps() > 0 && r.run.showsCeiling();
}

// The hour of the local clock, as it was noted or as this machine's zone has it.
std::optional<int> localHour(const Run& run) {
    if (run.conditions.hour) return run.conditions.hour;
    const auto at = quantity::utcSeconds(run.startedAt);
    return at ? std::optional(quantity::localTime(*at).hour) : std::nullopt;
}

void addWatch(Week& week, const WatchReport& watch) {
    const auto begin = quantity::utcSeconds(watch.head.startedAt);
    if (!begin) return;
    const auto at = [&](double t) -> WeekHour& {
        const auto local = quantity::localTime(*begin + static_cast<std::int64_t>(t));
        return week[static_cast<std::size_t>(local.weekday)][static_cast<std::size_t>(local.hour)];
    };
    constexpr double hour = 3600;
    for (std::size_t i = 0; i < watch.hours.size(); ++i)
        at(static_cast<double>(i) * hour).watchedSeconds += watch.hours[i].seconds;
    for (const DropOut& d : watch.dropOuts) {
        WeekHour& cell = at(d.start);
        ++cell.dropOuts;
        cell.dropOutSeconds += d.seconds;
    }
}

// One run by its logarithm about the middle of its direction.
struct Level {
    const Run* run;
    double centred;
};

std::vector<Level> levelsOf(const RouteRuns& runs, const house::Id& route) {
    std::vector<Level> out;
    for (const Direction d : {Direction::forward, Direction::backward}) {
        std::vector<double> logs;
        std::vector<const Run*> of;
        for (const RouteRun& r : runs)
            if (counts(r, route) && r.run.config.direction == d) {
                logs.push_back(std::log(r.run.goodput.bps()));
                of.push_back(&r.run);
            }
        if (logs.empty()) continue;
        const double middle = quantile(logs, 0.5);
        for (std::size_t i = 0; i < logs.size(); ++i)
            out.push_back({of[i], logs[i] - middle});
    }
    return out;
}

// Which of the runs an appliance ran with.
struct Pattern {
    const house::Appliance* appliance = nullptr;
    bool isNoted = false;
    std::set<std::size_t> with;
    std::vector<double> on;
    std::vector<double> off;
};

Pattern patternOf(const house::Appliance& appliance, const std::vector<Level>& levels) {
    const auto noted = [&](const Run& run) {
        const auto& list = run.conditions.appliances;
        return std::find(list.begin(), list.end(), appliance.label) != list.end();
    };
    Pattern out;
    out.appliance = &appliance;
    out.isNoted = std::any_of(levels.begin(), levels.end(), [&](const Level& l) { return noted(*l.run); });
    for (std::size_t i = 0; i < levels.size(); ++i) {
        const Run& run = *levels[i].run;
        bool ran = noted(run);
        if (!out.isNoted) {
            const auto hour = localHour(run);
            if (!hour || appliance.hours.empty()) continue;
            ran = std::any_of(appliance.hours.begin(), appliance.hours.end(),
                              [&](const house::HourSpan& span) { return span.contains(*hour); });
        }
        if (ran) out.with.insert(i);
        (ran ? out.on : out.off).push_back(levels[i].centred);
    }
    return out;
}

double overlap(const std::set<std::size_t>& a, const std::set<std::size_t>& b) {
    std::size_t both = 0;
    for (const std::size_t i : a)
        both += b.contains(i) ? 1 : 0;
    const std::size_t any = a.size() + b.size() - both;
    return any == 0 ? 0 : static_cast<double>(both) / static_cast<double>(any);
}

std::string sentenceOf(const Coincidence& c) {
    std::string out = (c.isNoted ? "while “" : "in the hours of “") + c.appliance + "” the way carried " +
                      quantity::significant(c.ratio, 3) + " times as much (" +
                      quantity::significant(c.low, 3) + " to " + quantity::significant(c.high, 3) + ", " +
                      std::to_string(c.with) + " runs against " + std::to_string(c.without) + ")";
    if (c.isNoted) out.replace(out.find("” the way"), std::string("” the way").size(), "” ran the way");
    out += c.isReal ? ": more than chance would do" : ": chance can do as much";
    if (c.isReal && !c.isNoted)
        out += "; whether it ran was not noted, so the hour may be the cause by itself";
    if (c.isReal && !c.alike.empty()) {
        out += "; these runs cannot tell it from ";
        for (std::size_t i = 0; i < c.alike.size(); ++i)
            out += (i == 0 ? "“" : ", “") + c.alike[i] + "”";
    }
    return out;
}

// By how much the difference is more than chance.
double strength(const Welch& test) {
    if (test.half > 0) return std::fabs(test.difference) / test.half;
    return test.difference == 0 ? 0 : std::numeric_limits<double>::infinity(); // without any spread
}

Coincidence coincidenceOf(const Pattern& p, const Welch& test, const std::vector<Pattern>& all) {
    Coincidence c;
    c.appliance = p.appliance->label;
    c.isNoted = p.isNoted;
    c.with = static_cast<int>(p.on.size());
    c.without = static_cast<int>(p.off.size());
    c.ratio = std::exp(test.difference);
    c.low = std::exp(test.difference - test.half);
    c.high = std::exp(test.difference + test.half);
    c.isReal = std::fabs(test.difference) > test.half;
    for (const Pattern& other : all)
        if (other.appliance != p.appliance && overlap(other.with, p.with) >= sameTime)
            c.alike.push_back(other.appliance->label);
    c.sentence = sentenceOf(c);
    return c;
}

} // namespace

Week weekOf(const RouteRuns& runs, const std::vector<WatchReport>& watches, const house::Id& route,
            Direction direction) {
    Week week;
    std::array<std::array<std::vector<double>, dayHours>, weekdays> rates;
    for (const RouteRun& r : runs) {
        if (!counts(r, route) || r.run.config.direction != direction) continue;
        const auto at = quantity::utcSeconds(r.run.startedAt);
        if (!at) continue;
        const auto local = quantity::localTime(*at);
        rates[static_cast<std::size_t>(local.weekday)][static_cast<std::size_t>(local.hour)].push_back(
            r.run.goodput.bps());
    }
    for (std::size_t day = 0; day < weekdays; ++day)
        for (std::size_t hour = 0; hour < dayHours; ++hour) {
            const std::vector<double>& all = rates[day][hour];
            WeekHour& cell = week[day][hour];
            cell.runs = static_cast<int>(all.size());
            if (all.empty()) continue;
            const auto at = [&](double p) { return BitRate::bitsPerSecond(quantile(all, p)); };
            cell.p10 = at(0.1);
            cell.p50 = at(0.5);
            cell.p90 = at(0.9);
        }
    for (const WatchReport& watch : watches)
        if (watch.head.route == route && watch.config.direction == direction) addWatch(week, watch);
    return week;
}

std::vector<Coincidence> coincidencesOf(const house::House& house, const RouteRuns& runs,
                                        const house::Id& route) {
    std::vector<Level> levels = levelsOf(runs, route);
    std::vector<Pattern> patterns;
    for (const house::Appliance& appliance : house.appliances) {
        Pattern p = patternOf(appliance, levels);
        if (p.on.size() >= leastRuns && p.off.size() >= leastRuns) patterns.push_back(std::move(p));
    }
    const double level = 0.05 / static_cast<double>(std::max<std::size_t>(patterns.size(), 1));
    const std::vector<Pattern> all = patterns;
    std::vector<Coincidence> out;
    // The strongest first; the others are judged by what it leaves, or its runs would speak for them as well.
    while (!patterns.empty()) {
        std::size_t best = 0;
        std::vector<Welch> tests;
        for (const Pattern& p : patterns)
            tests.push_back(welch(p.off, p.on, level));
        for (std::size_t i = 1; i < patterns.size(); ++i)
            if (strength(tests[i]) > strength(tests[best])) best = i;
        const Pattern p = patterns[best];
        out.push_back(coincidenceOf(p, tests[best], all));
        patterns.erase(patterns.begin() + static_cast<std::ptrdiff_t>(best));
        if (!out.back().isReal) continue;
        for (const std::size_t i : p.with)
            levels[i].centred -= tests[best].difference;
        for (Pattern& other : patterns)
            other = patternOf(*other.appliance, levels);
    }
    return out;
}

std::string sentenceOf(const Week& week) {
    // All weekdays of an hour together, by the medians of their cells.
    std::optional<int> slowest;
    std::optional<int> fastest;
    std::array<double, dayHours> middle{};
    for (int hour = 0; hour < dayHours; ++hour) {
        std::vector<double> medians;
        std::size_t runs = 0;
        for (const auto& day : week) {
            const WeekHour& cell = day[static_cast<std::size_t>(hour)];
            runs += static_cast<std::size_t>(cell.runs);
            if (cell.p50) medians.push_back(cell.p50->bps());
        }
        if (runs < leastRuns) continue;
        const auto at = static_cast<std::size_t>(hour);
        middle[at] = quantile(medians, 0.5);
        if (!slowest || middle[at] < middle[static_cast<std::size_t>(*slowest)]) slowest = hour;
        if (!fastest || middle[at] > middle[static_cast<std::size_t>(*fastest)]) fastest = hour;
    }
    if (!slowest || slowest == fastest) return {};
    const auto said = [&](int hour) {
        return "from " + std::to_string(hour) + " to " + std::to_string(hour + 1) + " h (" +
               quantity::plainBoth(BitRate::bitsPerSecond(middle[static_cast<std::size_t>(hour)])) + ")";
    };
    return "the slowest hour is " + said(*slowest) + ", the fastest " + said(*fastest);
}

} // namespace metrodos::benchmark
