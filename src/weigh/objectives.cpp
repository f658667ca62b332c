#include "weigh/objectives.h"

#include "weigh/confidence.h"
#include "weigh/local_search.h"
#include "weigh/tolerances.h"

#include <algorithm>
#include <chrono>

namespace metrodos::weigh {
namespace {

constexpr double secondsPerGoal = 3;
constexpr double secondsInAll = 16;
constexpr double goalsInAll = 8; // slow ones
constexpr int pointsOfFront = 12;
constexpr double solverSlack = 1e-6; // by which the solver may overstep a bound

struct Known {
    Objective objective;
    const char* label;
    std::vector<Goal> goals;
};

const std::vector<Known>& all() {
    static const std::vector<Known> known{
        {Objective::cheapest, "cheapest that carries every need", {Goal::carry, Goal::cost}},
        {Objective::steadiest, "steadiest", {Goal::carry, Goal::unsteady, Goal::cost}},
        {Objective::no_drilling, "without drilling", {Goal::holes, Goal::carry, Goal::cost}},
        {Objective::fastest, "most headroom", {Goal::carry, Goal::load, Goal::cost}},
        {Objective::lasting, "lasts longest", {Goal::carry, Goal::decay, Goal::cost}}};
    return known;
}

const Known& of(Objective objective) {
    return *std::find_if(all().begin(), all().end(),
                         [&](const Known& k) { return k.objective == objective; });
}

// Plans of the same options one after another: what the first one found out serves the next.
class Work {
  public:
    /// `seconds` for a goal at most; `inAll` for all plans together.
    Work(const Options& options, const Prices& prices, const std::stop_token& stop, double seconds,
         double inAll)
        : m_options(options)
        , m_prices(prices)
        , m_stop(stop)
        , m_seconds(seconds)
        , m_end(std::chrono::steady_clock::now() +
                std::chrono::duration_cast<std::chrono::steady_clock::duration>(
                    std::chrono::duration<double>(inAll)))
        , m_drawn(options) {}

    /// Whether the time for all plans together has passed.
    [[nodiscard]] bool isOver() const { return std::chrono::steady_clock::now() > m_end; }

    quantity::Result<Plan> best(Objective objective) {
        SolveRequest request{of(objective).goals, std::numeric_limits<double>::infinity(), seconds()};
        // Without holes it may be that less is carried.
        const bool own = objective == Objective::no_drilling;
        if (!own && m_first) {
            request.uncarried = m_first->uncarried;
            request.carryGap = m_first->carryGap;
            request.start = &*m_first;
        } else {
            request.near = improvedChoice(m_options, m_prices, request);
        }
        auto solution = solve(m_options, m_prices, request, m_stop);
        const bool byLoad = objective == Objective::fastest;
        auto plan = planFrom(solution, {std::numeric_limits<double>::infinity(), byLoad});
        if (plan) plan->label = label(objective);
        if (!own && solution && !m_first) m_first = std::move(*solution);
        return plan;
    }

    /// The cheapest that leaves all loads at or below this one and carries as much as is possible.
    quantity::Result<Plan> within(double load) {
        SolveRequest request{{Goal::carry, Goal::cost}, load, seconds()};
        if (m_first) {
            request.uncarried = m_first->uncarried;
            request.carryGap = m_first->carryGap;
        }
        // A beginning that carries less is none.
        request.near = improvedChoice(m_options, m_prices, request);
        if (request.uncarried && uncarriedOf(m_options, request.near) > *request.uncarried)
            request.near.clear();
        return planFrom(solve(m_options, m_prices, request, m_stop), {load * (1 + solverSlack), false});
    }

  private:
    // For a goal: a part of what is left, so that whatever is slow leaves time for the rest.
    [[nodiscard]] double seconds() const {
        constexpr double least = 0.2;
        const std::chrono::duration<double> left = m_end - std::chrono::steady_clock::now();
        return std::clamp(left.count() / goalsInAll, least, m_seconds);
    }
    quantity::Result<Plan> planFrom(const quantity::Result<Solution>& solution, const HubChoice& hub) {
        if (!solution) return tl::unexpected(solution.error());
        auto plan = planOf(m_options, m_prices, solution->picks, hub);
        if (!plan)
            return quantity::problem("the plan that was found does not hold", "",
                                     "report this with the job as JSON");
        plan->gap = solution->gap;
        estimateConfidence(m_options, *plan, m_drawn);
        return std::move(*plan);
    }

