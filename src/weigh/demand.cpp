#include "weigh/demand.h"

#include "weigh/tolerances.h"

#include <algorithm>
#include <limits>

namespace metrodos::weigh {
namespace {

constexpr double unlimited = std::numeric_limits<double>::infinity();

bool isService(const Traffic& t) {
    return t.peer == house::servicePeer;
}

// What the service brings that way; without bound where nobody knows.
double soldOf(const Options& options, bool down) {
    const auto& rate = down ? options.service : options.serviceUp;
    return rate ? rate->bps() : unlimited;
}

double part(const Traffic& t, bool down) {
    return (down ? t.down : t.up).bps();
}

// A need without traffic is one from anywhere in the house.
std::vector<Traffic> trafficOf(const Need& need) {
    if (!need.traffic.empty()) return need.traffic;
    return {{"", need.down, need.up, 1}};
}

// The share of what is wanted from the service at once that it gives.
double givenShare(const Options& options, bool down) {
    double wanted = 0;
    for (const SpotOptions& spot : options.spots)
        for (const Traffic& t : spot.need.traffic)
            if (isService(t)) wanted += part(t, down) * t.atOnce;
    const double sold = soldOf(options, down);
    return std::min(1.0, sold / wanted); // all of it where nothing is wanted
}

} // namespace

Rates aloneOf(const SpotOptions& spot, const Options& options) {
    Rates out;
    for (const bool down : {true, false}) {
        double service = 0;
        double house = 0;
        for (const Traffic& t : trafficOf(spot.need))
            (isService(t) ? service : house) += part(t, down);
        (down ? out.down : out.up) = std::min(service, soldOf(options, down)) + house;
    }
    return out;
}

std::vector<Demand> demandsOf(const Options& options) {
    std::vector<Demand> out;
    const Rates given{givenShare(options, true), givenShare(options, false)};
    for (const SpotOptions& spot : options.spots) {
        Demand d;
        d.wanted = {spot.need.down.bps(), spot.need.up.bps()};
        d.alone = aloneOf(spot, options);
        for (const Traffic& t : trafficOf(spot.need)) {
            const Rates at{t.down.bps() * t.atOnce, t.up.bps() * t.atOnce};
            d.wantedAtOnce += at;
            if (isService(t)) {
                d.fromService += {t.down.bps(), t.up.bps()};
                d.fromServiceAtOnce += at;
                d.serviceAtOnce += {at.down * given.down, at.up * given.up};
            } else {
                d.inHouse += at;
                if (t.isOfClients) d.ofClients += at;
            }
        }
        d.atOnce = d.serviceAtOnce;
        d.atOnce += d.inHouse;
        out.push_back(d);
    }
    return out;
}

Rates fromServiceAtOnce(const std::vector<Demand>& demands) {
    Rates out;
    for (const Demand& d : demands)
        out += d.fromServiceAtOnce;
    return out;
}

std::vector<ServiceShortage> shortagesOf(const Options& options, const std::vector<Demand>& demands) {
    const Rates together = fromServiceAtOnce(demands);
    std::vector<ServiceShortage> out;
    for (const bool down : {true, false}) {
        double wanted = together.of(down);
        for (const Demand& d : demands)
            wanted = std::max(wanted, d.fromService.of(down));
        const double sold = soldOf(options, down);
        if (exceeds(wanted, sold)) out.push_back({down, wanted, sold});
    }
    return out;
}

} // namespace metrodos::weigh
