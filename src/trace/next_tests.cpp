// The information that a test is expected to give is that between the limiter and the outcome over the
// particles: I = H(limiter) + H(outcome) − H(both), in bits (Shannon 1948). Why not simply the test whose
// outcome is least certain: that may be noise, or a state of affairs that no limiter hangs on. Why per
// minute: the installer pays in minutes, and a test of ten that tells all loses to two of one that tell half
// each. Counting pairs in a few hundred particles makes the information look greater than it is, and all of
// it where hardly two outcomes are alike; so what the same count says of shuffled limiters, which no outcome
// can tell, is taken for nothing (adjusted mutual information: Vinh, Epps and Bailey 2010). Cost: particles ×
// (tests + terms).
#include "trace/next_tests.h"

#include "quantity/draw.h"
#include "quantity/format.h"
#include "trace/tolerances.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <random>

namespace metrodos::trace {
namespace {

std::vector<benchmark::Alteration> lifted(const NextTest& test, house::AlterationKind how) {
    std::vector<benchmark::Alteration> out;
    for (const house::Id& element : test.reads)
        out.push_back({element, how});
    return out;
}

// What a test would show in one state of affairs, as one number: equal numbers cannot be told apart.
class Shows {
  public:
    /// `sense`: of the two figures that the adapters of a medium show the first or the second only.
    Shows(const NextTest& test, const Model& model, std::optional<std::size_t> sense = {})
        : m_model(model)
        , m_test(test) {
        if (test.phyShare) {
            // Both directions: each adapter shows its own.
            for (const bool forward : {true, false}) {
                if (sense && (*sense == 0) != forward) continue;
                for (const Term& term : model.terms(
                         {forward,
                          4,
                          {house::Setup::place, {}, false, lifted(test, house::AlterationKind::phy_rate)}}))
                    if (model.unknowns()[term.unknown].element == test.reads.front())
                        m_terms[forward || sense ? 0 : 1].push_back(term);
            }
            return;
        }
        if (test.kind == TestKind::read) {
            for (const Term& term : model.terms({}))
                if (model.unknowns()[term.unknown].part == Part::element &&
                    std::find(test.reads.begin(), test.reads.end(), model.unknowns()[term.unknown].element) !=
                        test.reads.end())
                    m_terms[0].push_back(term);
            return;
        }
        RunShape how = test.shape;
        m_terms[0] = model.terms(how);
        how.forward = !how.forward;
        m_terms[1] = model.terms(how);
    }

    [[nodiscard]] bool any() const { return !m_terms[0].empty(); }

    /// `noise`: what chance adds, another number each time.
    [[nodiscard]] std::int64_t in(const Particle& p, std::uint64_t noise) const {
        const Held ahead = heldBack(p, m_terms[0]);
        if (m_test.kind == TestKind::read && !m_test.phyShare) return bin(ahead.lnRate);
        std::int64_t out =
            bin(ahead.lnRate + spread(p, m_terms[0][ahead.term]) * quantity::normalDraw(2 * noise));
        if (!m_terms[1].empty()) {
            const Held back = heldBack(p, m_terms[1]);
            out = out * 4096 +
                  bin(back.lnRate + spread(p, m_terms[1][back.term]) * quantity::normalDraw(2 * noise + 1));
        }
        if (m_test.phyShare) return out; // a figure on a page has none of the signs of a run
        const Term& term = m_terms[0][ahead.term];
        const State& state = stateOf(p, term);
        const catalog::Signature& s = state.shows[static_cast<std::size_t>(term.sense)];
        for (const double sign : {s.queue, s.window, s.buffer, s.core, s.unsteady, s.errors})
            out = out * 2 + (sign > 0.5 ? 1 : 0);
        return out;
    }
    [[nodiscard]] double lnRate(const Particle& p, std::size_t direction) const {
        return heldBack(p, m_terms[direction < 2 && !m_terms[direction].empty() ? direction : 0]).lnRate;
    }

  private:
    // What varies from second to second has another mean in each run.
    [[nodiscard]] double spread(const Particle& p, const Term& term) const {
        return std::hypot(m_test.phyShare ? phyError : runError, variationLeft * stateOf(p, term).variation);
    }
    [[nodiscard]] const State& stateOf(const Particle& p, const Term& term) const {
        const std::size_t speaks = term.speaks(p.state[term.unknown]);
        return m_model.unknowns()[speaks].states[static_cast<std::size_t>(p.state[speaks])];
    }
    static std::int64_t bin(double ln) {
        return static_cast<std::int64_t>(std::floor(std::clamp(ln, 0.0, 40.0) / outcomeWidth));
    }

