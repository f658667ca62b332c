#include "benchmark/revisit.h"

#include "benchmark/comparison.h"
#include "benchmark/run_filter.h"
#include "benchmark/trial.h"
#include "house/dated_changes.h"
#include "house/edit.h"
#include "house/route.h"
#include "quantity/ascii.h"
#include "quantity/format.h"
#include "quantity/moment.h"

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

namespace metrodos::benchmark {
namespace {

constexpr std::size_t mostSteps = 40;

std::string dayOf(const Run& run) {
    const auto at = quantity::utcSeconds(run.startedAt);
    return at ? quantity::localTime(*at).dateText() : std::string();
}

// What of a run's arrangement a step of a trial can ask for again.
struct Shape {
    house::Id route;
    house::Setup setup = house::Setup::place;
    std::string place;
    house::Id element;
    int streams = 1;

    auto operator<=>(const Shape&) const = default;
};

std::optional<Shape> shapeOf(const RouteRun& r) {
    const Arrangement& how = r.run.config.arrangement;
    if (!r.run.complete || r.run.config.protocol != Protocol::tcp || r.run.config.rate ||
        !r.run.config.group.empty() || how.swapped || !how.bypassed.empty() || how.altered.size() > 1)
        return std::nullopt;
    Shape out{r.route, how.setup, "", "", r.run.config.streams};
    if (!how.altered.empty()) {
        out.place = how.altered.front().place;
        out.element = how.altered.front().element;
        if (out.place.empty()) return std::nullopt;
    }
    return out;
}

// What has to be set by hand, in the imperative; empty: nothing.
std::string preparation(const house::House& house, const Shape& shape, const std::vector<const Run*>& runs) {
    std::vector<std::string> asks;
    if (shape.setup == house::Setup::baseline) asks.push_back("join the two machines by one short cable");
    if (shape.setup == house::Setup::bench) asks.push_back("put the adapters side by side on the bench");
    if (!shape.place.empty())
        asks.push_back("plug it in at “" + house::labelOfPlace(house, shape.place) + "”");
    std::set<std::string> appliances;
    std::set<int> hours;
    bool alone = false;
    bool others = false;
    for (const Run* run : runs) {
        appliances.insert(run->conditions.appliances.begin(), run->conditions.appliances.end());
        if (const auto hour = hourOf(*run)) hours.insert(*hour);
        alone = alone || run->conditions.othersActive == false;
        others = others || run->conditions.othersActive == true;
    }
    for (const std::string& label : appliances)
        asks.push_back("switch on “" + label + "”");
    if (alone && !others) asks.push_back("see that nobody else uses the network");
    if (others && !alone) asks.push_back("let the others use the network as then");
    std::string out;
    for (const std::string& ask : asks)
        out += (out.empty() ? "" : "; ") + ask;
    if (!hours.empty()) {
        out += out.empty() ? "" : "; ";
        out += "then it was from " + std::to_string(*hours.begin()) + " to " +
               std::to_string(*hours.rbegin() + 1) + " h";
    }
    if (!out.empty()) out[0] = quantity::ascii::upper(out[0]);
    return out;
}

std::map<Shape, std::vector<const Run*>> shapesOf(const RouteRuns& runs, const std::string& day) {
    std::map<Shape, std::vector<const Run*>> out;
    for (const RouteRun& r : runs) {
        if (dayOf(r.run) != day) continue;
        if (const auto shape = shapeOf(r)) out[*shape].push_back(&r.run);
    }
    return out;
}

// Whether an exchange is of something that the way passes.
bool isOn(const house::House& house, const house::Route& route, const house::DatedChange& change) {
    const auto elements = house::RouteFinder(house).find(route);
    if (!elements) return false;
    return std::any_of(elements->begin(), elements->end(), [&](const house::Element& e) {
        return e.id == change.thing || e.device == change.thing || e.connection == change.thing;
    });
}

std::string sentenceOf(const house::Route& route, const Since& s, const std::string& day) {
    const SetComparison& c = s.comparison;
    std::string out = "“" + route.label + "” " + name(s.direction) + ": ";
    if (!c.ratio) return out + c.sentence;
    const bool isWorth = c.real == true && std::fabs(*c.ratio - 1) >= negligible;
    const std::string by = quantity::significant(std::fabs(*c.ratio - 1) * 100, 2) + " % " +
                           (*c.ratio < 1 ? "slower" : "faster");
    const std::string interval = c.low ? " (" + quantity::significant(*c.low, 2) + " to " +
                                             quantity::significant(*c.high, 2) + " times as fast as on " +
                                             day + ")"
                                       : std::string();
    if (c.real == false)
        return out + "as on " + day + ", within " +
               quantity::significant(std::max(std::fabs(*c.low - 1), std::fabs(*c.high - 1)) * 100, 2) + " %";
    if (!isWorth && c.real == true) return out + "as on " + day + ", but for " + by;
    // With two runs of each the interval is all there is.
    constexpr double saysNothing = 4;
    if (c.real != true && c.low && *c.high > saysNothing * *c.low)
        return out + by + " than on " + day +
               ", by runs that are too few to tell: " + std::to_string(c.runsNeeded) + " of each would";
    if (c.real != true)
        return out + by + " than on " + day + interval +
               ", which is not settled: " + std::to_string(c.runsNeeded) + " runs of each would tell";
    out += by + interval;
    if (s.between.empty()) return out + "; nothing that the way passes was noted as exchanged since";
    out += "; since then ";
    for (std::size_t i = 0; i < s.between.size(); ++i)
        out += (i == 0 ? "" : ", and ") + s.between[i].text;
    return out + (s.between.size() == 1 ? ": the likely cause" : ": any of them may be the cause");
}

} // namespace

std::vector<Visit> visitsOf(const RouteRuns& runs) {
    std::map<std::string, int> days;
    for (const RouteRun& r : runs)
        if (const std::string day = dayOf(r.run); !day.empty() && r.run.complete) ++days[day];
    std::vector<Visit> out;
    for (const auto& [day, count] : days)
        out.push_back({day, count});
    return out;
}

quantity::Result<house::Trial> revisitOf(const house::House& house, const RouteRuns& runs,
                                         const std::string& day) {
    house::Trial trial;
    trial.id = house.freeId("revisit-" + day);
    trial.label = "Revisit of " + day;
    trial.revisits = day;
    for (const auto& [shape, of] : shapesOf(runs, day)) {
        if (house.route(shape.route) == nullptr || trial.steps.size() == mostSteps) continue;
        const auto has = [&, &of = of](Direction d) {
            return std::any_of(of.begin(), of.end(), [&](const Run* r) { return r->config.direction == d; });
        };
        house::TrialStep step;
        step.id = trial.id + "-" + std::to_string(trial.steps.size() + 1);
        step.route = shape.route;
        step.setup = shape.setup;
        step.place = shape.place;
        step.element = shape.element;
        step.streams = {shape.streams};
        step.directions = has(Direction::forward) && has(Direction::backward) ? house::Directions::both
                          : has(Direction::forward)                           ? house::Directions::forward
                                                                              : house::Directions::backward;
        step.seconds = 1;
        for (const Run* r : of)
            step.seconds = std::max(step.seconds, std::min(r->config.seconds, 60.0));
        step.prepare = preparation(house, shape, of);
        trial.steps.push_back(std::move(step));
    }
    if (trial.steps.empty())
        return quantity::problem("no run of " + day + " can be made again", "",
                                 "choose a day with whole runs over a route that is still there");
    return trial;
}

std::vector<Since> changedSince(const house::House& house, const house::Trial& revisit, const RouteRuns& runs,
                                Rule rule) {
    std::vector<Since> out;
    const std::string stem = revisit.id + "-";
    for (const house::TrialStep& step : revisit.steps) {
        const house::Route* route = house.route(step.route);
        if (route == nullptr || step.streams.empty()) continue;
        const Shape shape{step.route, step.setup, step.place, step.element, step.streams.front()};
        for (const Direction d : {Direction::forward, Direction::backward}) {
            RouteRuns then;
            RouteRuns now;
            for (const RouteRun& r : runs) {
                if (r.run.config.direction != d || !r.run.complete) continue;
                if (r.run.step == step.id)
                    now.push_back(r);
                else if (dayOf(r.run) == revisit.revisits && !r.run.step.starts_with(stem) &&
                         shapeOf(r) == shape)
                    then.push_back(r);
            }
            if (then.empty() || now.empty()) continue;
            Since s;
            s.route = step.route;
            s.direction = d;
            s.comparison = compareSets(then, now, "then", "now", house, rule);
            for (const house::DatedChange& change :
                 house::changesBetween(house, then.back().run.startedAt, now.back().run.startedAt))
                if (isOn(house, *route, change)) s.between.push_back(change);
            s.sentence = sentenceOf(*route, s, revisit.revisits);
            out.push_back(std::move(s));
        }
    }
    return out;
}

} // namespace metrodos::benchmark
