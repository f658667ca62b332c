// Why particles and not a chain that walks from state to state (Markov chain Monte Carlo): runs come one by
// one and each is to say what it changed, which a sequence gives for nothing; and the ceilings that held no
// run back need not be drawn at all, as their truncated beliefs are known in closed form (Rao-Blackwellised
// particle filtering: Doucet, de Freitas, Murphy and Russell 2000). Summing over which unknown held which run
// would be exact and costs unknowns to the power of runs. New particles are drawn systematically (Kitagawa
// 1996): one random number, and no more variance than independent draws in practice. The formula stands in
// docs/models.md. Cost: particles × runs × unknowns on their routes.
#include "trace/posterior.h"

#include "trace/tolerances.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>
#include <random>

namespace metrodos::trace {
namespace {

constexpr double none = -std::numeric_limits<double>::infinity();

bool open(double x) { // a value not fixed yet
    return std::isnan(x);
}

// The density of ln(measured ÷ least ceiling) at d.
double reach(double d, double below, double above) {
    constexpr double norm = 0.7978845608028654; // sqrt(2 / pi)
    const double sd = d < 0 ? below : above;
    const double z = d / sd;
    return std::fabs(z) > maxDeviations ? 0 : norm / (below + above) * std::exp(-0.5 * z * z);
}

double chance(const std::optional<bool>& sign, double p) {
    return sign ? (*sign ? p : 1 - p) : 1;
}

// The same of a sign that is more or less there: `share` of 1 is a plain yes.
double chance(double share, double p) {
    return p * share + (1 - p) * (1 - share);
}

// How much a figure is a yes: half at `at`, and the nearer to 1 the further above.
double softly(double figure, double at, double sharpness) {
    return figure <= 0 ? 0 : 1 / (1 + std::pow(at / figure, sharpness));
}

// How likely the signs of a run are when this state of this unknown held it back.
double symptomChance(const Symptoms& symptoms, const Unknown& unknown, const catalog::Signature& s,
                     int sense) {
    constexpr double otherCore = 0.06;
    const bool machine = unknown.kind == house::ElementKind::host && unknown.part == Part::element;
    return chance(symptoms.queue, s.queue) * chance(symptoms.window, s.window) *
           chance(symptoms.buffer, s.buffer) *
           chance(symptoms.coreSender, machine && sense == 0 ? s.core : otherCore) *
           chance(symptoms.coreReceiver, machine && sense == 1 ? s.core : otherCore) *
           chance(symptoms.errors, s.errors) * chance(symptoms.falls, s.falls) *
           chance(symptoms.stalls, s.stalls) *
           (symptoms.spread ? chance(softly(*symptoms.spread, unsteadyAt, unsteadySharpness), s.unsteady)
                            : 1) *
           (symptoms.resent ? chance(softly(*symptoms.resent, resentAt, resentSharpness), s.loss) : 1);
}

// What a particle knows of one unknown.
struct Open {
    int state = -1;                // -1: any
    std::uint32_t may = allStates; // of these, a bit each
    std::array<double, 2> low{none, none};
    std::array<double, 2> value{std::numeric_limits<double>::quiet_NaN(),
                                std::numeric_limits<double>::quiet_NaN()};
};

bool allowed(const Open& about, int state) {
    return about.state >= 0 ? about.state == state : (about.may >> static_cast<unsigned>(state) & 1U) != 0;
}

// Whether a state may be, given the bounds so far.
double survives(const State& state, const std::array<double, 2>& low) {
    return state.tied ? state.carries[0].above(std::max(low[0], low[1]))
                      : state.carries[0].above(low[0]) * state.carries[1].above(low[1]);
}

class Sampler {
  public:
    Sampler(const std::vector<Unknown>& unknowns, const std::vector<Observation>& observations,
            std::size_t particles, std::uint64_t seed)
        : m_unknowns(unknowns)
        , m_observations(observations)
        , m_random(seed)
        , m_particles(particles) {
        for (One& one : m_particles)
            one.about.resize(unknowns.size());
        m_kept.resize(unknowns.size());
        for (const Unknown& unknown : unknowns) {
            std::array<double, 2> floor{1e9, 1e9};
            for (const State& state : unknown.states)
                for (const std::size_t sense : {std::size_t{0}, std::size_t{1}})
                    floor[sense] = std::min(floor[sense], state.carries[state.tied ? 0 : sense].lowest());
            m_floor.push_back(floor);
        }
    }

