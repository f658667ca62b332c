// Why an integer programme and not rules or a search: choices are coupled by shared parts, ports at the hub
// and media, so that the best way to each spot by itself need not make the best house; and the solver says
// how far from the best its answer can be (the gap), which a search cannot. Objectives are met one after the
// other, each held before the next (lexicographic), since cost and holes have no common unit. Branch and
// bound is exponential at the worst; it begins from the local search's choice (weigh/local_search.h) and ends
// at a time limit with the gap that is left. src/weigh/plan.cpp works out a choice without it, so that each
// checks the other.
#include "weigh/program.h"

#include "weigh/integer_program.h"
#include "weigh/tolerances.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace metrodos::weigh {
namespace {

constexpr double highestLoad = 1e4; // more is wanted than anything carries
constexpr double carrySlack = 1e-5; // of a sum that was reached before
constexpr double rateUnit = 1e8;    // bit/s; keeps the coefficients near 1, which the solver wants

// The programme for CBC: for each spot one column for each way that carries its need (x), one for each way as
// far as it goes (u), one for none; shared parts (y), ports of shared adapters by rate (g), hubs (h), pieces
// to buy (b). Needs are carried by what their other ends can give; where headroom is asked for, also the
// fullest load by what is wanted (s), and which wire takes a port of which rate (z).
class Program {
  public:
    Program(const Options& options, const Prices& prices, const SolveRequest& request)
        : m_options(options)
        , m_prices(prices)
        , m_demands(demandsOf(options))
        , m_maxLoad(request.maxLoad)
        , m_byLoad(std::find(request.goals.begin(), request.goals.end(), Goal::load) != request.goals.end()) {
        m_load = column(0, std::min(m_maxLoad, highestLoad), false);
        for (std::size_t i = 0; i < options.spots.size(); ++i)
            addSpot(i);
        addHub();
        addDisturbance();
        addLoads();
        addShared();
        addHubBoxes();
        addPurchases();
        m_goals[Goal::load] = {{m_load, 1}};
    }

    quantity::Result<Solution> solve(const SolveRequest& request, const std::stop_token& stop) {
        Solution out;
        // The choice of another goal may have been found in other columns: then its ways are where to begin.
        const std::vector<Pick>& near = request.start != nullptr ? request.start->picks : request.near;
        const bool isNear = near.size() == m_picks.size();
        if ((request.start == nullptr || !m_program.begin(request.start->values)) && isNear)
            beginNear(near, request.seconds, stop);
        out.carryGap = request.carryGap;
        for (const Goal goal : request.goals) {
            if (goal == Goal::carry && request.uncarried) {
                rowOf(m_goals[goal], 'L', *request.uncarried + carrySlack);
                continue;
            }
            const Row& row = m_goals[goal];
            const auto gap = m_program.minimise(row, request.seconds, stop);
            // The choice that the search was to begin from is a plan without it.
            if (!gap && isNear && !stop.stop_requested())
                return Solution{near, uncarriedOf(m_options, near), {}, 1, 1};
            if (!gap) return tl::unexpected(gap.error());
            out.gap = std::max(out.gap, *gap);
            if (goal == Goal::carry) out.carryGap = *gap;
            // What was reached stays, but for what a sum of doubles may be off.
            const double value = m_program.value(row);
            constexpr double slack = 1e-6;
            if (!row.empty()) rowOf(row, 'L', value + slack * std::max(1.0, std::fabs(value)));
        }
        out.gap = std::max(out.gap, out.carryGap);
        out.uncarried = m_program.value(m_goals[Goal::carry]);
        out.values = m_program.values();
        for (const auto& spot : m_picks) {
            Pick pick{-1, false};
            for (const Column& c : spot)
                if (m_program.value(c.index) > 0.5) pick = {c.way, c.carried};
            out.picks.push_back(pick);
        }
        return out;
    }

