#include "benchmark/trial.h"

#include "house/route.h"

#include <algorithm>
#include <cstdlib>

namespace metrodos::benchmark {
namespace {

using house::House;
using house::Id;
using house::Route;
using house::Setup;
using house::Trial;
using house::TrialStep;
using quantity::problem;
using quantity::Result;

constexpr int maxRepeats = 50;
constexpr std::size_t maxRoutes = 26; // an arm is a letter
constexpr double settling = 3;        // s between runs: opening, idle delay, closing

std::string labelOf(const House& house, const Id& end) {
    const house::Endpoint* endpoint = house.endpoint(end);
    if (endpoint != nullptr) return endpoint->label;
    return house.service && house.service->id == end ? house.service->label : end;
}

// The two adapters that a route passes with something in the walls between them.
struct AdapterPair {
    std::string first;
    std::string second;
    house::Medium medium = house::Medium::coax;
};
std::optional<AdapterPair> adaptersOf(const House& house, const Route& route) {
    const auto elements = house::RouteFinder(house).find(route);
    if (!elements) return std::nullopt;
    for (const house::Element& e : *elements) {
        const house::Connection* c = house.connection(e.connection);
        if (c == nullptr || !house::isShared(c->medium)) continue;
        const house::Device* a = house.device(e.entry.device);
        const house::Device* b = house.device(e.exit.device);
        if (a != nullptr && b != nullptr) return AdapterPair{a->label, b->label, c->medium};
    }
    return std::nullopt;
}

class Planner {
  public:
    Planner(const House& house, const TrialPlan& plan)
        : m_house(house)
        , m_plan(plan) {}

    Result<Trial> make() {
        if (m_plan.routes.empty())
            return problem("a trial needs a route", "", "choose at least one route of the job");
        if (m_plan.repeats < 1 || m_plan.repeats > maxRepeats || m_plan.streams.empty())
            return problem("a trial has 1 to 50 repeats and at least one number of streams", "",
                           "choose a number between");
        if (m_plan.routes.size() > maxRoutes)
            return problem("a trial takes at most 26 routes", "", "leave some of them for a second one");
        if (!(m_plan.pause >= 0 && m_plan.pause <= house::maxPause))
            return problem("a pause is 0 to 600 s long", "", "choose a time between");
        for (const Id& id : m_plan.routes)
            if (m_house.route(id) == nullptr)
                return problem("the job has no route “" + id + "”", "", "choose one that it has");
        m_trial.id = m_house.freeId("trial");
        m_trial.label = m_plan.label;
        const Route& first = *m_house.route(m_plan.routes.front());
        const std::string ends = labelOf(m_house, first.from) + " and " + labelOf(m_house, first.to);
        if (m_plan.baseline)
            add(first.id, Setup::baseline, "",
                "Carry " + ends + " together and join them by one short good cable, nothing else between.");
        if (m_plan.bench)
            for (const Id& id : m_plan.routes)
                if (const auto pair = adaptersOf(m_house, *m_house.route(id)))
                    add(id, Setup::bench, "",
                        "Put " + pair->first + " and " + pair->second + " side by side, joined by " +
                            (pair->medium == house::Medium::mains ? "two sockets of one wall outlet"
                             : pair->medium == house::Medium::air ? "a metre of air"
                                                                  : "one short cable of their own kind") +
                            ", and the machines to them.");
        if (!compares()) {
            for (std::size_t i = 0; i < m_plan.routes.size(); ++i)
                for (int repeat = 0; repeat < m_plan.repeats; ++repeat)
                    addPlace(*m_house.route(m_plan.routes[i]), i);
            return std::move(m_trial);
        }
        for (int repeat = 0; repeat < m_plan.repeats; ++repeat) {
            const std::size_t count = m_plan.routes.size();
            std::vector<std::size_t> sequence(count);
            for (std::size_t i = 0; i < count; ++i)
                sequence[i] = m_plan.order == TrialOrder::rotating
                                  ? (i + static_cast<std::size_t>(repeat)) % count
                              : repeat % 2 == 0 ? i
                                                : count - 1 - i;
            for (const std::size_t i : sequence)
                addPlace(*m_house.route(m_plan.routes[i]), i);
        }
        return std::move(m_trial);
    }

  private:
    [[nodiscard]] bool compares() const { return m_plan.compares && m_plan.order != TrialOrder::oneByOne; }