    std::vector<Particle> run(const Watch& watch) {
        spreadShares();
        if (watch) watch(closed(2));
        for (const Observation& observation : m_observations) {
            prepare(observation);
            double most = none;
            for (One& one : m_particles) {
                one.lnWeight += std::log(take(one, observation));
                most = std::max(most, one.lnWeight);
            }
            double sum = 0;
            double squares = 0;
            for (One& one : m_particles) {
                one.lnWeight -= most;
                const double w = std::exp(one.lnWeight);
                sum += w;
                squares += w * w;
            }
            if (sum * sum / squares < redrawBelow * static_cast<double>(m_particles.size())) redraw();
            if (watch && &observation != &m_observations.back()) watch(closed(2));
        }
        std::vector<Particle> out = closed(1);
        if (watch && !m_observations.empty()) watch(out);
        return out;
    }

  private:
    struct One {
        double lnWeight = 0;
        std::vector<Open> about;
        std::vector<bool> outlier;
    };
    static constexpr int keptBits = 8;
    struct Kept {
        double low0 = std::numeric_limits<double>::quiet_NaN();
        double low1 = 0;
        int state = 0;
        int open = 0; // by sense, a bit each
        std::uint32_t may = 0;
        double weight = 0;
    };
    struct Option {
        std::size_t term = 0;
        int state = 0;
        double z = 0; // what it allows
        double weight = 0;
        double low = 0; // of a table: where z lies between
        double high = 0;
    };

    double uniform() { return std::uniform_real_distribution<double>(1e-12, 1.0)(m_random); }

    // A state that may have held a run back, and what of its chance does not depend on the particle.
    struct Possible {
        int state = 0;
        double weight = 0; // prior and signs; of a single value with its reach
        double under = 0;  // of a table: how far the value may lie from the rate
        double over = 0;
    };

    // The terms of a twin come behind all others, in the same order.
    void prepare(const Observation& o) {
        constexpr double deviations =
            20; // only what is as even as a clock tells against a medium that varies
        constexpr double leastSlack = 0.005;
        m_mostSlack = o.symptoms.spread ? std::max(leastSlack, deviations * *o.symptoms.spread) : 1;
        const std::size_t count = o.terms.size();
        m_signs.assign(2 * count, {});
        m_possible.assign(2 * count, {});
        m_anyLifted =
            std::any_of(o.terms.begin(), o.terms.end(), [](const Term& t) { return t.lifted != 0; });
        m_terms = o.terms;
        m_slots.resize(count);
        for (std::size_t t = 0; t < count; ++t)
            m_slots[t] = t;
        for (std::size_t t = 0; t < 2 * count; ++t) {
            const Term& term = o.terms[t % count];
            if (t >= count && term.lifted == 0) continue;
            const Unknown& unknown = m_unknowns[t < count ? term.unknown : term.twin];
            const auto sense = static_cast<std::size_t>(term.sense);
            for (std::size_t k = 0; k < unknown.states.size(); ++k) {
                const State& state = unknown.states[k];
                const double sd = state.variation * variationLeft;
                m_signs[t].push_back(symptomChance(o.symptoms, unknown, state.shows[sense], term.sense));
                const double below = std::hypot(o.below, sd);
                const double above = std::hypot(o.above, sd);
                const double widen = sd > 0 ? windowDeviations : 1;
                const Curve& curve = state.carries[state.tied ? 0 : sense];
                Possible possible{static_cast<int>(k), state.weight * m_signs[t].back(), widen * above,
                                  widen * below};
                const double x = o.lnRate - term.gain;
                if (curve.single())
                    possible.weight *= reach(x - curve.lowest(), below, above);
                else if (curve.above(x + possible.over) >= 1 || curve.above(x - possible.under) <= 0)
                    possible.weight = 0;
                if (possible.weight > 0) m_possible[t].push_back(possible);
            }
        }
    }

