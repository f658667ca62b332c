#include "weigh/steadiness.h"

#include <algorithm>
#include <cmath>

namespace metrodos::weigh {

void setSteadiness(SpotWay& way, const Rates& alone, const catalog::Catalog& catalog) {
    if (!way.isPossible()) return;
    double steadiness = way.steadiness;
    double delay = 1;
    for (const catalog::MediumClass& medium : catalog.media) {
        const double spread = std::hypot(medium.variation, medium.hours);
        for (const Passage& p : way.passages) {
            if (p.resource != house::name(medium.medium)) continue;
            delay = std::max(delay, medium.loadedDelay);
            if (alone.of(p.down) <= 0 || spread <= 0) continue;
            const double margin = std::log(p.rate.quantile(0.5) / alone.of(p.down));
            const double below = 0.5 * std::erfc(margin / spread / std::sqrt(2.0));
            steadiness = std::min(steadiness, way.steadiness * (1 - below));
        }
    }
    way.steadiness = steadiness;
    way.loadedUs = way.rttUs.p90 * delay;
}

} // namespace metrodos::weigh
