#include "weigh/as_practised.h"

#include "capacity/framing.h"
#include "capacity/mains_path.h"

#include <algorithm>

namespace metrodos::weigh {
namespace {

using namespace house;
using catalog::Catalog;
using catalog::WayMeans;

void ruleOut(SpotWay& way, const std::string& why) {
    if (way.isPossible()) way.ruledOut = why;
}

[[nodiscard]] bool isLaid(WayMeans means) {
    return means == WayMeans::new_own || means == WayMeans::new_hired || means == WayMeans::fibre;
}

// Neither a cable nor fibre: one road for all its users, or a phone pair.
[[nodiscard]] bool passesOtherThanCable(const SpotWay& way) {
    if (way.means == WayMeans::data || isLaid(way.means)) return false;
    if (way.means != WayMeans::as_is) return true;
    return std::any_of(way.passages.begin(), way.passages.end(), [](const Passage& p) {
        const auto medium = house::medium(p.resource);
        return medium && isShared(*medium);
    });
}

// The label of the first run of the way below category 6A; empty: none is, or none is known to be.
[[nodiscard]] std::string runBelow6A(const SpotWay& way, const Catalog& catalog) {
    if (way.route == nullptr) return {};
    const catalog::Phy& tenGigabit = catalog.phys.back();
    for (const Connection& c : way.route->house.connections) {
        const catalog::CableCategory* category =
            c.medium == Medium::data_cable ? catalog.cable(c.cableClass) : nullptr;
        if (category == nullptr) continue;
        // IEEE 802.3an promises 10GBASE-T over 100 m of category 6A, and less or nothing of those below.
        constexpr double channelMetres = 100;
        const auto reach = category->reach.find(tenGigabit.id);
        if (reach == category->reach.end() || reach->second.certain.inMetres() < channelMetres)
            return c.label + " (" + category->label + ")";
    }
    return {};
}

} // namespace

House withAllowedOutlets(const House& house, const Id& hubRoom, const Id& room) {
    House out = house;
    if (house.practices.mainsReach == MainsReach::any_outlet) return out;
    const auto isOnSharedCircuit = [&](const Jack& outlet) {
        const Circuit* circuit = capacity::circuitOf(house, outlet.id);
        const auto reaches = [&](const Id& where) {
            return std::any_of(circuit->outlets.begin(), circuit->outlets.end(), [&](const CircuitOutlet& o) {
                const Jack* jack = house.jack(o.jack);
                return jack != nullptr && jack->room == where;
            });
        };
        return circuit != nullptr && reaches(hubRoom) && reaches(room);
    };
    std::erase_if(out.jacks, [&](const Jack& j) {
        return j.kind == JackKind::mains && (j.room == hubRoom || j.room == room) && !isOnSharedCircuit(j);
    });
    return out;
}

void applyPractices(const House& house, const Catalog& catalog, SpotOptions& spot) {
    const Practices& practices = house.practices;
    for (SpotWay& way : spot.ways) {
        if (practices.wiring == Wiring::new_cable && passesOtherThanCable(way))
            ruleOut(way, "this job lays data cable everywhere");
        if (practices.wiring == Wiring::existing && isLaid(way.means))
            ruleOut(way, "this job uses the wiring that is there");
        // What 5GBASE-T carries needs no better cable.
        const catalog::Phy* belowTen =
            catalog.phys.size() < 2 ? nullptr : &catalog.phys[catalog.phys.size() - 2];
        if (practices.tenGigabit == TenGigabit::category_6a && belowTen != nullptr &&
            std::max(spot.need.down, spot.need.up) > capacity::goodput(belowTen->rate, {}))
            if (const std::string run = runBelow6A(way, catalog); !run.empty())
                ruleOut(way, "this job runs 10 Gbit/s over category 6A only, which " + run + " is not");
    }
    if (practices.adapters == AdapterChoice::by_need) return;
    for (SpotWay& way : spot.ways) {
        if (way.deviceClass.empty()) continue;
        const bool isHighest = std::none_of(spot.ways.begin(), spot.ways.end(), [&](const SpotWay& other) {
            return other.id == way.id && other.isPossible() && other.promise > way.promise;
        });
        if (!isHighest) ruleOut(way, "this job buys the highest class that the way can take");
    }
}

} // namespace metrodos::weigh