    // P(the unknown allows at least x in this sense | bounds so far).
    double reachesIn(const Open& about, std::size_t unknown, int sense, double x) {
        if (x <= m_floor[unknown][static_cast<std::size_t>(sense)] - sameValue) return 1;
        Open raised = about;
        double& bound = raised.low[static_cast<std::size_t>(sense)];
        if (x <= bound) return 1;
        bound = x;
        const double before = left(about, unknown);
        return before > 0 ? left(raised, unknown) / before : 0;
    }

    // The weight of all states that the bounds leave. Particles mostly share bounds, so the answers are kept.
    double left(const Open& about, std::size_t unknown) {
        Kept key{about.low[0], about.low[1],
                 about.state,  (open(about.value[0]) ? 1 : 0) + (open(about.value[1]) ? 2 : 0),
                 about.may,    0};
        const auto mix = [](double x) { return std::bit_cast<std::uint64_t>(x) * 0x9E3779B97F4A7C15ULL; };
        const std::uint64_t hash =
            (mix(key.low0) ^ (mix(key.low1) >> 7)) +
            (static_cast<std::uint64_t>(key.state * 4 + key.open) + key.may) * 0xBF58476D1CE4E5B9ULL;
        Kept& slot = m_kept[unknown][hash >> (64 - keptBits)];
        if (slot.low0 == key.low0 && slot.low1 == key.low1 && slot.state == key.state &&
            slot.open == key.open && slot.may == key.may)
            return slot.weight;
        for (std::size_t k = 0; k < m_unknowns[unknown].states.size(); ++k) {
            if (!allowed(about, static_cast<int>(k))) continue;
            const State& state = m_unknowns[unknown].states[k];
            key.weight += state.weight * survivesOpen(about, state, about.low);
        }
        slot = key;
        return key.weight;
    }

    // Only the senses that are not fixed yet.
    static double survivesOpen(const Open& about, const State& state, const std::array<double, 2>& low) {
        if (state.tied) return survives(state, low);
        return (open(about.value[0]) ? state.carries[0].above(low[0]) : 1) *
               (open(about.value[1]) ? state.carries[1].above(low[1]) : 1);
    }

    // Which of an unknown and its twin speaks: where the particle leaves it open, by what it believes so far.
    void decide(One& one, const Observation& o) {
        for (std::size_t t = 0; t < o.terms.size(); ++t) {
            const Term& term = o.terms[t];
            if (term.lifted == 0) continue;
            Open& about = one.about[term.unknown];
            bool lifted =
                term.lifted == allStates || (about.state >= 0 && term.speaks(about.state) == term.twin);
            if (about.state < 0 && term.lifted != allStates) {
                const std::uint32_t before = about.may;
                const double all = left(about, term.unknown);
                about.may = before & term.lifted;
                const double part = about.may == 0 ? 0 : left(about, term.unknown);
                lifted = uniform() * all < part;
                if (!lifted) about.may = before & ~term.lifted;
            }
            m_terms[t].unknown = lifted ? term.twin : term.unknown;
            m_slots[t] = lifted ? t + o.terms.size() : t;
        }
    }

