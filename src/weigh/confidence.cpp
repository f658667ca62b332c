#include "weigh/confidence.h"

#include "capacity/sharing.h"
#include "quantity/draw.h"
#include "quantity/format.h"

#include <cmath>

namespace metrodos::weigh {

void estimateConfidence(const Options& options, Plan& plan, int houses) {
    struct Flow {
        std::size_t spot = 0;
        bool down = true;
        double demand = 0;
    };
    std::vector<Flow> flows;
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        const Need& need = options.spots[i].need;
        if (plan.spots[i].way < 0) continue;
        // What cannot be carried whole takes its share all the same, if only as much as it gets.
        if (need.down.bps() > 0) flows.push_back({i, true, need.down.bps()});
        if (need.up.bps() > 0) flows.push_back({i, false, need.up.bps()});
    }
    std::vector<double> demands;
    for (const Flow& flow : flows)
        demands.push_back(flow.demand);
    std::vector<int> met(plan.spots.size(), 0);
    for (int h = 0; h < houses; ++h) {
        std::map<std::string, capacity::Resource> resources;
        for (std::size_t f = 0; f < flows.size(); ++f) {
            const SpotOptions& spot = options.spots[flows[f].spot];
            const SpotWay& way = spot.way(plan.spots[flows[f].spot].way);
            for (const Passage& p : way.passages) {
                if (p.down != flows[f].down) continue;
                const double u = quantity::uniformOf(static_cast<std::uint64_t>(h) + 1,
                                                     spot.spot + "/" + way.key() + "/" + p.resource +
                                                         (p.down ? ">" : "<"));
                capacity::Resource& r = resources[p.resource];
                r.id = p.resource;
                r.label = p.label;
                r.loads.push_back({f, 1 / p.rate.quantile(std::min(std::max(u, 1e-4), 1 - 1e-4))});
            }
        }
        std::vector<capacity::Resource> list;
        for (auto& [id, r] : resources)
            list.push_back(std::move(r));
        const auto shares = capacity::maxMinShares(list, flows.size(), demands);
        std::vector<bool> all(plan.spots.size(), true);
        for (std::size_t f = 0; f < flows.size(); ++f)
            if (shares[f].bps < flows[f].demand * (1 - 1e-6)) all[flows[f].spot] = false;
        for (std::size_t i = 0; i < all.size(); ++i)
            met[i] += all[i] && plan.spots[i].way >= 0 ? 1 : 0;
    }
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        SpotResult& spot = plan.spots[i];
        spot.carriedShare = static_cast<double>(met[i]) / houses;
        // 200 houses tell a share to within three in a hundred.
        constexpr double sampling = 0.03;
        if (spot.carried && spot.carriedShare < options.share - sampling)
            plan.notes.push_back("“" + options.spots[i].label + "” gets all it needs in " +
                                 quantity::significant(spot.carriedShare * 100, 2) +
                                 " % of the houses like this one when everybody is on");
    }
}

} // namespace metrodos::weigh