    const Model& m_model;
    const NextTest& m_test;
    std::array<std::vector<Term>, 2> m_terms;
};

double entropyTerm(double p) {
    return p > 0 ? -p * std::log2(p) : 0;
}

// As many particles, drawn by their weights at even steps: each then counts alike.
std::vector<std::size_t> drawnEvenly(const std::vector<Particle>& particles) {
    std::vector<std::size_t> out;
    const double step = 1.0 / static_cast<double>(particles.size());
    double passed = 0;
    for (std::size_t p = 0; p < particles.size(); ++p) {
        passed += particles[p].weight;
        while (out.size() < particles.size() && (static_cast<double>(out.size()) + 0.5) * step < passed)
            out.push_back(p);
    }
    while (out.size() < particles.size()) // what rounding leaves
        out.push_back(particles.size() - 1);
    return out;
}

double entropyOf(const std::vector<std::size_t>& labels, std::size_t count) {
    std::vector<double> of(count, 0.0);
    for (const std::size_t label : labels)
        of[label] += 1.0 / static_cast<double>(labels.size());
    double out = 0;
    for (const double p : of)
        out += entropyTerm(p);
    return out;
}

// The information between outcomes, which are sorted, and labels, in bits: H(label) − H(label | outcome).
double informationOf(const std::vector<std::pair<std::int64_t, std::size_t>>& outcomes,
                     const std::vector<std::size_t>& labels, std::size_t count) {
    const auto n = static_cast<double>(outcomes.size());
    std::vector<double> of(count, 0.0);
    double left = 0;
    for (std::size_t i = 0; i < outcomes.size();) {
        const std::size_t first = i;
        std::fill(of.begin(), of.end(), 0.0);
        for (; i < outcomes.size() && outcomes[i].first == outcomes[first].first; ++i)
            of[labels[outcomes[i].second]] += 1;
        const auto alike = static_cast<double>(i - first);
        for (const double k : of)
            left += alike / n * entropyTerm(k / alike);
    }
    return entropyOf(labels, count) - left;
}

} // namespace

std::vector<NextTest> ranked(std::vector<NextTest> tests, const Model& model, const Answer& answer,
                             const std::vector<Particle>& particles) {
    const std::vector<std::size_t> drawn = drawnEvenly(particles);
    // Limiters by number.
    std::map<house::Id, std::size_t> numbers;
    std::vector<std::size_t> limiter;
    for (const std::size_t p : drawn)
        limiter.push_back(
            numbers.emplace(model.unknowns()[answer.limiter[p]].element, numbers.size()).first->second);
    std::vector<std::size_t> shuffled = limiter;
    std::mt19937_64 random(drawn.size());
    std::shuffle(shuffled.begin(), shuffled.end(), random);
    const double doubt = entropyOf(limiter, numbers.size());
    std::uint64_t noise = 0;
    for (NextTest& test : tests) {
        // Two figures at once have more outcomes than there are particles to tell them by: one of them then
        // speaks for both, and says no more than both would.
        std::vector<std::optional<std::size_t>> senses{std::nullopt};
        if (test.phyShare) senses = {0, 1};
        for (const auto sense : senses) {
            const Shows shows(test, model, sense);
            if (!shows.any()) continue;
            std::vector<std::pair<std::int64_t, std::size_t>> outcomes; // with the place of the particle
            for (std::size_t k = 0; k < drawn.size(); ++k)
                outcomes.emplace_back(shows.in(particles[drawn[k]], noise++), k);
            std::sort(outcomes.begin(), outcomes.end());
            const double counted = informationOf(outcomes, limiter, numbers.size());
            const double byChance = informationOf(outcomes, shuffled, numbers.size());
            const double room = doubt - byChance;
            if (room > 0.01 * doubt)
                test.informationBits =
                    std::max(test.informationBits, std::clamp((counted - byChance) / room, 0.0, 1.0) * doubt);
        }
    }
    std::erase_if(tests, [&](const NextTest& test) {
        return test.informationBits < std::max(minBits, minShareOfDoubt * doubt);
    });
    std::stable_sort(tests.begin(), tests.end(), [](const NextTest& a, const NextTest& b) {
        if (a.isFirst != b.isFirst) return a.isFirst;
        return a.informationBits / (a.minutes + overheadMinutes) >
               b.informationBits / (b.minutes + overheadMinutes);
    });
    if (tests.size() > maxTests) tests.resize(maxTests);
    return tests;
}

std::vector<Outcome> outcomesOf(const NextTest& test, const Model& model, const Answer& answer,
                                const std::vector<Particle>& particles) {
    constexpr double least = 0.04;
    const Shows shows(test, model);
    struct One {
        double weight = 0;
        std::vector<std::pair<double, double>> rates;
        std::string label;
    };
    std::map<house::Id, One> all;
    for (std::size_t p = 0; p < particles.size() && shows.any(); ++p) {
        const Unknown& unknown = model.unknowns()[answer.limiter[p]];
        One& one = all[unknown.element];
        one.label = unknown.label;
        one.weight += particles[p].weight;
        const std::size_t direction = test.shape.forward ? answer.direction[p] : 1 - answer.direction[p];
        one.rates.emplace_back(shows.lnRate(particles[p], direction) - std::log(test.phyShare.value_or(1)),
                               particles[p].weight);
    }
    std::vector<Outcome> out;
    for (auto& [id, one] : all) {
        if (one.weight < least) continue;
        const catalog::RateSpread spread = spreadOf(std::move(one.rates));
        const bool open = spread.p50.bps() > 99e9;
        const bool narrow = spread.p90.bps() < spread.p10.bps() * 1.1;
        out.push_back({open     ? "no limit of its own"
                       : narrow ? "about " + quantity::plain(spread.p50)
                                : quantity::plain(spread.p10) + " to " + quantity::plain(spread.p90),
                       one.label, one.weight});
    }
    std::ranges::sort(out, std::ranges::greater(), &Outcome::probability);
    return out;
}

} // namespace metrodos::trace