    // Takes one observation into a particle; returns its probability.
    double take(One& one, const Observation& o) {
        if (m_anyLifted) decide(one, o);
        const auto asOutlier = [&](double p) {
            one.outlier.push_back(true);
            return p;
        };
        // What is fixed already.
        double lowest = std::numeric_limits<double>::infinity();
        std::size_t fixed = m_terms.size();
        for (std::size_t t = 0; t < m_terms.size(); ++t) {
            const Term& term = m_terms[t];
            const double v = one.about[term.unknown].value[static_cast<std::size_t>(term.sense)];
            if (!open(v) && v + term.gain < lowest) {
                lowest = v + term.gain;
                fixed = t;
            }
        }
        if (o.atLeast) return takeBound(one, o, lowest);
        m_options.clear();
        m_reachesAt = std::numeric_limits<double>::quiet_NaN();
        for (std::size_t t = 0; t < m_terms.size(); ++t)
            addOptions(one, o, t, lowest);
        if (fixed < m_terms.size()) {
            const Term& term = m_terms[fixed];
            const int state = one.about[term.unknown].state;
            const double sd =
                m_unknowns[term.unknown].states[static_cast<std::size_t>(state)].variation * variationLeft;
            const double p = reach(o.lnRate - lowest, std::hypot(o.below, sd), std::hypot(o.above, sd));
            if (p > 0)
                m_options.push_back(
                    {fixed, -1, lowest, p * m_signs[m_slots[fixed]][static_cast<std::size_t>(state)], 0, 0});
        }
        for (Option& option : m_options)
            if (option.weight > 0) option.weight *= othersReach(one, option);
        // Chosen more evenly than likely, and weighed by what that distorts: what explains this run poorly
        // and all later ones well must still be there when they come.
        const double isOutlier = outlierPrior * outlierDensity;
        double all = std::pow(isOutlier, evenness);
        for (Option& option : m_options) {
            option.weight *= 1 - outlierPrior;
            all += std::pow(option.weight, evenness);
        }
        double pick = uniform() * all;
        for (const Option& option : m_options) {
            const double share = std::pow(option.weight, evenness);
            pick -= share;
            if (pick > 0 || share <= 0) continue;
            fix(one, option);
            one.outlier.push_back(false);
            return option.weight * all / share;
        }
        return asOutlier(isOutlier * all / std::pow(isOutlier, evenness));
    }

    double takeBound(One& one, const Observation& o, double lowest) {
        const double z = o.lnRate - 2 * o.above;
        double p = lowest < z ? 0 : 1;
        for (const Term& term : m_terms)
            if (open(one.about[term.unknown].value[static_cast<std::size_t>(term.sense)]))
                p *=
                    reachesIn(one.about[term.unknown], term.unknown, term.sense, z - term.gain - slack(term));
        const bool isOutlier = uniform() * (p * (1 - outlierPrior) + outlierPrior) > p * (1 - outlierPrior);
        one.outlier.push_back(isOutlier);
        if (!isOutlier) raise(one, m_terms.size(), z, false);
        return p * (1 - outlierPrior) + outlierPrior;
    }

    // The ways in which this unknown, not fixed yet, may have held the run back.
    void addOptions(const One& one, const Observation& o, std::size_t t, double lowest) {
        const Term& term = m_terms[t];
        const Open& about = one.about[term.unknown];
        const auto sense = static_cast<std::size_t>(term.sense);
        if (!open(about.value[sense])) return;
        const Unknown& unknown = m_unknowns[term.unknown];
        if (m_possible[m_slots[t]].empty()) return;
        const double all = left(about, term.unknown);
        if (all <= 0) return;
        for (const Possible& possible : m_possible[m_slots[t]]) {
            if (!allowed(about, possible.state)) continue;
            const State& state = unknown.states[static_cast<std::size_t>(possible.state)];
            const Curve& curve = state.carries[state.tied ? 0 : sense];
            const double low = state.tied ? std::max(about.low[0], about.low[1]) : about.low[sense];
            Option option{t, possible.state, 0, possible.weight / all, 0, 0};
            if (curve.single()) {
                option.z = curve.lowest() + term.gain;
                if (option.z >= lowest - sameValue || curve.lowest() < low - sameValue) continue;
            } else {
                option.low = std::max(o.lnRate - possible.under, low + term.gain);
                option.high = std::min(o.lnRate + possible.over, lowest + slack(term));
                if (option.high <= option.low) continue;
                // Whatever varies was at what it let through while it did.
                option.z = std::min(o.lnRate + 0.5 * (o.below - o.above), lowest + slack(term));
                option.weight *= curve.mass(option.low - term.gain, option.high - term.gain) /
                                 (possible.under + possible.over);
            }
            if (!state.tied && open(about.value[1 - sense]))
                option.weight *= state.carries[1 - sense].above(about.low[1 - sense]);
            if (option.weight > 0) m_options.push_back(option);
        }
    }

    // P(everything else allows at least what the option allows). Of equals the first in the way counts as the
    // one that holds: those before it must allow more.
    double othersReach(const One& one, const Option& option) {
        if (option.high > option.low) return othersReachAt(one, option);
        double p = 1;
        for (std::size_t t = 0; t < m_terms.size() && p > 0; ++t) {
            if (t == option.term) continue;
            const Term& term = m_terms[t];
            const Open& about = one.about[term.unknown];
            if (!open(about.value[static_cast<std::size_t>(term.sense)])) continue;
            const bool before = option.state >= 0 && t < option.term;
            p *= reachesIn(about, term.unknown, term.sense,
                           option.z - term.gain - slack(term) + (before ? 2 * sameValue : 0));
        }
        return p;
    }

