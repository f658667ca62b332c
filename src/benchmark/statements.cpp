#include "benchmark/statements.h"

#include "benchmark/set_comparison.h"
#include "quantity/format.h"
#include "quantity/text.h"

#include <algorithm>
#include <cmath>

namespace metrodos::benchmark {
namespace {

constexpr double spans = 10;

// Runs over the place as surveyed, of a way, whole.
RouteRuns between(const RouteRuns& runs, const house::Id& route, Direction direction, const std::string& from,
                  const std::string& until) {
    RouteRuns out;
    for (const RouteRun& r : runs)
        if (r.route == route && r.run.complete && r.run.showsCeiling() &&
            r.run.config.direction == direction && r.run.startedAt > from &&
            (until.empty() || r.run.startedAt <= until))
            out.push_back(r);
    return out;
}

// The exchanges of one way, by their times, so that runs are only held against those next to them.
std::string nextAfter(const house::House& house, const house::DatedChange& change) {
    std::string next;
    for (const house::DatedChange& c : house.changes)
        if (c.at > change.at && c.route == change.route && c.said && (next.empty() || c.at < next))
            next = c.at;
    return next;
}
std::string lastBefore(const house::House& house, const house::DatedChange& change) {
    std::string last;
    for (const house::DatedChange& c : house.changes)
        if (c.at < change.at && c.route == change.route && c.said) last = std::max(last, c.at);
    return last;
}

void judgeLimit(Statement& s, const house::House& house, const house::DatedChange& change,
                const RouteRuns& runs, Rule rule) {
    const std::string last = lastBefore(house, change);
    const std::string next = nextAfter(house, change);
    for (const Direction d : {Direction::forward, Direction::backward}) {
        const RouteRuns before = between(runs, s.route, d, last, change.at);
        const RouteRuns after = between(runs, s.route, d, change.at, next);
        const SetComparison c = compareSets(before, after, "before", "after", house, rule);
        if (!c.ratio || !c.real) continue;
        const bool faster = *c.real && *c.ratio > 1.01;
        const std::string text = std::string(name(d)) + " " + quantity::significant(*c.ratio, 3) +
                                 " times as fast after it, by " + std::to_string(c.runsA) + " and " +
                                 std::to_string(c.runsB) + " runs";
        // Whichever way it was said of: one that became faster is enough.
        if (faster || s.fate == Fate::open) {
            s.fate = faster ? Fate::held : Fate::refuted;
            s.sentence = text;
        }
        if (faster) return;
    }
    if (s.fate == Fate::open) s.sentence = "too few runs before and after it to tell";
}

void judgePlan(Statement& s, const house::House& house, const house::DatedChange& change,
               const RouteRuns& runs, Rule rule) {
    int met = 0;
    for (const house::Route& route : house.routes)
        for (const Direction d : {Direction::forward, Direction::backward}) {
            const auto& need = d == Direction::forward ? route.needForward : route.needBackward;
            if (!need) continue;
            const RouteRuns after = between(runs, route.id, d, change.at, "");
            const auto summary = summarise(runsOf(after, route.id), d, rule);
            if (!summary) continue;
            if (summary->goodput < *need) {
                s.fate = Fate::refuted;
                s.sentence = "“" + route.label + "” " + name(d) + " carries " +
                             quantity::plain(summary->goodput) + " of " + quantity::plain(*need);
                return;
            }
            ++met;
        }
    s.fate = met > 0 ? Fate::held : Fate::open;
    s.sentence = met > 0 ? quantity::counted(met, "stated need") + " met by the runs after it"
                         : "no stated need was measured after it";
}

} // namespace

std::vector<Statement> statementsOf(const house::House& house, const RouteRuns& runs, Rule rule) {
    std::vector<Statement> out;
    for (const house::DatedChange& change : house.changes) {
        if (!change.said) continue;
        Statement s;
        s.text = change.text;
        s.at = change.at;
        s.route = change.route;
        s.said = *change.said;
        s.isPlan = change.thing == planThing;
        if (s.isPlan)
            judgePlan(s, house, change, runs, rule);
        else
            judgeLimit(s, house, change, runs, rule);
        out.push_back(std::move(s));
    }
    return out;
}

std::vector<Calibration> calibrationOf(const std::vector<Statement>& statements) {
    std::vector<Calibration> out;
    for (int i = 0; i < static_cast<int>(spans); ++i) {
        Calibration c;
        c.from = i / spans;
        c.to = (i + 1) / spans;
        double said = 0;
        for (const Statement& s : statements) {
            // Certainty belongs to the last span.
            if (std::min(static_cast<int>(s.said * spans), static_cast<int>(spans) - 1) != i ||
                s.fate == Fate::open)
                continue;
            ++c.count;
            c.held += s.fate == Fate::held ? 1 : 0;
            said += s.said;
        }
        if (c.count == 0) continue;
        c.meanSaid = said / c.count;
        constexpr double z = 1.96;
        const double n = c.count;
        const double p = c.held / n;
        const double centre = (p + z * z / (2 * n)) / (1 + z * z / n);
        const double half = z / (1 + z * z / n) * std::sqrt(p * (1 - p) / n + z * z / (4 * n * n));
        c.low = std::max(centre - half, 0.0);
        c.high = std::min(centre + half, 1.0);
        out.push_back(c);
    }
    return out;
}

std::string sentenceOf(const std::vector<Calibration>& calibration) {
    int count = 0;
    int held = 0;
    double said = 0;
    for (const Calibration& c : calibration) {
        count += c.count;
        held += c.held;
        said += c.meanSaid * c.count;
    }
    if (count == 0) return "no statement was confirmed or refuted yet";
    return "of " + quantity::counted(count, "statement") + " made with " +
           quantity::significant(said / count * 100, 2) + " % in the mean, " + std::to_string(held) +
           " held (" + quantity::significant(100.0 * held / count, 2) + " %)";
}

} // namespace metrodos::benchmark
