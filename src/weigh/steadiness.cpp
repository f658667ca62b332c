#include "weigh/steadiness.h"

#include <algorithm>
#include <cmath>

namespace metrodos::weigh {
namespace {

// The class's share of the time without drop-outs, which is worth an hour of watching, and what was watched:
// the worse direction of those.
double ownSteadiness(const SpotWay& way) {
    constexpr double classSeconds = 3600;
    double out = 1;
    for (const auto* watched : {&way.watchedDown, &way.watchedUp}) {
        if (!*watched) continue;
        const double seconds = (*watched)->seconds;
        const double sound = seconds - (*watched)->dropOutSeconds;
        out = std::min(out, (way.steadiness * classSeconds + sound) / (classSeconds + seconds));
    }
    return way.watchedSeconds() > 0 ? out : way.steadiness;
}

// The share of the time for which a rate of this median and spread in ln is below the need.
double shareBelow(double medianBps, double spread, double needBps) {
    if (needBps <= 0 || spread <= 0) return 0;
    return 0.5 * std::erfc(std::log(medianBps / needBps) / spread / std::sqrt(2.0));
}

// Of what a watch saw, by its lower half: how far it falls.
double spreadOf(const catalog::RateSpread& seen) {
    constexpr double ninetieth = 1.2816;
    return std::log(seen.p50.bps() / seen.p10.bps()) / ninetieth;
}

} // namespace

void setSteadiness(SpotWay& way, const Rates& alone, const catalog::Catalog& catalog) {
    if (!way.isPossible()) return;
    const double own = ownSteadiness(way);
    double below = 0;
    double delay = 1;
    const auto wasFilled = [&](bool isDown) {
        const auto& watched = isDown ? way.watchedDown : way.watchedUp;
        return watched && watched->rate ? &*watched->rate : nullptr;
    };
    for (const catalog::MediumClass& medium : catalog.media)
        for (const Passage& p : way.passages) {
            if (p.resource != house::name(medium.medium)) continue;
            delay = std::max(delay, medium.loadedDelay);
            if (wasFilled(p.down) != nullptr) continue;
            below = std::max(below, shareBelow(p.rate.quantile(0.5),
                                               std::hypot(medium.variation, medium.hours), alone.of(p.down)));
        }
    for (const bool isDown : {true, false})
        if (const catalog::RateSpread* seen = wasFilled(isDown))
            below = std::max(below, shareBelow(seen->p50.bps(), spreadOf(*seen), alone.of(isDown)));
    way.steadiness = own * (1 - below);
    way.loadedUs = way.rttUs.p90 * delay;
}

} // namespace metrodos::weigh