    // The same of a value from a table, where no two are equal: the product over all, without its own factor.
    // Most options allow the same, so that the product is worked out once for a particle.
    double othersReachAt(const One& one, const Option& option) {
        if (m_reachesAt != option.z) {
            m_reachesAt = option.z;
            m_reaches.assign(m_terms.size(), 1);
            m_product = 1;
            m_zeros = 0;
            for (std::size_t t = 0; t < m_terms.size(); ++t) {
                const Term& term = m_terms[t];
                const Open& about = one.about[term.unknown];
                if (!open(about.value[static_cast<std::size_t>(term.sense)])) continue;
                m_reaches[t] = reachesIn(about, term.unknown, term.sense, option.z - term.gain - slack(term));
                if (m_reaches[t] > 0)
                    m_product *= m_reaches[t];
                else
                    ++m_zeros;
            }
        }
        const double own = m_reaches[option.term];
        if (own <= 0) return m_zeros == 1 ? m_product : 0;
        return m_zeros > 0 ? 0 : m_product / own;
    }

    // What varies may have allowed more than its mean for the time of a run; but not where the run was even.
    [[nodiscard]] double slack(const Term& term) const {
        return std::min(m_unknowns[term.unknown].variation * variationLeft, m_mostSlack);
    }

    // Everything but the term `held` allows at least z; what comes before it more, where equals are told
    // apart so.
    void raise(One& one, std::size_t held, double z, bool inOrder) {
        for (std::size_t t = 0; t < m_terms.size(); ++t) {
            if (t == held) continue;
            const Term& term = m_terms[t];
            const auto sense = static_cast<std::size_t>(term.sense);
            const double x = z - term.gain - slack(term) + (inOrder && t < held ? 2 * sameValue : 0);
            // What nothing could be below is no bound, and particles that share none share their answers.
            if (x <= m_floor[term.unknown][sense] - sameValue) continue;
            double& low = one.about[term.unknown].low[sense];
            low = std::max(low, x);
        }
    }

    void fix(One& one, const Option& option) {
        double z = option.z;
        if (option.state >= 0) {
            const Term& term = m_terms[option.term];
            Open& about = one.about[term.unknown];
            const State& state = m_unknowns[term.unknown].states[static_cast<std::size_t>(option.state)];
            const auto sense = static_cast<std::size_t>(term.sense);
            double x = z - term.gain;
            if (option.high > option.low) {
                x = state.carries[state.tied ? 0 : sense].draw(option.low - term.gain,
                                                               option.high - term.gain, uniform());
            }
            about.state = option.state;
            about.value[sense] = x;
            if (state.tied) about.value[1 - sense] = x;
            // The bound that the weight was worked out for; the same for many particles.
            z = option.high > option.low ? option.z : z;
        }
        raise(one, option.term, z, option.state >= 0);
    }

    // By the weight to the power `evenness`; the rest of it stays with the particle (Liu, Chen and Logvinenko
    // 2001).
    void redraw() {
        std::vector<One> next;
        next.reserve(m_particles.size());
        double sum = 0;
        for (const One& one : m_particles)
            sum += std::exp(evenness * one.lnWeight);
        const double step = sum / static_cast<double>(m_particles.size());
        double at = uniform() * step;
        double passed = 0;
        for (const One& one : m_particles) {
            passed += std::exp(evenness * one.lnWeight);
            while (at < passed && next.size() < m_particles.size()) {
                next.push_back(one);
                next.back().lnWeight *= 1 - evenness;
                at += step;
            }
        }
        while (next.size() < m_particles.size())
            next.push_back(next.back());
        m_particles = std::move(next);
    }