  private:
    // Ways as they are chosen; the solver completes the rest, which is little.
    void beginNear(const std::vector<Pick>& picks, double seconds, const std::stop_token& stop) {
        std::vector<IntegerProgram::Column>& columns = m_program.columns();
        const std::vector<IntegerProgram::Column> free = columns;
        for (std::size_t i = 0; i < picks.size(); ++i)
            for (const Column& c : m_picks[i])
                if (Pick{c.way, c.carried} == picks[i])
                    columns[static_cast<std::size_t>(c.index)].low = 1;
                else
                    columns[static_cast<std::size_t>(c.index)].high = 0;
        (void)m_program.minimise(m_goals[Goal::cost], seconds,
                                 stop); // fails: then the search begins anywhere
        columns = free;
    }

    // Who takes a port at the hub; rates in rateUnit.
    struct PortUser {
        int column = 0;
        std::size_t spot = 0;
        Rates atOnce;
        Rates wantedAtOnce;
        double alone = 0;
        double wanted = 0;
    };
    struct Column {
        int index = 0;
        int way = -1;
        bool carried = false;
    };

    int column(double low, double high, bool whole) { return m_program.add({low, high, whole}); }
    int binary() { return m_program.add({}); }
    void rowOf(const Row& row, char sense, double bound) { m_program.bound(row, sense, bound); }

    void addSpot(std::size_t i) {
        const SpotOptions& spot = m_options.spots[i];
        auto& columns = m_picks.emplace_back();
        Row one;
        for (std::size_t w = 0; w < spot.ways.size(); ++w) {
            const SpotWay& way = spot.ways[w];
            if (!spot.mayTake(way)) continue;
            const double share = carriedBy(way, spot, m_options);
            const Demand& demand = m_demands[i];
            for (const bool carried : {true, false}) {
                if (carried && fallsShort(share, 1)) continue;
                if (!carried && !spot.need.any()) continue;
                const int j = binary();
                columns.push_back({j, static_cast<int>(w), carried});
                one[j] = 1;
                m_goals[Goal::carry][j] = uncarriedOf(spot, m_options, {columns.back().way, carried});
                m_goals[Goal::unsteady][j] = 1 - way.steadiness;
                m_goals[Goal::holes][j] = way.holes;
                m_goals[Goal::decay][j] = 1 / std::max(way.years, 1.0);
                m_counts["labour"][j] += way.minutes / 60;
                shared("once " + way.id, {"labour", way.minutesOnce / 60, ""}, j);
                for (const PartUse& part : way.parts)
                    if (part.shared.empty())
                        m_counts[part.item][j] += part.count;
                    else
                        shared(part.shared, part, j);
                if (carried)
                    for (const Passage& p : way.passages) {
                        const double rate = p.rate.quantile(1 - m_options.share);
                        const double node = p.down ? p.perNode : 0;
                        m_loads[p.resource][j] += demand.atOnce.of(p.down) / rate + node;
                        m_wanted[p.resource][j] +=
                            (p.isOwn ? demand.wanted : demand.wantedAtOnce).of(p.down) / rate + node;
                        m_firstNode[p.resource] = std::max(m_firstNode[p.resource], node);
                        if (p.lostToOthers > 0 && p.down) {
                            m_lostToOthers[p.resource] = p.lostToOthers;
                            m_languages[p.resource][p.language][i][j] = 1;
                        }
                    }
                PortUser user{j, i, {}, {}, 0, 0};
                if (carried)
                    user = {j,
                            i,
                            inUnits(demand.atOnce),
                            inUnits(demand.wantedAtOnce),
                            demand.alone.larger() / rateUnit,
                            demand.wanted.larger() / rateUnit};
                if (way.takesPort && way.hubShare.empty())
                    m_ports.push_back(user);
                else if (way.takesPort)
                    m_adapters[way.hubShare].push_back(user);
                if (carried) addCrossing(j, way, demand);
            }
        }
        const int none = binary();
        columns.push_back({none, -1, false});
        one[none] = 1;
        m_goals[Goal::carry][none] = uncarriedOf(spot, m_options, {-1, false});
        rowOf(one, 'E', 1);
    }

    void shared(const std::string& key, const PartUse& part, int user) {
        auto& entry = m_shared[key];
        entry.part = part;
        entry.users.push_back(user);
    }

