#include "weigh/growth.h"

#include "weigh/way_choice.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace metrodos::weigh {
namespace {

// What one way takes: once, and for each room.
struct Terms {
    int carried = 0; // spots whose needs it carries
    double years = 10;
    double once = 0;
    double each = 0;
    double wattsOnce = 0;
    double wattsEach = 0;
    bool ownPorts = true;
    int sharedPorts = 1; // that all of them take together, where they take none of their own
    bool everywhere = true;
};

// With adapters of one class in all rooms; empty: a way without adapters.
std::optional<Terms> termsOf(const Options& options, const Prices& prices, const std::string& way,
                             const std::string& deviceClass) {
    Terms out;
    std::map<std::string, double> shared;
    int spots = 0;
    for (const SpotOptions& spot : options.spots)
        for (const SpotWay& w : spot.ways) {
            if (w.id != way || w.deviceClass != deviceClass || !w.nicClass.empty() || !w.isPossible())
                continue;
            ++spots;
            if (weigh::carriedBy(w, spot, options) >= 1) ++out.carried;
            const WayCost cost = costOf(w, prices);
            out.years = w.years;
            out.ownPorts = w.hubShare.empty();
            out.sharedPorts = w.takesPort ? 1 : 0;
            const double watts = w.deviceClass.empty() ? 0 : options.running.adapterWatts;
            out.wattsOnce = w.hubBox.empty() ? 0 : watts; // the one at the hub, where it is not there yet
            out.wattsEach = std::max(out.wattsEach, watts);
            out.each += cost.each.inUnits();
            for (const auto& [key, once] : cost.once)
                shared[key] = once.inUnits();
        }
    if (spots == 0) return std::nullopt;
    out.everywhere = spots == static_cast<int>(options.spots.size());
    out.each /= spots;
    for (const auto& [key, cost] : shared)
        out.once += cost;
    return out;
}

// With the class that carries the needs of most spots; of those, the cheapest for all of them.
std::optional<Terms> termsOf(const Options& options, const Prices& prices, const std::string& way) {
    std::set<std::string> classes;
    for (const SpotOptions& spot : options.spots)
        for (const SpotWay& w : spot.ways)
            if (w.id == way) classes.insert(w.deviceClass);
    std::optional<Terms> best;
    const auto spots = static_cast<double>(options.spots.size());
    for (const std::string& deviceClass : classes) {
        const auto terms = termsOf(options, prices, way, deviceClass);
        if (!terms) continue;
        if (!best || terms->carried > best->carried ||
            (terms->carried == best->carried &&
             terms->once + terms->each * spots < best->once + best->each * spots))
            best = terms;
    }
    return best;
}

// The cheapest hub with so many ports.
double hubCost(const std::vector<Hub>& hubs, const Options& options, const Prices& prices, int ports) {
    double best = std::numeric_limits<double>::infinity();
    for (const Hub& hub : hubs) {
        if (portsFrom(hub.ports, BitRate()) < ports) continue;
        double cost = 0;
        for (const int k : hub.bought)
            cost += prices.of(options.offers[static_cast<std::size_t>(k)].item).inUnits();
        best = std::min(best, cost);
    }
    if (std::isfinite(best) || hubs.empty()) return std::isfinite(best) ? best : 0;
    // More than two switches: in proportion to the most ports that two of them give.
    int most = 1;
    for (const Hub& hub : hubs)
        most = std::max(most, portsFrom(hub.ports, BitRate()));
    return hubCost(hubs, options, prices, most) * ports / most;
}

std::vector<Crossing> crossingsOf(std::vector<GrowthLine> lines, std::vector<Money> GrowthLine::*values) {
    // What is there in some rooms only is no choice for the others.
    std::erase_if(lines, [](const GrowthLine& line) { return !line.everywhere; });
    std::vector<Crossing> out;
    const std::size_t count = lines.empty() ? 0 : (lines.front().*values).size();
    std::string before;
    for (std::size_t n = 0; n < count; ++n) {
        const auto best =
            std::ranges::min_element(lines, {}, [&](const GrowthLine& line) { return (line.*values)[n]; });
        if (!before.empty() && best->way != before) {
            // Equal prices are no crossing.
            const auto old = std::find_if(lines.begin(), lines.end(),
                                          [&](const GrowthLine& l) { return l.way == before; });
            if (((*old).*values)[n] == ((*best).*values)[n]) continue;
            out.push_back({before, best->way, static_cast<int>(n) + 1});
        }
        before = best->way;
    }
    return out;
}

} // namespace

Growth growthOf(const Options& options, const Prices& prices, int rooms, int years, int mostRooms,
                int mostYears) {
    Growth out;
    out.rooms = rooms;
    out.years = years;
    const std::vector<Hub> hubs = hubsOf(options, prices);
    std::vector<std::string> ways;
    std::map<std::string, std::string> labels;
    // What is there already costs nothing, wherever it is.
    for (const SpotOptions& spot : options.spots)
        for (const SpotWay& w : spot.ways)
            if (w.means != catalog::WayMeans::as_is &&
                std::find(ways.begin(), ways.end(), w.id) == ways.end())
                ways.push_back(w.id);
    for (const std::string& way : ways) {
        const auto terms = termsOf(options, prices, way);
        if (!terms) continue;
        const auto cost = [&](int n, int y) {
            const double own = (terms->once + terms->each * n) * std::ceil(y / terms->years);
            const double hub = hubCost(hubs, options, prices, terms->ownPorts ? n : terms->sharedPorts);
            const double watts =
                terms->wattsOnce + terms->wattsEach * n + (hub > 0 ? options.running.switchWatts : 0);
            constexpr double hours = 365.25 * 24;
            return Money::units(own + hub * std::ceil(y / options.running.switchYears) +
                                watts / 1000 * hours * y * prices.of("electricity").inUnits());
        };
        GrowthLine line;
        line.way = way;
        line.years = terms->years;
        line.everywhere = terms->everywhere;
        for (int n = 1; n <= mostRooms; ++n)
            line.byRooms.push_back(cost(n, years));
        for (int y = 1; y <= mostYears; ++y)
            line.byYears.push_back(cost(rooms, y));
        out.lines.push_back(std::move(line));
    }
    out.overRooms = crossingsOf(out.lines, &GrowthLine::byRooms);
    out.overYears = crossingsOf(out.lines, &GrowthLine::byYears);
    return out;
}

} // namespace metrodos::weigh
