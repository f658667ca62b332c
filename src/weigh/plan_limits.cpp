#include "weigh/plan_limits.h"

#include "quantity/format.h"
#include "weigh/tolerances.h"

#include <algorithm>

namespace metrodos::weigh {
namespace {

std::string rateWords(double bps) {
    return quantity::plain(BitRate::bitsPerSecond(bps));
}

} // namespace

void addLimits(Plan& plan, const Options& options, const std::vector<Demand>& demands) {
    const std::vector<ServiceShortage> shortages = shortagesOf(options, demands);
    const Rates together = fromServiceAtOnce(demands);
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        SpotResult& spot = plan.spots[i];
        spot.headroom = spot.houseHeadroom;
        for (const bool down : {true, false}) {
            const double own = demands[i].fromService.of(down);
            const auto& sold = down ? options.service : options.serviceUp;
            if (own <= 0 || !sold) continue;
            const double most = std::max(own, together.of(down));
            spot.headroom = std::min(spot.headroom, sold->bps() / most);
            if (exceeds(most, sold->bps())) spot.isFed = false;
        }
    }
    for (const ServiceShortage& s : shortages)
        plan.limits.push_back(
            {std::string(house::servicePeer), s.down, BitRate::bitsPerSecond(s.wanted),
             BitRate::bitsPerSecond(s.sold),
             rateWords(s.wanted) +
                 (s.down ? " are wanted from the service at once, it brings "
                         : " are to go to the service at once, it takes ") +
                 rateWords(s.sold) +
                 (options.serviceLimit.empty() ? "" : ", which is " + options.serviceLimit)});
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        const SpotResult& spot = plan.spots[i];
        const SpotOptions& option = options.spots[i];
        if (spot.carried || !option.need.any()) continue;
        const std::string who = "“" + option.label + "”";
        if (spot.way < 0) {
            plan.limits.push_back({spot.spot, true, option.need.down, {}, "nothing reaches " + who});
            continue;
        }
        const SpotWay& way = option.way(spot.way);
        const double carries = std::min(1.0, carriedBy(way, option, options));
        const bool down = spot.need == option.need.down;
        const std::string what = option.isPeer
                                     ? "others draw up to " + rateWords(spot.need.bps()) + " from " + who
                                     : who + " needs " + rateWords(spot.need.bps());
        // Enough by itself: delay, steadiness, or the rest of the house is in the way.
        const std::string why =
            carries >= 0.99
                ? "its way does not carry that together with the rest, or not steadily enough"
                : spot.limit + " carries at least " + rateWords(spot.p10.bps()) + " in nine houses of ten";
        plan.limits.push_back({spot.limitId.empty() ? spot.spot : spot.limitId, down, spot.need,
                               std::min(spot.p10, spot.need), what + ": " + why});
    }
    plan.wiringCarriesAll =
        std::all_of(plan.spots.begin(), plan.spots.end(), [](const SpotResult& s) { return s.carried; });
    plan.carriesAll = plan.wiringCarriesAll && shortages.empty();
    if (shortages.empty()) return;
    std::string note = "The service is the limit: ";
    for (std::size_t i = 0; i < shortages.size(); ++i)
        note += (i == 0 ? "" : "; ") + plan.limits[i].because;
    if (plan.wiringCarriesAll) note += ". The wiring of this plan carries all that the service can give";
    plan.notes.push_back(note);
}

} // namespace metrodos::weigh
