#include "weigh/program.h"

#include <algorithm>
#include <cmath>
#include <glpk.h>
#include <memory>
#include <set>

namespace metrodos::weigh {
namespace {

constexpr double noWayPenalty = 3; // worse than any way that falls short
constexpr double rateUnit = 1e8;   // bit/s; keeps the coefficients near 1, which GLPK wants

struct Destroy {
    void operator()(glp_prob* problem) const { glp_delete_prob(problem); }
};

// Coefficients by column.
using Row = std::map<int, double>;

// The programme: for each spot one column for each way that carries its need (x), one for each way as far as
// it goes (u), one for none; shared parts (y), ports of shared adapters by rate (g), hubs (h), pieces to buy
// (b), the fullest load (s).
class Program {
  public:
    Program(const Options& options, const Prices& prices, double mostLoad)
        : m_options(options)
        , m_prices(prices)
        , m_problem(glp_create_prob()) {
        m_load = column(0, mostLoad, false);
        for (std::size_t i = 0; i < options.spots.size(); ++i)
            addSpot(i);
        addHub();
        addLoads();
        addShared();
        addPurchases();
        m_goals[Goal::load] = {{m_load, 1}};
    }

    quantity::Result<Solved> solve(const Asked& asked, const std::stop_token& stop) {
        Solved out;
        for (const Goal goal : asked.goals) {
            for (int j = 1; j <= glp_get_num_cols(m_problem.get()); ++j)
                glp_set_obj_coef(m_problem.get(), j, 0);
            const Row& row = m_goals[goal];
            for (const auto& [j, a] : row)
                glp_set_obj_coef(m_problem.get(), j, a);
            glp_set_obj_dir(m_problem.get(), GLP_MIN);
            const auto gap = run(asked.seconds, stop);
            if (!gap) return tl::unexpected(gap.error());
            out.gap = *gap;
            // What was reached stays, but for what a sum of doubles may be off.
            const double value = glp_mip_obj_val(m_problem.get());
            constexpr double slack = 1e-6;
            if (!row.empty()) rowOf(row, GLP_UP, 0, value + slack * std::max(1.0, std::fabs(value)));
        }
        for (const auto& spot : m_picks) {
            Pick pick{-1, false};
            for (const Column& c : spot)
                if (glp_mip_col_val(m_problem.get(), c.index) > 0.5) pick = {c.way, c.carried};
            out.picks.push_back(pick);
        }
        return out;
    }

  private:
    struct Column {
        int index = 0;
        int way = -1;
        bool carried = false;
    };

    int column(double low, double high, bool whole) {
        const int j = glp_add_cols(m_problem.get(), 1);
        glp_set_col_bnds(m_problem.get(), j, low < high ? GLP_DB : GLP_FX, low, high);
        if (whole) glp_set_col_kind(m_problem.get(), j, GLP_IV);
        return j;
    }
    int binary() { return column(0, 1, true); }
    void rowOf(const Row& row, int kind, double low, double high) {
        const int i = glp_add_rows(m_problem.get(), 1);
        glp_set_row_bnds(m_problem.get(), i, kind, low, high);
        std::vector<int> indices{0};
        std::vector<double> values{0};
        for (const auto& [j, a] : row)
            if (a != 0) {
                indices.push_back(j);
                values.push_back(a);
            }
        glp_set_mat_row(m_problem.get(), i, static_cast<int>(indices.size()) - 1, indices.data(),
                        values.data());
    }

    void addSpot(std::size_t i) {
        const SpotOptions& spot = m_options.spots[i];
        auto& columns = m_picks.emplace_back();
        Row one;
        for (std::size_t w = 0; w < spot.ways.size(); ++w) {
            const SpotWay& way = spot.ways[w];
            if (!way.isPossible() || (!spot.pin.empty() && way.id != spot.pin)) continue;
            const double share = carriedBy(way, spot.need, m_options);
            for (const bool carried : {true, false}) {
                if (carried && share < 1 - 1e-9) continue;
                if (!carried && !spot.need.any()) continue;
                const int j = binary();
                columns.push_back({j, static_cast<int>(w), carried});
                one[j] = 1;
                m_goals[Goal::carry][j] = carried ? 0 : 1 + (1 - std::min(share, 1.0));
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
                    for (const Passage& p : way.passages)
                        m_loads[p.resource][j] += (p.down ? spot.need.down : spot.need.up).bps() /
                                                  p.rate.quantile(1 - m_options.share);
                const double needed = carried ? portNeeded(spot.need).bps() / rateUnit : 0;
                if (way.hubShare.empty())
                    m_ports.push_back({needed, j});
                else
                    m_adapters[way.hubShare].push_back({needed, j});
                if (carried) m_down[j] = spot.need.down.bps() / rateUnit;
            }
        }
        const int none = binary();
        columns.push_back({none, -1, false});
        one[none] = 1;
        m_goals[Goal::carry][none] = noWayPenalty;
        rowOf(one, GLP_FX, 1, 1);
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
                if (row.size() > 1) rowOf(row, GLP_UP, 0, 0);
            }
        }
    }

