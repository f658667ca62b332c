#include "weigh/schools.h"

#include "weigh/prove.h"

#include <algorithm>

namespace metrodos::weigh {
namespace {

struct Known {
    School school;
    const char* name;
    const char* label;
    std::vector<Goal> goals;
};

const std::vector<Known>& all() {
    static const std::vector<Known> known{
        {School::cheapest, "cheapest", "cheapest that carries every need", {Goal::carry, Goal::cost}},
        {School::steadiest, "steadiest", "steadiest", {Goal::carry, Goal::unsteady, Goal::cost}},
        {School::no_drilling, "no-drilling", "without drilling", {Goal::holes, Goal::carry, Goal::cost}},
        {School::fastest, "fastest", "most headroom", {Goal::carry, Goal::load, Goal::cost}},
        {School::lasting, "lasting", "lasts longest", {Goal::carry, Goal::decay, Goal::cost}}};
    return known;
}

const Known& of(School school) {
    return *std::find_if(all().begin(), all().end(), [&](const Known& k) { return k.school == school; });
}

quantity::Result<Plan> planFrom(const Options& options, const Prices& prices,
                                const quantity::Result<Solved>& solved) {
    if (!solved) return tl::unexpected(solved.error());
    auto plan = planOf(options, prices, solved->picks);
    if (!plan)
        return quantity::problem("the plan that was found does not hold", "",
                                 "report this with the job as JSON");
    plan->gap = solved->gap;
    prove(options, *plan);
    return std::move(*plan);
}

int carriedBy(const Plan& plan) {
    return static_cast<int>(
        std::count_if(plan.spots.begin(), plan.spots.end(), [](const SpotResult& s) { return s.carried; }));
}

// Adds a plan unless it is there; its id.
std::string keep(Weighed& all, Plan plan) {
    const std::string id = plan.id;
    if (std::none_of(all.plans.begin(), all.plans.end(), [&](const Plan& p) { return p.id == id; }))
        all.plans.push_back(std::move(plan));
    return id;
}

} // namespace

const char* name(School school) {
    return of(school).name;
}

std::optional<School> school(std::string_view name) {
    for (const Known& known : all())
        if (name == known.name) return known.school;
    return std::nullopt;
}

const char* label(School school) {
    return of(school).label;
}

quantity::Result<Plan> planBy(School school, const Options& options, const Prices& prices,
                              const std::stop_token& stop, double seconds) {
    auto plan = planFrom(options, prices, solve(options, prices, {of(school).goals, 1, seconds}, stop));
    if (plan) plan->label = label(school);
    return plan;
}

quantity::Result<std::vector<Plan>> front(const Options& options, const Prices& prices,
                                          const std::stop_token& stop, int most, double seconds) {
    std::vector<Plan> out;
    auto cheapest = planBy(School::cheapest, options, prices, stop, seconds);
    auto fastest = planBy(School::fastest, options, prices, stop, seconds);
    if (!cheapest) return tl::unexpected(cheapest.error());
    if (!fastest) return tl::unexpected(fastest.error());
    const double top = fastest->headroom;
    out.push_back(std::move(*cheapest));
    // Steps are no finer than what would fill the front evenly on a logarithmic scale.
    const double step =
        std::max(1.01, std::pow(std::max(top / std::max(out.front().headroom, 1e-9), 1.0), 1.0 / most));
    while (out.back().headroom * step < top && static_cast<int>(out.size()) < most) {
        auto next =
            planFrom(options, prices,
                     solve(options, prices,
                           {{Goal::carry, Goal::cost}, 1 / (out.back().headroom * step), seconds}, stop));
        if (!next) {
            if (stop.stop_requested()) return tl::unexpected(next.error());
            break;
        }
        if (carriedBy(*next) < carriedBy(out.front())) break;
        // Where the step jumps over a plan of the same price the better one of that price counts.
        if (next->cost == out.back().cost) out.pop_back();
        out.push_back(std::move(*next));
    }
    if (out.back().id != fastest->id && fastest->headroom > out.back().headroom * (1 + 1e-9)) {
        if (fastest->cost == out.back().cost) out.pop_back();
        out.push_back(std::move(*fastest));
    }
    for (Plan& plan : out)
        if (plan.label.empty()) plan.label = "between cheapest and most headroom";
    return out;
}

quantity::Result<Weighed> weigh(const Options& options, const Prices& prices, School first,
                                const Progress& progress, const std::stop_token& stop) {
    Weighed out;
    std::vector<School> order{first};
    for (const School s : schools)
        if (s != first) order.push_back(s);
    const double pieces = static_cast<double>(order.size()) + 2; // the front is worth two
    double done = 0;
    for (const School s : order) {
        auto plan = planBy(s, options, prices, stop);
        if (!plan) return tl::unexpected(plan.error());
        out.best[s] = keep(out, std::move(*plan));
        ++done;
        if (progress) progress(done / pieces, out);
    }
    auto points = front(options, prices, stop);
    if (!points) return tl::unexpected(points.error());
    for (Plan& plan : *points)
        out.front.push_back(keep(out, std::move(plan)));
    if (progress) progress(1, out);
    return out;
}

} // namespace metrodos::weigh
