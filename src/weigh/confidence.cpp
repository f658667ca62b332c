#include "weigh/confidence.h"

#include "capacity/contribution.h"
#include "capacity/sharing.h"
#include "quantity/format.h"
#include "weigh/tolerances.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace metrodos::weigh {
namespace {

static_assert(drawnHouses % capacity::drawsPerPath == 0);

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

// Of the plan's houses, those that give the spots all they need.
class Houses {
  public:
    Houses(const Options& options, const Plan& plan, DrawnWays& drawn)
        : m_options(options)
        , m_plan(plan)
        , m_demands(demandsOf(options))
        , m_flows(flowsOf(m_demands, plan))
        , m_draws(plan.spots.size(), nullptr) {
        for (const Flow& flow : m_flows)
            m_wanted.push_back(flow.demand);
        std::vector<const SpotWay*> ways;
        for (std::size_t i = 0; i < plan.spots.size(); ++i)
            if (plan.spots[i].way >= 0) {
                ways.push_back(&wayOf(i));
                m_draws[i] = &drawn.of(i, plan.spots[i].way);
            }
        m_lost = lostTime(ways);
    }

    /// Whether the n-th house gives each spot all it needs at once, and alone; with what may be wrong in it,
    /// or sound.
    [[nodiscard]] std::vector<bool> met(std::uint64_t n, bool isSound) const {
        std::map<std::string, capacity::Resource> resources;
        const auto load = [&](const std::string& id, const std::string& label, std::size_t flow,
                              double rate) {
            capacity::Resource& r = resources[id];
            r.id = id;
            r.label = label;
            r.loads.push_back({flow, 1 / rate});
        };
        for (std::size_t f = 0; f < m_flows.size(); ++f) {
            const std::size_t spot = m_flows[f].spot;
            const std::vector<Passage>& passages = wayOf(spot).passages;
            for (std::size_t k = 0; k < passages.size(); ++k)
                if (passages[k].down == m_flows[f].down)
                    load(passages[k].resource, passages[k].label, f, rateOf(spot, k, n, isSound));
            const auto& sold = m_flows[f].down ? m_options.service : m_options.serviceUp;
            if (m_flows[f].isService && sold)
                load(m_flows[f].down ? "service down" : "service up", "the service", f, sold->bps());
        }
        std::vector<capacity::Resource> list;
        for (auto& [id, r] : resources)
            list.push_back(std::move(r));
        const auto shares = capacity::maxMinShares(list, m_flows.size(), m_wanted);
        std::vector<bool> out(m_plan.spots.size(), true);
        // What is full to a billionth is full (capacity/sharing.cpp): to a flow of a thousandth of its rate
        // that is a millionth.
        constexpr double ofShares = 1e-6;
        for (std::size_t f = 0; f < m_flows.size(); ++f)
            if (shares[f].bps < m_flows[f].demand * (1 - ofShares)) out[m_flows[f].spot] = false;
        for (std::size_t i = 0; i < out.size(); ++i) {
            const bool any = m_plan.spots[i].way >= 0;
            out[i] = out[i] && m_plan.spots[i].isFed && (any || !m_options.spots[i].need.any()) &&
                     (!any || carriesAlone(i, n, isSound));
        }
        return out;
    }

  private:
    [[nodiscard]] const SpotWay& wayOf(std::size_t spot) const {
        return m_options.spots[spot].way(m_plan.spots[spot].way);
    }

    // Of the k-th passage of the spot's way.
    [[nodiscard]] double rateOf(std::size_t spot, std::size_t k, std::uint64_t n, bool isSound) const {
        const auto lost = m_lost.find(wayOf(spot).passages[k].resource);
        const std::vector<double>& rates = isSound ? m_draws[spot]->sound : m_draws[spot]->found;
        return rates[k * drawnHouses + n] * (lost == m_lost.end() ? 1 : std::max(0.01, 1 - lost->second));
    }