    // The columns of a spot exclude each other, so that one row a spot and key is enough, and tighter.
    void addShared() {
        for (const auto& [key, entry] : m_shared) {
            const int y = binary();
            m_counts[entry.part.item][y] += entry.part.count;
            const std::set<int> users(entry.users.begin(), entry.users.end());
            for (const auto& spot : m_picks) {
                Row row{{y, -1}};
                for (const Column& c : spot)
                    if (users.contains(c.index)) row[c.index] = 1;
                if (row.size() > 1) rowOf(row, 'L', 0);
            }
        }
    }

    // Of the boxes at the hub one that is good for the way; those of a spot exclude each other, so that what
    // takes a choice of boxes, or a part of it, is one row.
    void addHubBoxes() {
        std::map<std::pair<std::string, std::string>, int> bought; // by key and item
        const auto columnOf = [&](const std::string& key, const std::string& item) {
            const auto [it, isNew] = bought.try_emplace({key, item}, 0);
            if (isNew) {
                it->second = binary();
                m_counts[item][it->second] += 1;
            }
            return it->second;
        };
        for (std::size_t i = 0; i < m_picks.size(); ++i) {
            std::map<std::pair<std::string, std::set<std::string>>, std::vector<int>> users;
            for (const Column& c : m_picks[i]) {
                if (c.way < 0) continue;
                const SpotWay& way = m_options.spots[i].way(c.way);
                if (!way.hubBox.empty())
                    users[{way.hubShare, {way.hubBox.begin(), way.hubBox.end()}}].push_back(c.index);
            }
            for (const auto& [choice, unused] : users) {
                Row row;
                for (const std::string& item : choice.second)
                    row[columnOf(choice.first, item)] = -1;
                for (const auto& [other, columns] : users)
                    if (other.first == choice.first &&
                        std::includes(choice.second.begin(), choice.second.end(), other.second.begin(),
                                      other.second.end()))
                        for (const int j : columns)
                            row[j] = 1;
                rowOf(row, 'L', 0);
            }
        }
    }

    [[nodiscard]] static Rates inUnits(const Rates& rates) {
        return {rates.down / rateUnit, rates.up / rateUnit};
    }

    // What passes the uplink of a switch that is bought, by what is given and by what is wanted.
    void addCrossing(int column, const SpotWay& way, const Demand& demand) {
        const UplinkPart given = uplinkPartOf(way, demand);
        const UplinkPart wanted = uplinkPartOf(way, demand.ifAllWereGiven());
        for (const bool down : {true, false}) {
            m_crossing[{down, false}][column] = given.always.of(down) / rateUnit;
            m_crossing[{down, true}][column] = (given.always.of(down) + given.apart.of(down)) / rateUnit;
            m_wantedCrossing[{down, false}][column] = wanted.always.of(down) / rateUnit;
            m_wantedCrossing[{down, true}][column] =
                (wanted.always.of(down) + wanted.apart.of(down)) / rateUnit;
        }
        if (given.isInside) m_inside[column] = 1;
    }

    // Two families of adapters on one medium take time from each other: z ≥ u_a + u_b − 1, where u is 1 as
    // soon as one spot uses the family.
    void addDisturbance() {
        for (const auto& [resource, languages] : m_languages) {
            if (languages.size() < 2) continue;
            std::vector<int> used;
            for (const auto& [language, spots] : languages) {
                used.push_back(binary());
                for (const auto& [spot, columns] : spots) {
                    Row row = columns;
                    row[used.back()] = -1;
                    rowOf(row, 'L', 0);
                }
            }
            const int both = binary();
            for (std::size_t a = 0; a < used.size(); ++a)
                for (std::size_t b = a + 1; b < used.size(); ++b)
                    rowOf({{used[a], 1}, {used[b], 1}, {both, -1}}, 'L', 1);
            m_loads[resource][both] += m_lostToOthers[resource];
            m_wanted[resource][both] += m_lostToOthers[resource];
        }
    }

    void addLoads() {
        // The first spot on a medium is one of the two nodes that the rate is of.
        for (const auto& [resource, loads] : m_loads)
            rowOf(loads, 'L', 1 + m_firstNode[resource]);
        if (!isLoadBound()) return;
        for (const auto& [resource, loads] : m_wanted) {
            Row row = loads;
            row[m_load] = -1;
            rowOf(row, 'L', m_firstNode[resource]);
        }
    }
    // Whether headroom is a goal or has a bound.
    [[nodiscard]] bool isLoadBound() const { return m_byLoad || std::isfinite(m_maxLoad); }

