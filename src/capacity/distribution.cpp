// The least of independent ceilings is worked out between knots, not by drawing: with F_i the distributions,
// P(least > x) = Π (1 − F_i(x)), and element i is the least with probability Σ ΔF_i Π_{j≠i} (1 − F_j), F_j
// taken in the middle of each step (midpoint rule; the knots lie 2.5 % apart in p). The quantiles are exact
// for the distributions as they lie between knots, linear in ln x. Draws would need 10⁴ of them for one per
// cent of error in the tails and give another answer at each call. Cost: knots × elements².
#include "capacity/distribution.h"

#include "capacity/contribution.h"
#include "capacity/tolerances.h"
#include "quantity/draw.h"
#include "quantity/normal.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace metrodos::capacity {
namespace {

using Knot = Distribution::Knot;
using Knots = std::vector<Knot>;

constexpr double z90 = 1.2815515655446004; // the 90th percentile of the standard normal

struct StandardKnot {
    double p = 0;
    double z = 0;
};

const std::array<StandardKnot, partKnots>& standardKnots() {
    static const std::array<StandardKnot, partKnots> knots = [] {
        std::array<StandardKnot, partKnots> out{};
        for (std::size_t k = 0; k < partKnots; ++k) {
            const double p = static_cast<double>(k) / (partKnots - 1);
            out[k] = {p, quantity::normalQuantile(std::clamp(p, outermost, 1 - outermost))};
        }
        return out;
    }();
    return knots;
}

Knots knotsOf(const Distribution::Part& part) {
    Knots out;
    if (!part.table.empty()) {
        const auto steps = static_cast<double>(part.table.size() - 1);
        for (std::size_t i = 0; i < part.table.size(); ++i)
            out.push_back({std::log(part.table[i]), static_cast<double>(i) / steps});
        return out;
    }
    const double middle = std::log(part.spread.p50.bps());
    const double below = middle - std::log(part.spread.p10.bps());
    const double above = std::log(part.spread.p90.bps()) - middle;
    if (below <= 0 && above <= 0) return {{middle, 0}, {middle, 1}};
    for (const StandardKnot& k : standardKnots())
        out.push_back({middle + (k.z < 0 ? below : above) * k.z / z90, k.p});
    return out;
}

struct Limits {
    double left = 0;  // P(X < x)
    double right = 0; // P(X ≤ x)
};

Limits at(const Knots& knots, double lnX) {
    const auto byX = [](const Knot& k, double x) { return k.lnX < x; };
    const auto low = std::lower_bound(knots.begin(), knots.end(), lnX, byX);
    if (low == knots.end()) return {1, 1};
    auto high = low;
    while (high != knots.end() && high->lnX == lnX)
        ++high;
    if (low != high) return {low->p, (high - 1)->p};
    if (low == knots.begin()) return {0, 0};
    const Knot& before = *(low - 1);
    const double p = before.p + (low->p - before.p) * (lnX - before.lnX) / (low->lnX - before.lnX);
    return {p, p};
}

double quantileIn(const Knots& knots, double p) {
    for (std::size_t i = 1; i < knots.size(); ++i)
        if (knots[i].p >= p) {
            const Knot& a = knots[i - 1];
            const Knot& b = knots[i];
            if (b.p <= a.p) return std::exp(b.lnX);
            return std::exp(a.lnX + (b.lnX - a.lnX) * std::max(0.0, p - a.p) / (b.p - a.p));
        }
    return std::exp(knots.back().lnX);
}

// The knots of a mixture: all those of its parts, thinned where they lie close in p.
Knots mixed(const std::vector<Distribution::Part>& parts) {
    std::vector<Knots> each;
    std::vector<double> xs;
    for (const Distribution::Part& part : parts) {
        each.push_back(knotsOf(part));
        for (const Knot& k : each.back())
            xs.push_back(k.lnX);
    }
    std::sort(xs.begin(), xs.end());
    xs.erase(std::unique(xs.begin(), xs.end()), xs.end());
    Knots out;
    for (const double x : xs) {
        double left = 0;
        double right = 0;
        for (std::size_t i = 0; i < parts.size(); ++i) {
            const Limits one = at(each[i], x);
            left += parts[i].weight * one.left;
            right += parts[i].weight * one.right;
        }
        const bool step = right > left + 1e-12;
        const bool isLast = x == xs.back();
        if (!step && !isLast && !out.empty() && right - out.back().p < closestKnots && out.back().p > 0)
            continue;
        out.push_back({x, left});
        if (step) out.push_back({x, right});
    }
    out.front().p = 0;
    out.back().p = 1;
    return out;
}

RateSpread spreadIn(const Knots& knots) {
    return {BitRate::bitsPerSecond(quantileIn(knots, 0.1)), BitRate::bitsPerSecond(quantileIn(knots, 0.5)),
            BitRate::bitsPerSecond(quantileIn(knots, 0.9))};
}

} // namespace

Distribution::Distribution(std::vector<Part> parts)
    : m_parts(std::move(parts)) {
    const bool single = m_parts.size() == 1;
    m_knots = single ? knotsOf(m_parts.front()) : mixed(m_parts);
    m_spread = single && m_parts.front().table.empty() ? m_parts.front().spread : spreadIn(m_knots);
}

