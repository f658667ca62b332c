#include "benchmark/trial.h"

#include "house/route.h"

#include <algorithm>

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
constexpr double settling = 3; // s between runs: opening, idle delay, closing

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
        if (!m_plan.compares) {
            for (std::size_t i = 0; i < m_plan.routes.size(); ++i)
                for (int repeat = 0; repeat < m_plan.repeats; ++repeat)
                    addPlace(*m_house.route(m_plan.routes[i]), i);
            return std::move(m_trial);
        }
        for (int repeat = 0; repeat < m_plan.repeats; ++repeat) {
            std::vector<std::size_t> sequence(m_plan.routes.size());
            for (std::size_t i = 0; i < sequence.size(); ++i)
                sequence[i] = repeat % 2 == 0 ? i : sequence.size() - 1 - i;
            for (const std::size_t i : sequence)
                addPlace(*m_house.route(m_plan.routes[i]), i);
        }
        return std::move(m_trial);
    }

  private:
    void addPlace(const Route& route, std::size_t arm) {
        std::string prepare = "Join " + labelOf(m_house, route.from) + " and " + labelOf(m_house, route.to) +
                              " as in “" + route.label + "”.";
        if (!m_trial.steps.empty() && m_trial.steps.back().route == route.id &&
            m_trial.steps.back().setup == Setup::place)
            prepare = "Leave everything as it is: “" + route.label + "” once more.";
        const bool compares = m_plan.compares && m_plan.routes.size() > 1;
        add(route.id, Setup::place, compares ? std::string(1, static_cast<char>('A' + arm % 26)) : "",
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

std::optional<Comparison> compareArms(const House& house, const Trial& trial, const RouteRuns& runs,
                                      Direction direction) {
    const Rule rule = house.measuring.summary;
    const auto ratesOf = [&](const std::string& arm, std::string& label) {
        std::vector<double> rates;
        for (const TrialStep& step : trial.steps) {
            if (step.arm != arm) continue;
            if (const Route* route = house.route(step.route)) label = route->label;
            const int most = *std::max_element(step.streams.begin(), step.streams.end());
            for (const auto& [route, run] : runs)
                if (run.step == step.id && run.complete && run.config.direction == direction &&
                    run.config.streams == most)
                    rates.push_back(figureOf(run, rule).bps());
        }
        return rates;
    };
    std::string labelA;
    std::string labelB;
    const std::vector<double> a = ratesOf("A", labelA);
    const std::vector<double> b = ratesOf("B", labelB);
    if (labelB.empty()) return std::nullopt;
    return compare(a, b, "“" + labelA + "”", "“" + labelB + "”", rule);
}

double secondsLeft(const Trial& trial, const RouteRuns& runs) {
    double sum = 0;
    for (const TrialStep& step : trial.steps)
        if (!isDone(step, runs))
            sum += static_cast<double>(configsOf(step).size()) * (step.seconds + settling);
    return sum;
}

} // namespace metrodos::benchmark
