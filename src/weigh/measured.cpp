#include "weigh/measured.h"

#include "house/route.h"
#include "trace/diagnose.h"

#include <algorithm>
#include <cmath>

namespace metrodos::weigh {

using namespace house;
using capacity::Distribution;

std::vector<Measured> measuredIn(const House& house, const catalog::Catalog& catalog,
                                 const benchmark::RouteRuns& runs) {
    std::vector<Measured> out;
    const RouteFinder finder(house);
    for (const Route& route : house.routes) {
        if (std::none_of(runs.begin(), runs.end(),
                         [&](const auto& r) { return r.route == route.id && r.run.showsCeiling(); }))
            continue;
        const auto elements = finder.find(route);
        const auto diagnosis = trace::diagnoseRoute(house, catalog, route, runs);
        if (!elements || !diagnosis) continue;
        for (const Element& e : *elements) {
            const Connection* connection = house.connection(e.connection);
            if (connection == nullptr || connection->medium == Medium::bus) continue;
            const double limit = [&] {
                for (const trace::Suspect& s : diagnosis->suspects)
                    if (s.element == e.id) return s.probability;
                return 0.0;
            }();
            const catalog::MediumClass* medium = catalog.medium(connection->medium);
            out.push_back({house.roomOf(e.entry), house.roomOf(e.exit), connection->medium, connection->id,
                           diagnosis->measuredForward, diagnosis->measuredBackward, limit > 0.5,
                           medium == nullptr ? 0.01 : medium->variation});
        }
    }
    return out;
}

Distribution updatedBy(const Distribution& before, BitRate measured, bool wasLimit, double variation) {
    if (wasLimit) {
        // The mean of some seconds lies within the variation; the hour adds as much again.
        constexpr double ninetieth = 1.2816;
        const double width = std::exp(ninetieth * std::max(variation, 0.01) * 1.4);
        return Distribution::of({measured * (1 / width), measured, measured * width});
    }
    const double below = before.cdf(measured.bps() * 0.999);
    std::vector<double> draws;
    constexpr int count = 64;
    for (int i = 0; i < count; ++i) {
        const double p = below + (1 - below) * (i + 0.5) / count;
        draws.push_back(
            std::max(measured.bps(), p < 1 ? before.quantile(std::clamp(p, 1e-6, 1 - 1e-6)) : 0.0));
    }
    return Distribution::ofDraws(std::move(draws));
}

} // namespace metrodos::weigh