    // Ports of at least each rate must be enough for what needs at least it.
    void addHub() {
        const std::vector<Hub> hubs = hubsOf(m_options, m_prices);
        Row one;
        std::set<double> rates{0};
        for (const Hub& hub : hubs) {
            const int h = binary();
            m_hubs.push_back(h);
            one[h] = 1;
            for (const int k : hub.bought)
                m_counts[m_options.offers[static_cast<std::size_t>(k)].item][h] += 1;
            for (const Ports& p : hub.ports)
                rates.insert(p.goodput.bps() / rateUnit);
        }
        rowOf(one, 'E', 1);
        // A need takes a port of the slowest rate that is enough for it.
        const auto atLeast = [&](double needed) {
            const auto it = rates.lower_bound(needed);
            return it == rates.end() ? std::numeric_limits<double>::infinity() : *it;
        };
        const auto must = [&](const PortUser& user) { return std::max(user.alone, user.wanted / m_maxLoad); };
        std::map<double, Row> wanting; // by least rate
        if (m_byLoad)
            addPortsByRate(rates, wanting);
        else
            for (const PortUser& user : m_ports)
                wanting[must(user) > 0 ? atLeast(eased(must(user))) : 0][user.column] += 1;
        for (const auto& [key, users] : m_adapters)
            addAdapterPort(users, rates, wanting);
        if (const auto never = wanting.find(std::numeric_limits<double>::infinity()); never != wanting.end())
            for (const auto& [j, a] : never->second)
                m_program.columns()[static_cast<std::size_t>(j)].high = 0;
        for (const double rate : rates) {
            Row row;
            for (const auto& [least, users] : wanting)
                if (least >= rate)
                    for (const auto& [j, a] : users)
                        row[j] += a;
            for (std::size_t k = 0; k < hubs.size(); ++k)
                row[m_hubs[k]] -=
                    portsFrom(hubs[k].ports, quantity::BitRate::bitsPerSecond(eased(rate * rateUnit)));
            rowOf(row, 'L', 0);
        }
        addUplink(hubs);
    }

    // Which rate of port the wire of a spot takes decides its headroom.
    void addPortsByRate(const std::set<double>& rates, std::map<double, Row>& wanting) {
        std::map<std::size_t, std::vector<const PortUser*>> bySpot;
        for (const PortUser& user : m_ports)
            bySpot[user.spot].push_back(&user);
        for (const auto& [spot, users] : bySpot) {
            Row one;
            double alone = 0;
            double wanted = 0;
            for (const PortUser* user : users) {
                one[user->column] = 1;
                alone = std::max(alone, user->alone);
                wanted = std::max(wanted, user->wanted);
            }
            Row carries;
            for (const double rate : rates) {
                const int z = binary();
                wanting[rate][z] += 1;
                one[z] = -1;
                carries[z] = -rate;
                if (rate > 0) rowOf({{z, wanted / rate}, {m_load, -1}}, 'L', 0);
            }
            for (const PortUser* user : users)
                carries[user->column] = eased(user->alone);
            rowOf(one, 'L', 0);
            rowOf(carries, 'L', 0);
            // A wire that carries nothing it is held to may take any port; the slowest of them bounds nothing
            // then.
        }
    }