Distribution Distribution::certain(BitRate value) {
    return Distribution({{1, {value, value, value}}});
}

Distribution Distribution::of(const RateSpread& spread) {
    return Distribution({{1, spread}});
}

Distribution Distribution::ofDraws(std::vector<double> draws) {
    auto kept = std::make_shared<const std::vector<double>>(draws);
    std::sort(draws.begin(), draws.end());
    if (draws.front() == draws.back()) return certain(BitRate::bitsPerSecond(draws.front()));
    Part part;
    for (std::size_t i = 0; i < drawKnots; ++i) {
        const double place = static_cast<double>(i) * static_cast<double>(draws.size() - 1) / (drawKnots - 1);
        const auto below = std::min(static_cast<std::size_t>(place), draws.size() - 2);
        const double share = place - static_cast<double>(below);
        part.table.push_back(draws[below] * std::pow(draws[below + 1] / draws[below], share));
    }
    Distribution out({std::move(part)});
    out.m_draws = std::move(kept);
    return out;
}

double Distribution::drawn(std::uint64_t n, std::string_view name) const {
    if (m_draws != nullptr) return (*m_draws)[n % m_draws->size()];
    return quantile(std::clamp(quantity::uniformOf(n + 1, name), outermost, 1 - outermost));
}

namespace {

// The same change of every draw; no draws stay none.
template <typename Change>
std::shared_ptr<const std::vector<double>> changed(const std::shared_ptr<const std::vector<double>>& draws,
                                                   Change change) {
    if (draws == nullptr) return nullptr;
    std::vector<double> out = *draws;
    for (double& value : out)
        value = change(value);
    return std::make_shared<const std::vector<double>>(std::move(out));
}

} // namespace

Distribution Distribution::mixture(std::vector<Part> parts) {
    std::erase_if(parts, [](const Part& part) { return !(part.weight > 0); });
    double sum = 0;
    for (const Part& part : parts)
        sum += part.weight;
    for (Part& part : parts)
        part.weight /= sum;
    return Distribution(std::move(parts));
}

double Distribution::cdf(double bps) const {
    if (bps <= 0) return 0;
    const Limits limits = at(m_knots, std::log(bps));
    return (limits.left + limits.right) / 2;
}

double Distribution::quantile(double p) const {
    return quantileIn(m_knots, p);
}

Distribution Distribution::cappedAt(BitRate limit) const {
    std::vector<Part> parts = m_parts;
    for (Part& part : parts) {
        part.spread.p10 = std::min(part.spread.p10, limit);
        part.spread.p50 = std::min(part.spread.p50, limit);
        part.spread.p90 = std::min(part.spread.p90, limit);
        for (double& value : part.table)
            value = std::min(value, limit.bps());
    }
    Distribution out(std::move(parts));
    out.m_draws = changed(m_draws, [&](double value) { return std::min(value, limit.bps()); });
    return out;
}

Distribution Distribution::scaledBy(double factor) const {
    std::vector<Part> parts = m_parts;
    for (Part& part : parts) {
        part.spread = {part.spread.p10 * factor, part.spread.p50 * factor, part.spread.p90 * factor};
        for (double& value : part.table)
            value *= factor;
    }
    Distribution out(std::move(parts));
    out.m_draws = changed(m_draws, [&](double value) { return value * factor; });
    return out;
}

namespace {

// One element on the walk from the lowest x upwards.
struct Walker {
    const Knots* knots = nullptr;
    std::size_t next = 0; // the first knot not passed yet
    double p = 0;         // F at the place reached, from the right

    // F on the way to `x`, which no knot lies before.
    [[nodiscard]] double before(double x) const {
        if (next == 0) return 0;
        if (next == knots->size()) return 1;
        const Knot& a = (*knots)[next - 1];
        const Knot& b = (*knots)[next];
        return a.lnX == b.lnX ? b.p : a.p + (b.p - a.p) * (x - a.lnX) / (b.lnX - a.lnX);
    }
    void pass(double x) {
        p = before(x);
        while (next < knots->size() && (*knots)[next].lnX <= x)
            p = (*knots)[next++].p;
    }
};

class LeastWalk {
  public:
    explicit LeastWalk(const std::vector<const Distribution*>& elements)
        : m_limiter(elements.size(), 0.0)
        , m_from(elements.size(), 0.0)
        , m_to(elements.size(), 0.0) {
        // What never comes below the highest value of another cannot be the least.
        double roof = std::numeric_limits<double>::infinity();
        for (const Distribution* element : elements)
            roof = std::min(roof, element->knots().back().lnX);
        for (std::size_t i = 0; i < elements.size(); ++i) {
            if (elements[i]->knots().front().lnX > roof) continue;
            m_walkers.push_back({&elements[i]->knots()});
            m_index.push_back(i);
            for (const Knot& k : elements[i]->knots())
                if (k.lnX <= roof) m_xs.push_back(k.lnX);
        }
        std::sort(m_xs.begin(), m_xs.end());
        m_xs.erase(std::unique(m_xs.begin(), m_xs.end()), m_xs.end());
    }