    // Whether a spot's way carries its whole need when nobody else does anything.
    [[nodiscard]] bool carriesAlone(std::size_t spot, std::uint64_t n, bool isSound) const {
        const std::vector<Passage>& passages = wayOf(spot).passages;
        const Rates& alone = m_demands[spot].alone;
        std::map<std::string_view, double> taken;
        for (std::size_t k = 0; k < passages.size(); ++k)
            taken[passages[k].resource] += alone.of(passages[k].down) / rateOf(spot, k, n, isSound);
        for (const bool down : {true, false})
            if (const std::vector<double>& whole = m_draws[spot]->whole[down ? 1 : 0]; !whole.empty())
                taken[down ? "whole down" : "whole up"] = alone.of(down) / whole[n];
        return std::all_of(taken.begin(), taken.end(),
                           [](const auto& one) { return !exceeds(one.second, 1); });
    }

    const Options& m_options;
    const Plan& m_plan;
    std::vector<Demand> m_demands;
    std::vector<Flow> m_flows;
    std::vector<const DrawnWays::Draws*> m_draws; // by spot; nullptr: it has no way
    std::vector<double> m_wanted;
    std::map<std::string, double> m_lost; // lostTime
};

std::string percent(double share) {
    return quantity::significant(share * 100, 2) + " %";
}

} // namespace

const DrawnWays::Draws& DrawnWays::of(std::size_t spot, int way) {
    const auto [it, isNew] = m_ways.try_emplace({spot, way});
    Draws& out = it->second;
    if (!isNew) return out;
    const SpotOptions& options = m_options.spots[spot];
    const SpotWay& drawn = options.way(way);
    for (const Passage& p : drawn.passages) {
        const std::string name = options.spot + "/" + drawn.key() + "/" + p.resource;
        // What was measured over the way goes through, whatever else is wrong with it.
        const auto& measured = p.down ? drawn.measuredDown : drawn.measuredUp;
        const double proven = measured ? measured->bps() : 0;
        for (std::uint64_t n = 0; n < drawnHouses; ++n) {
            const double sound = p.rate.drawn(n, name);
            out.sound.push_back(sound);
            out.found.push_back(std::min(sound, std::max(leftBy(p.risks, n), proven)));
        }
    }
    for (const bool down : {true, false})
        if (const auto& whole = down ? drawn.wholeDown : drawn.wholeUp)
            for (std::uint64_t n = 0; n < drawnHouses; ++n)
                out.whole[down ? 1 : 0].push_back(whole->drawn(n, options.spot));
    return out;
}

void estimateConfidence(const Options& options, Plan& plan) {
    DrawnWays drawn(options);
    estimateConfidence(options, plan, drawn);
}

void estimateConfidence(const Options& options, Plan& plan, DrawnWays& drawn) {
    const Houses houses(options, plan, drawn);
    std::vector<int> met(plan.spots.size(), 0);
    std::vector<int> metSound = met;
    int allMet = 0;
    int allMetSound = 0;
    const auto count = [](const std::vector<bool>& of, std::vector<int>& spots, int& all) {
        for (std::size_t i = 0; i < of.size(); ++i)
            spots[i] += of[i] ? 1 : 0;
        all += std::all_of(of.begin(), of.end(), [](bool one) { return one; }) ? 1 : 0;
    };
    for (std::uint64_t n = 0; n < drawnHouses; ++n) {
        count(houses.met(n, true), metSound, allMetSound);
        count(houses.met(n, false), met, allMet);
    }
    plan.carriedShare = static_cast<double>(allMet) / drawnHouses;
    plan.soundShare = static_cast<double>(allMetSound) / drawnHouses;
    // A path has 64 draws, which tell a share near nine tenths to within four in a hundred.
    constexpr double sampling = 0.04;
    const auto isSure = [&](double share) { return share >= options.share - sampling; };
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        SpotResult& spot = plan.spots[i];
        spot.carriedShare = static_cast<double>(met[i]) / drawnHouses;
        spot.soundShare = static_cast<double>(metSound[i]) / drawnHouses;
        if (spot.isMet() && !isSure(spot.soundShare))
            plan.notes.push_back("“" + options.spots[i].label + "” gets all it needs in " +
                                 percent(spot.soundShare) +
                                 " of the houses like this one when everybody is on and nothing is wrong");
    }
    const bool each = std::all_of(plan.spots.begin(), plan.spots.end(),
                                  [&](const SpotResult& s) { return isSure(s.soundShare); });
    if (plan.carriesAll && each && !isSure(plan.soundShare))
        plan.notes.push_back("each need for itself is carried that surely; all of them at once in " +
                             percent(plan.soundShare) +
                             " of the houses like this one in which nothing is wrong");
}

} // namespace metrodos::weigh
