#include "weigh/confidence.h"

#include "capacity/contribution.h"
#include "capacity/sharing.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>

namespace metrodos::weigh {
namespace {

static_assert(drawnHouses == capacity::drawsPerPath);

struct Flow {
    std::size_t spot = 0;
    bool down = true;
    bool isService = false;
    double demand = 0; // bit/s, at once
};

std::vector<Flow> flowsOf(const std::vector<Demand>& demands, const Plan& plan) {
    std::vector<Flow> out;
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        if (plan.spots[i].way < 0) continue;
        // What cannot be carried whole takes its share all the same, if only as much as it gets.
        for (const bool down : {true, false}) {
            if (const double house = demands[i].inHouse.of(down); house > 0)
                out.push_back({i, down, false, house});
            if (const double service = demands[i].fromServiceAtOnce.of(down); service > 0)
                out.push_back({i, down, true, service});
        }
    }
    return out;
}

// Whether a spot's way carries its whole need when nobody else does anything, in the n-th house.
bool carriesAlone(const SpotOptions& spot, const SpotWay& way, const Rates& alone, std::uint64_t n) {
    std::map<std::string, double> taken;
    for (const Passage& p : way.passages)
        taken[p.resource] +=
            alone.of(p.down) / p.rate.drawn(n, spot.spot + "/" + way.key() + "/" + p.resource);
    for (const bool down : {true, false})
        if (const auto& whole = down ? way.wholeDown : way.wholeUp)
            taken[down ? "whole down" : "whole up"] = alone.of(down) / whole->drawn(n, spot.spot);
    return std::all_of(taken.begin(), taken.end(), [](const auto& one) { return one.second <= 1 + 1e-9; });
}

} // namespace

void estimateConfidence(const Options& options, Plan& plan) {
    const std::vector<Demand> demands = demandsOf(options);
    const std::vector<Flow> flows = flowsOf(demands, plan);
    std::vector<double> wanted;
    for (const Flow& flow : flows)
        wanted.push_back(flow.demand);
    std::vector<int> met(plan.spots.size(), 0);
    int allMet = 0;
    for (std::uint64_t n = 0; n < drawnHouses; ++n) {
        std::map<std::string, capacity::Resource> resources;
        const auto load = [&](const std::string& id, const std::string& label, std::size_t flow,
                              double rate) {
            capacity::Resource& r = resources[id];
            r.id = id;
            r.label = label;
            r.loads.push_back({flow, 1 / rate});
        };
        for (std::size_t f = 0; f < flows.size(); ++f) {
            const SpotOptions& spot = options.spots[flows[f].spot];
            const SpotWay& way = spot.way(plan.spots[flows[f].spot].way);
            for (const Passage& p : way.passages)
                if (p.down == flows[f].down)
                    load(p.resource, p.label, f,
                         p.rate.drawn(n, spot.spot + "/" + way.key() + "/" + p.resource));
            const auto& sold = flows[f].down ? options.service : options.serviceUp;
            if (flows[f].isService && sold)
                load(flows[f].down ? "service down" : "service up", "the service", f, sold->bps());
        }
        std::vector<capacity::Resource> list;
        for (auto& [id, r] : resources)
            list.push_back(std::move(r));
        const auto shares = capacity::maxMinShares(list, flows.size(), wanted);
        std::vector<bool> all(plan.spots.size(), true);
        for (std::size_t f = 0; f < flows.size(); ++f)
            if (shares[f].bps < flows[f].demand * (1 - 1e-6)) all[flows[f].spot] = false;
        bool everySpot = true;
        for (std::size_t i = 0; i < all.size(); ++i) {
            const SpotOptions& spot = options.spots[i];
            const int way = plan.spots[i].way;
            all[i] = all[i] && plan.spots[i].isFed && (way >= 0 || !spot.need.any()) &&
                     (way < 0 || carriesAlone(spot, spot.way(way), demands[i].alone, n));
            met[i] += all[i] ? 1 : 0;
            everySpot = everySpot && all[i];
        }
        allMet += everySpot ? 1 : 0;
    }
    plan.carriedShare = static_cast<double>(allMet) / drawnHouses;
    // 64 houses tell a share near nine tenths to within four in a hundred.
    constexpr double sampling = 0.04;
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        SpotResult& spot = plan.spots[i];
        spot.carriedShare = static_cast<double>(met[i]) / drawnHouses;
        if (spot.isMet() && spot.carriedShare < options.share - sampling)
            plan.notes.push_back("“" + options.spots[i].label + "” gets all it needs in " +
                                 quantity::significant(spot.carriedShare * 100, 2) +
                                 " % of the houses like this one when everybody is on");
    }
    const bool each = std::all_of(plan.spots.begin(), plan.spots.end(), [&](const SpotResult& s) {
        return s.carriedShare >= options.share - sampling;
    });
    if (plan.carriesAll && each && plan.carriedShare < options.share - sampling)
        plan.notes.push_back("each need for itself is carried that surely; all of them at once in " +
                             quantity::significant(plan.carriedShare * 100, 2) +
                             " % of the houses like this one");
}

} // namespace metrodos::weigh