    void addPlace(const Route& route, std::size_t arm) {
        std::string prepare = "Join " + labelOf(m_house, route.from) + " and " + labelOf(m_house, route.to) +
                              " as in “" + route.label + "”.";
        if (!m_trial.steps.empty() && m_trial.steps.back().route == route.id &&
            m_trial.steps.back().setup == Setup::place)
            prepare = "Leave everything as it is: “" + route.label + "” once more.";
        add(route.id, Setup::place,
            compares() && m_plan.routes.size() > 1 ? std::string(1, static_cast<char>('A' + arm % 26)) : "",
            prepare);
    }

    void add(const Id& route, Setup setup, const std::string& arm, const std::string& prepare) {
        TrialStep step;
        step.id = m_trial.id + "-" + std::to_string(m_trial.steps.size() + 1);
        step.route = route;
        step.setup = setup;
        step.prepare = prepare;
        step.arm = arm;
        step.directions = m_plan.directions;
        step.streams = m_plan.streams;
        step.seconds = m_plan.seconds;
        step.pause = m_plan.pause;
        m_trial.steps.push_back(std::move(step));
    }

    const House& m_house;
    const TrialPlan& m_plan;
    Trial m_trial;
};

} // namespace

Result<Trial> planTrial(const House& house, const TrialPlan& plan) {
    return Planner(house, plan).make();
}

Trial withOneMoreTurn(const Trial& trial) {
    // The last turn is the last step of each arm; the next one goes back the way that it came.
    std::vector<TrialStep> last;
    for (auto step = trial.steps.rbegin(); step != trial.steps.rend(); ++step)
        if (!step->arm.empty() &&
            std::none_of(last.begin(), last.end(), [&](const TrialStep& s) { return s.arm == step->arm; }))
            last.push_back(*step);
    Trial out = trial;
    // Ids are counted up from the highest, since steps may have been taken out.
    std::size_t number = 0;
    for (const TrialStep& s : trial.steps)
        if (const auto dash = s.id.rfind('-'); dash != std::string::npos)
            number = std::max(number,
                              static_cast<std::size_t>(std::strtoul(s.id.c_str() + dash + 1, nullptr, 10)));
    for (TrialStep& step : last) {
        step.id = trial.id + "-" + std::to_string(++number);
        out.steps.push_back(std::move(step));
    }
    return out;
}

Arrangement arrangementOf(const TrialStep& step) {
    Arrangement out;
    out.setup = step.setup;
    if (!step.element.empty())
        out.altered = {{step.element, house::AlterationKind::other_outlet, step.place}};
    return out;
}

std::vector<std::vector<RunConfig>> configsOf(const TrialStep& step) {
    std::vector<std::vector<RunConfig>> out;
    for (const int streams : step.streams) {
        RunConfig config;
        config.streams = streams;
        config.seconds = step.seconds;
        config.arrangement = arrangementOf(step);
        std::vector<RunConfig> together;
        for (const Direction d : {Direction::forward, Direction::backward}) {
            config.direction = d;
            if (step.directions == house::Directions::together)
                together.push_back(config);
            else if (step.directions == house::Directions::both || house::name(step.directions) == name(d))
                out.push_back({config});
        }
        if (!together.empty()) out.push_back(std::move(together));
    }
    return out;
}

std::vector<std::vector<RunConfig>> configsLeft(const TrialStep& step, const RouteRuns& runs) {
    const auto isMade = [&](const RunConfig& config) {
        return std::any_of(runs.begin(), runs.end(), [&](const RouteRun& made) {
            const Run& run = made.run;
            return run.step == step.id && run.complete && run.config.direction == config.direction &&
                   run.config.streams == config.streams;
        });
    };
    std::vector<std::vector<RunConfig>> out = configsOf(step);
    std::erase_if(out,
                  [&](const auto& configs) { return std::all_of(configs.begin(), configs.end(), isMade); });
    return out;
}

bool isDone(const TrialStep& step, const RouteRuns& runs) {
    return configsLeft(step, runs).empty();
}

const TrialStep* nextStep(const Trial& trial, const RouteRuns& runs) {
    const auto found = std::find_if(trial.steps.begin(), trial.steps.end(),
                                    [&](const TrialStep& step) { return !isDone(step, runs); });
    return found == trial.steps.end() ? nullptr : &*found;
}

double secondsLeft(const Trial& trial, const RouteRuns& runs) {
    double sum = 0;
    for (const TrialStep& step : trial.steps)
        if (!isDone(step, runs))
            sum += static_cast<double>(configsOf(step).size()) * (step.seconds + step.pause + settling);
    return sum;
}

} // namespace metrodos::benchmark