    void addLoads() {
        for (const auto& [resource, loads] : m_loads) {
            Row row = loads;
            row[m_load] = -1;
            rowOf(row, GLP_UP, 0, 0);
        }
    }

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
        rowOf(one, GLP_FX, 1, 1);
        // A need takes a port of the slowest rate that is enough for it.
        const auto atLeast = [&](double needed) {
            const auto it = rates.lower_bound(needed);
            return it == rates.end() ? std::numeric_limits<double>::infinity() : *it;
        };
        std::map<double, Row> wanting; // by least rate
        for (const auto& [needed, j] : m_ports)
            wanting[needed > 0 ? atLeast(needed) : 0][j] += 1;
        for (const auto& [key, users] : m_adapters) {
            // One port of some rate carries all that the adapter passes on.
            Row carries;
            Row chosen;
            for (const double rate : rates) {
                const int g = binary();
                wanting[rate][g] += 1;
                carries[g] = -rate;
                chosen[g] = 1;
            }
            for (const auto& [needed, j] : users)
                carries[j] += needed;
            rowOf(carries, GLP_UP, 0, 0);
            rowOf(chosen, GLP_UP, 0, 1);
            for (const auto& [needed, j] : users) {
                Row there = chosen;
                for (auto& [g, a] : there)
                    a = -1;
                there[j] = 1;
                rowOf(there, GLP_UP, 0, 0);
            }
        }
        if (const auto never = wanting.find(std::numeric_limits<double>::infinity()); never != wanting.end())
            for (const auto& [j, a] : never->second)
                glp_set_col_bnds(m_problem.get(), j, GLP_FX, 0, 0);
        for (const double rate : rates) {
            Row row;
            for (const auto& [least, users] : wanting)
                if (least >= rate)
                    for (const auto& [j, a] : users)
                        row[j] += a;
            for (std::size_t k = 0; k < hubs.size(); ++k)
                row[m_hubs[k]] -=
                    portsFrom(hubs[k].ports, quantity::BitRate::bitsPerSecond(rate * rateUnit * (1 - 1e-9)));
            rowOf(row, GLP_UP, 0, 0);
        }
        // Everything that the switch brings comes over its uplink, unless the service itself is slower than
        // that.
        if (m_options.service && *m_options.service <= m_options.uplink) return;
        double most = 0;
        for (const auto& [j, down] : m_down)
            most += down;
        Row row = m_down;
        for (std::size_t k = 0; k < hubs.size(); ++k)
            if (!hubs[k].bought.empty()) row[m_hubs[k]] = most;
        rowOf(row, GLP_UP, 0, m_options.uplink.bps() / rateUnit + most);
    }

    // What is in the van costs nothing more.
    void addPurchases() {
        for (const auto& [item, counts] : m_counts) {
            constexpr double plenty = 1e7;
            const int b = column(0, plenty, false);
            Row row = counts;
            row[b] = -1;
            rowOf(row, GLP_UP, 0, m_prices.stock(item));
            m_goals[Goal::cost][b] = m_prices.of(item).inUnits();
        }
    }

    struct Watch {
        const std::stop_token& stop;
        double gap = 0;
    };
    static void callback(glp_tree* tree, void* info) {
        auto* watch = static_cast<Watch*>(info);
        if (watch->stop.stop_requested()) glp_ios_terminate(tree);
        watch->gap = glp_ios_mip_gap(tree);
    }

    // Solves for the objective that is set; the gap that is left.
    quantity::Result<double> run(double seconds, const std::stop_token& stop) {
        glp_term_out(GLP_OFF);
        Watch watch{stop};
        glp_iocp settings;
        glp_init_iocp(&settings);
        settings.presolve = GLP_ON;
        settings.msg_lev = GLP_MSG_OFF;
        settings.tm_lim = static_cast<int>(seconds * 1000);
        settings.mir_cuts = GLP_ON;
        settings.cov_cuts = GLP_ON;
        settings.cb_func = &callback;
        settings.cb_info = &watch;
        const int ended = glp_intopt(m_problem.get(), &settings);
        const int status = glp_mip_status(m_problem.get());
        if (stop.stop_requested())
            return quantity::problem("weighing was stopped", "", "start it again when you like");
        if (status == GLP_OPT) return 0.0;
        if (status == GLP_FEAS && (ended == GLP_ETMLIM || ended == GLP_EMIPGAP))
            return std::isfinite(watch.gap) ? watch.gap : 1.0;
        if (ended == GLP_ETMLIM)
            return quantity::problem("no plan was found in time", "",
                                     "pin the ways of some spots, or drop some needs");
        return quantity::problem("no plan is possible", "", "take away pins, or allow holes");
    }

    const Options& m_options;
    const Prices& m_prices;
    std::unique_ptr<glp_prob, Destroy> m_problem;
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
    std::vector<std::pair<double, int>> m_ports; // needed rate and column
    std::map<std::string, std::vector<std::pair<double, int>>> m_adapters;
    Row m_down;
    std::vector<int> m_hubs;
};

} // namespace

quantity::Result<Solved> solve(const Options& options, const Prices& prices, const Asked& asked,
                               const std::stop_token& stop) {
    return Program(options, prices, std::min(asked.mostLoad, 1.0)).solve(asked, stop);
}

} // namespace metrodos::weigh