    // One port of some rate carries all that an adapter passes on.
    void addAdapterPort(const std::vector<PortUser>& users, const std::set<double>& rates,
                        std::map<double, Row>& wanting) {
        Row chosen;
        Row rate;
        for (const double r : rates) {
            const int g = binary();
            wanting[r][g] += 1;
            rate[g] = -r;
            chosen[g] = 1;
            if (!isLoadBound() || r <= 0) continue;
            // Where this rate is chosen, what is wanted bounds the headroom.
            for (const bool down : {true, false}) {
                Row load{{m_load, -1}};
                double most = 0;
                for (const PortUser& user : users) {
                    load[user.column] += user.wantedAtOnce.of(down) / r;
                    most += user.wantedAtOnce.of(down) / r;
                }
                load[g] += most;
                rowOf(load, 'L', most);
            }
            for (const PortUser& user : users)
                rowOf({{user.column, user.wanted / r}, {g, user.wanted / r}, {m_load, -1}}, 'L',
                      user.wanted / r);
        }
        for (const bool down : {true, false}) {
            Row carries = rate;
            for (const PortUser& user : users)
                carries[user.column] += user.atOnce.of(down);
            rowOf(carries, 'L', 0);
        }
        rowOf(chosen, 'L', 1);
        for (const PortUser& user : users) {
            Row there = rate; // fast enough for each by itself
            there[user.column] = eased(user.alone);
            rowOf(there, 'L', 0);
            Row some = chosen;
            for (auto& [g, a] : some)
                a = -1;
            some[user.column] = 1;
            rowOf(some, 'L', 0);
        }
    }

    // What a switch that is bought brings comes over its uplink, but for traffic in the house whose ends lie
    // on it.
    void addUplink(const std::vector<Hub>& hubs) {
        const double uplink = m_options.uplink.bps() / rateUnit;
        for (const bool apart : {false, true})
            for (const bool down : {true, false}) {
                Row row = m_crossing[{down, apart}];
                Row wanted = m_wantedCrossing[{down, apart}];
                double most = 0;
                double mostWanted = 0;
                for (const auto& [j, a] : row)
                    most += a;
                for (const auto& [j, a] : wanted)
                    mostWanted += a;
                if (mostWanted <= 0) continue;
                for (std::size_t k = 0; k < hubs.size(); ++k)
                    if (!hubs[k].bought.empty() && (hubs[k].together == 0) == apart) {
                        row[m_hubs[k]] = most;
                        wanted[m_hubs[k]] = mostWanted;
                    }
                rowOf(row, 'L', uplink + most);
                if (!isLoadBound()) continue;
                wanted[m_load] = -uplink;
                rowOf(wanted, 'L', mostWanted);
            }
        if (m_inside.empty()) return;
        for (std::size_t k = 0; k < hubs.size(); ++k) {
            if (hubs[k].together == 0) continue;
            Row row = m_inside;
            const auto most = static_cast<double>(m_inside.size());
            row[m_hubs[k]] = most;
            rowOf(row, 'L', hubs[k].together + most);
        }
    }

    // What is in the van costs nothing more.
    void addPurchases() {
        for (const auto& [item, counts] : m_counts) {
            constexpr double plenty = 1e7;
            const int b = column(0, plenty, false);
            Row row = counts;
            row[b] = -1;
            rowOf(row, 'L', m_prices.stock(item));
            m_goals[Goal::cost][b] = m_prices.of(item).inUnits();
        }
    }

    const Options& m_options;
    const Prices& m_prices;
    std::vector<Demand> m_demands;
    double m_maxLoad;
    bool m_byLoad; // headroom is a goal
    IntegerProgram m_program;
    int m_load = 0;
    std::vector<std::vector<Column>> m_picks;
    std::map<Goal, Row> m_goals;
    std::map<std::string, Row> m_counts; // pieces by item
    struct SharedPart {
        PartUse part;
        std::vector<int> users;
    };
    std::map<std::string, SharedPart> m_shared;
    std::map<std::string, Row> m_loads;
    std::map<std::string, double> m_firstNode; // Passage::perNode
    std::map<std::string, double> m_lostToOthers;
    std::map<std::string, std::map<std::string, std::map<std::size_t, Row>>>
        m_languages; // the columns of each language of a medium, by spot
    std::vector<PortUser> m_ports;
    std::map<std::string, std::vector<PortUser>> m_adapters;
    std::map<std::string, Row> m_wanted; // as m_loads, by what is wanted
    using Way = std::pair<bool, bool>;   // towards the spots; ends in the house lie apart
    std::map<Way, Row> m_crossing;
    std::map<Way, Row> m_wantedCrossing;
    Row m_inside;
    std::vector<int> m_hubs;
};

} // namespace

quantity::Result<Solution> solve(const Options& options, const Prices& prices, const SolveRequest& request,
                                 const std::stop_token& stop) {
    return Program(options, prices, request).solve(request, stop);
}

} // namespace metrodos::weigh