    // Shares from 0 to 1, even over the particles and in another order for each dimension, so that the whole
    // range of each is met (Latin hypercube).
    void spreadShares() {
        const std::size_t n = m_particles.size();
        m_shares.resize(3 * m_unknowns.size());
        for (std::vector<double>& shares : m_shares) {
            for (std::size_t p = 0; p < n; ++p)
                shares.push_back((static_cast<double>(p) + 0.5) / static_cast<double>(n));
            std::shuffle(shares.begin(), shares.end(), m_random);
        }
    }

    /// Every so many particles, with what is open drawn.
    [[nodiscard]] std::vector<Particle> closed(std::size_t stride) {
        double sum = 0;
        for (std::size_t p = 0; p < m_particles.size(); p += stride)
            sum += std::exp(m_particles[p].lnWeight);
        std::vector<Particle> out;
        out.reserve(m_particles.size() / stride + 1);
        for (std::size_t p = 0; p < m_particles.size(); p += stride)
            out.push_back(closed(m_particles[p], p, std::exp(m_particles[p].lnWeight) / sum));
        return out;
    }

    [[nodiscard]] Particle closed(const One& one, std::size_t index, double weight) {
        Particle out;
        out.weight = weight;
        out.outlier = one.outlier;
        out.state.resize(m_unknowns.size());
        out.value.resize(m_unknowns.size());
        for (std::size_t u = 0; u < m_unknowns.size(); ++u) {
            const Unknown& unknown = m_unknowns[u];
            const Open& about = one.about[u];
            int k = about.state;
            if (k < 0) {
                const double all = left(about, u);
                double pick = m_shares[3 * u][index] * all;
                k = 0;
                for (std::size_t i = 0; i < unknown.states.size(); ++i) {
                    const double w = unknown.states[i].weight * survives(unknown.states[i], about.low);
                    if (w <= 0 || !allowed(about, static_cast<int>(i))) continue;
                    k = static_cast<int>(i);
                    pick -= w;
                    if (pick <= 0) break;
                }
            }
            const State& state = unknown.states[static_cast<std::size_t>(k)];
            out.state[u] = k;
            for (std::size_t sense = 0; sense < 2; ++sense) {
                double v = about.value[sense];
                if (open(v) && sense == 1 && state.tied) v = out.value[u][0];
                if (open(v))
                    v = state.carries[state.tied ? 0 : sense].draw(
                        state.tied ? std::max(about.low[0], about.low[1]) : about.low[sense], 100,
                        m_shares[3 * u + 1 + sense][index]);
                out.value[u][sense] = v;
            }
        }
        return out;
    }

    const std::vector<Unknown>& m_unknowns;
    const std::vector<Observation>& m_observations;
    std::mt19937_64 m_random;
    std::vector<One> m_particles;
    std::vector<std::vector<double>> m_signs;      // by term and state
    std::vector<std::vector<Possible>> m_possible; // by term
    std::vector<Option> m_options;
    double m_mostSlack = 1;
    double m_reachesAt = 0; // the value that the following speak of
    std::vector<double> m_reaches;
    double m_product = 1;
    std::size_t m_zeros = 0;
    // Of the observation that is being taken in: what speaks in the particle at hand, and where its signs
    // lie.
    bool m_anyLifted = false;
    std::vector<Term> m_terms;
    std::vector<std::size_t> m_slots;
    std::vector<std::array<Kept, 1U << keptBits>> m_kept; // by unknown
    std::vector<std::array<double, 2>> m_floor;           // by unknown and sense: the least it may allow
    std::vector<std::vector<double>> m_shares;            // by dimension and particle
};

} // namespace

std::vector<Particle> infer(const std::vector<Unknown>& unknowns,
                            const std::vector<Observation>& observations, std::size_t particles,
                            std::uint64_t seed, const Watch& watch) {
    return Sampler(unknowns, observations, particles, seed).run(watch);
}

Held heldBack(const Particle& particle, const std::vector<Term>& terms) {
    Held out{0, std::numeric_limits<double>::infinity()};
    for (std::size_t t = 0; t < terms.size(); ++t) {
        const double z = particle.value[terms[t].speaks(particle.state[terms[t].unknown])]
                                       [static_cast<std::size_t>(terms[t].sense)] +
                         terms[t].gain;
        if (z < out.lnRate - sameValue) out = {t, z};
    }
    return out;
}

} // namespace metrodos::trace
