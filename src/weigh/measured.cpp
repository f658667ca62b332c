#include "weigh/measured.h"

#include "benchmark/statistics.h"
#include "house/route.h"
#include "trace/diagnose.h"

#include <algorithm>
#include <cmath>

namespace metrodos::weigh {

using namespace house;
using capacity::Distribution;

namespace {

// It went as fast as the way lets it; another flow is a thin one.
bool fillsTheWay(const benchmark::WatchReport& watch) {
    return watch.config.protocol == benchmark::Protocol::tcp && !watch.config.rate;
}

// Several watches of one direction as one: their times add up, the longest that filled the way has the rate.
std::optional<Watched> watchedOf(const std::vector<benchmark::WatchReport>& watches, const Id& route,
                                 benchmark::Direction direction) {
    std::optional<Watched> out;
    double longest = 0;
    for (const benchmark::WatchReport& watch : watches) {
        if (watch.head.route != route || watch.config.direction != direction || watch.measuredSeconds <= 0)
            continue;
        if (!out) out.emplace();
        out->seconds += watch.measuredSeconds;
        out->dropOutSeconds += std::min(watch.dropOutSeconds, watch.measuredSeconds);
        if (!fillsTheWay(watch) || watch.measuredSeconds <= longest || !watch.goodputP10 ||
            !watch.goodputP50 || !watch.goodputP90)
            continue;
        longest = watch.measuredSeconds;
        out->rate = {*watch.goodputP10, *watch.goodputP50, *watch.goodputP90};
    }
    return out;
}

// The middle of what the runs and watches that filled the route have.
std::optional<double> loadedOn(const Id& route, const benchmark::RouteRuns& runs,
                               const std::vector<benchmark::WatchReport>& watches) {
    std::vector<double> all;
    for (const auto& [on, run] : runs)
        if (on == route && run.showsCeiling() && run.rttLoadedUs) all.push_back(run.rttLoadedUs->p95);
    for (const benchmark::WatchReport& watch : watches)
        if (watch.head.route == route && fillsTheWay(watch) && watch.rttUs) all.push_back(watch.rttUs->p95);
    if (all.empty()) return std::nullopt;
    return benchmark::quantile(all, 0.5);
}

} // namespace

std::vector<Measured> measuredIn(const House& house, const catalog::Catalog& catalog,
                                 const benchmark::RouteRuns& runs,
                                 const std::vector<benchmark::WatchReport>& watches) {
    std::vector<Measured> out;
    const RouteFinder finder(house);
    for (const Route& route : house.routes) {
        const bool isMeasured = std::any_of(runs.begin(), runs.end(), [&](const auto& r) {
            return r.route == route.id && r.run.showsCeiling();
        });
        const auto forward = watchedOf(watches, route.id, benchmark::Direction::forward);
        const auto backward = watchedOf(watches, route.id, benchmark::Direction::backward);
        if (!isMeasured && !forward && !backward) continue;
        const auto elements = finder.find(route);
        if (!elements) continue;
        std::optional<trace::Diagnosis> diagnosis;
        if (isMeasured)
            if (auto made = trace::diagnoseRoute(house, catalog, route, runs)) diagnosis = std::move(*made);
        const auto loadedUs = loadedOn(route.id, runs, watches);
        for (const Element& e : *elements) {
            const Connection* connection = house.connection(e.connection);
            if (connection == nullptr || connection->medium == Medium::bus) continue;
            const double limit = [&] {
                if (diagnosis)
                    for (const trace::Suspect& s : diagnosis->suspects)
                        if (s.element == e.id) return s.probability;
                return 0.0;
            }();
            const catalog::MediumClass* medium = catalog.medium(connection->medium);
            out.push_back({house.roomOf(e.entry), house.roomOf(e.exit), connection->medium, connection->id,
                           diagnosis ? diagnosis->measuredForward : std::nullopt,
                           diagnosis ? diagnosis->measuredBackward : std::nullopt, limit > 0.5,
                           medium == nullptr ? 0.01 : medium->variation, loadedUs, forward, backward});
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