    const Options& m_options;
    const Prices& m_prices;
    const std::stop_token& m_stop;
    double m_seconds;
    std::chrono::steady_clock::time_point m_end;
    std::optional<Solution> m_first;
    DrawnWays m_drawn;
};

int carriedBy(const Plan& plan) {
    return static_cast<int>(
        std::count_if(plan.spots.begin(), plan.spots.end(), [](const SpotResult& s) { return s.carried; }));
}

// Adds a plan unless it is there; its id.
std::string keep(Weighed& all, Plan plan) {
    std::string id = plan.id;
    if (std::none_of(all.plans.begin(), all.plans.end(), [&](const Plan& p) { return p.id == id; }))
        all.plans.push_back(std::move(plan));
    return id;
}

} // namespace

const char* label(Objective objective) {
    return of(objective).label;
}

quantity::Result<Plan> planBy(Objective objective, const Options& options, const Prices& prices,
                              const std::stop_token& stop, double seconds) {
    return Work(options, prices, stop, seconds, seconds * goalsInAll).best(objective);
}

namespace {

quantity::Result<std::vector<Plan>> frontFrom(Work& work, const Plan& cheapest, const Plan& fastest,
                                              const std::stop_token& stop, int most) {
    std::vector<Plan> out{cheapest};
    const double top = fastest.headroom;
    // Steps are no finer than what would fill the front evenly on a logarithmic scale.
    const double step =
        std::max(1.01, std::pow(std::max(top / std::max(cheapest.headroom, 1e-9), 1.0), 1.0 / most));
    while (out.back().headroom * step < top && static_cast<int>(out.size()) < most && !work.isOver()) {
        auto next = work.within(1 / (out.back().headroom * step));
        if (!next) {
            if (stop.stop_requested()) return tl::unexpected(next.error());
            break;
        }
        if (carriedBy(*next) < carriedBy(out.front())) break;
        // Where the step jumps over a plan of the same price the better one of that price counts.
        if (next->cost == out.back().cost) out.pop_back();
        out.push_back(std::move(*next));
    }
    if (out.back().id != fastest.id && exceeds(fastest.headroom, out.back().headroom)) {
        if (fastest.cost == out.back().cost) out.pop_back();
        out.push_back(fastest);
    }
    for (Plan& plan : out)
        if (plan.label.empty()) plan.label = "between cheapest and most headroom";
    return out;
}

} // namespace

quantity::Result<std::vector<Plan>> front(const Options& options, const Prices& prices,
                                          const std::stop_token& stop, int most, double seconds) {
    Work work(options, prices, stop, seconds, seconds * goalsInAll);
    const auto cheapest = work.best(Objective::cheapest);
    if (!cheapest) return tl::unexpected(cheapest.error());
    const auto fastest = work.best(Objective::fastest);
    if (!fastest) return tl::unexpected(fastest.error());
    return frontFrom(work, *cheapest, *fastest, stop, most);
}

quantity::Result<Weighed> weigh(const Options& options, const Prices& prices, Objective first,
                                const Progress& progress, const std::stop_token& stop) {
    Weighed out;
    std::vector<Objective> order{first};
    for (const Objective s : objectives)
        if (s != first) order.push_back(s);
    const double pieces = static_cast<double>(order.size()) + 2; // the front is worth two
    double done = 0;
    Work work(options, prices, stop, secondsPerGoal, secondsInAll);
    std::map<Objective, Plan> best;
    for (const Objective s : order) {
        auto plan = work.best(s);
        if (!plan) return tl::unexpected(plan.error());
        best[s] = *plan;
        out.best[s] = keep(out, std::move(*plan));
        ++done;
        if (progress) progress(done / pieces, out);
    }
    auto points = frontFrom(work, best[Objective::cheapest], best[Objective::fastest], stop, pointsOfFront);
    if (!points) return tl::unexpected(points.error());
    for (Plan& plan : *points)
        out.front.push_back(keep(out, std::move(plan)));
    if (progress) progress(1, out);
    return out;
}

} // namespace metrodos::weigh
