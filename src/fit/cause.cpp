#include "fit/cause.h"

#include "trace/diagnose.h"

#include <algorithm>

namespace metrodos::fit {

std::optional<Cause> causeOf(const Step& step, const house::House& house, const catalog::Catalog& catalog,
                             const benchmark::RouteRuns& runs) {
    const house::Route* route = house.route(step.route);
    const bool hasRuns = std::any_of(runs.begin(), runs.end(),
                                     [&](const benchmark::RouteRun& r) { return r.route == step.route; });
    if (route == nullptr || !hasRuns) return std::nullopt;
    const auto diagnosis = trace::diagnoseRoute(house, catalog, *route, runs);
    if (!diagnosis || diagnosis->suspects.empty()) return std::nullopt;
    constexpr std::size_t most = 3;
    Cause out;
    for (const trace::Suspect& s : diagnosis->suspects)
        if (out.suspects.size() < most) out.suspects.push_back({s.label, s.state, s.probability});
    if (!diagnosis->nextTests.empty()) out.nextTest = diagnosis->nextTests.front().does;
    return out;
}

} // namespace metrodos::fit