    Least result() {
        double here = m_xs.front();
        for (const double x : m_xs) {
            for (std::size_t k = 0; k < m_walkers.size(); ++k) {
                m_from[k] = m_walkers[k].p;
                m_to[k] = m_walkers[k].before(x);
            }
            between(here, x);
            for (std::size_t k = 0; k < m_walkers.size(); ++k) {
                m_from[k] = m_to[k];
                m_walkers[k].pass(x);
                m_to[k] = m_walkers[k].p;
            }
            between(x, x);
            here = x;
        }
        while (m_next < 3)
            m_found[m_next++] = here;
        Least out;
        out.spread = {BitRate::bitsPerSecond(std::exp(m_found[0])),
                      BitRate::bitsPerSecond(std::exp(m_found[1])),
                      BitRate::bitsPerSecond(std::exp(m_found[2]))};
        double sum = 0;
        for (const double p : m_limiter)
            sum += p;
        if (sum > 0)
            for (double& p : m_limiter)
                p /= sum;
        out.limiter = std::move(m_limiter);
        return out;
    }

  private:
    // Every F rises evenly from m_from to m_to, over the stretch or in a step.
    void between(double low, double high) {
        for (std::size_t k = 0; k < m_walkers.size(); ++k) {
            const double step = m_to[k] - m_from[k];
            if (step <= 0) continue;
            double others = 1;
            for (std::size_t j = 0; j < m_walkers.size(); ++j)
                if (j != k) others *= 1 - 0.5 * (m_from[j] + m_to[j]);
            m_limiter[m_index[k]] += step * others;
        }
        const auto reached = [&](double share) {
            double above = 1;
            for (std::size_t k = 0; k < m_walkers.size(); ++k)
                above *= 1 - (m_from[k] + (m_to[k] - m_from[k]) * share);
            return 1 - above;
        };
        while (m_next < 3 && reached(1) >= wanted[m_next]) {
            double a = 0;
            double b = 1;
            for (int i = 0; i < 30 && low < high; ++i) {
                const double middle = (a + b) / 2;
                (reached(middle) < wanted[m_next] ? a : b) = middle;
            }
            m_found[m_next++] = low + (high - low) * b;
        }
    }

    static constexpr std::array<double, 3> wanted{0.1, 0.5, 0.9};
    std::vector<Walker> m_walkers;
    std::vector<std::size_t> m_index; // of a walker's element
    std::vector<double> m_xs;
    std::vector<double> m_limiter;
    std::vector<double> m_from;
    std::vector<double> m_to;
    std::array<double, 3> m_found{};
    std::size_t m_next = 0;
};

} // namespace

Least leastOf(const std::vector<const Distribution*>& elements) {
    return elements.empty() ? Least{} : LeastWalk(elements).result();
}

Distribution Distribution::least(const std::vector<Named>& elements) {
    std::vector<const Distribution*> rates;
    double roof = std::numeric_limits<double>::infinity();
    for (const Named& element : elements) {
        rates.push_back(element.rate);
        roof = std::min(roof, element.rate->knots().back().lnX);
    }
    std::vector<double> xs;
    for (const Distribution* rate : rates)
        for (const Knot& k : rate->knots())
            if (k.lnX <= roof) xs.push_back(k.lnX);
    std::sort(xs.begin(), xs.end());
    xs.erase(std::unique(xs.begin(), xs.end()), xs.end());
    Knots knots;
    for (const double x : xs) {
        double aboveLeft = 1; // P(all ≥ x)
        double above = 1;     // P(all > x)
        for (const Distribution* rate : rates) {
            const Limits limits = at(rate->knots(), x);
            aboveLeft *= 1 - limits.left;
            above *= 1 - limits.right;
        }
        knots.push_back({x, 1 - aboveLeft});
        if (above < aboveLeft - 1e-12) knots.push_back({x, 1 - above});
    }
    knots.front().p = 0;
    knots.back().p = 1;
    const RateSpread spread = leastOf(rates).spread;
    auto draws = std::vector<double>(drawsPerPath);
    for (std::size_t n = 0; n < draws.size(); ++n) {
        draws[n] = std::numeric_limits<double>::infinity();
        for (const Named& element : elements)
            draws[n] = std::min(draws[n], element.rate->drawn(n, element.name));
    }
    Part part{1, spread, {}};
    if (spread.p10 < spread.p90 || knots.front().lnX < knots.back().lnX)
        for (std::size_t i = 0; i < partKnots; ++i)
            part.table.push_back(quantileIn(knots, static_cast<double>(i) / (partKnots - 1)));
    Distribution out({std::move(part)});
    out.m_knots = std::move(knots);
    out.m_spread = spread;
    out.m_draws = std::make_shared<const std::vector<double>>(std::move(draws));
    return out;
}

Least leastOf(const std::vector<Distribution>& elements) {
    std::vector<const Distribution*> all;
    for (const Distribution& element : elements)
        all.push_back(&element);
    return leastOf(all);
}

} // namespace metrodos::capacity
