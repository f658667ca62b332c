#include "trace/curve.h"

#include <algorithm>
#include <cmath>

namespace metrodos::trace {
namespace {

constexpr double cellWidth = 0.015; // one and a half per cent
constexpr double maxCells = 400;

} // namespace

Curve Curve::at(double lnX) {
    Curve out;
    out.m_from = lnX;
    return out;
}

Curve Curve::of(const capacity::Distribution& distribution) {
    const auto& knots = distribution.knots();
    const double from = knots.front().lnX;
    const double to = knots.back().lnX;
    if (to - from < sameValue) return at(from);
    Curve out;
    const double cells = std::clamp(std::ceil((to - from) / cellWidth), 4.0, maxCells);
    out.m_from = from;
    out.m_perCell = cells / (to - from);
    auto knot = knots.begin();
    for (int i = 0; i <= static_cast<int>(cells); ++i) {
        const double x = i == static_cast<int>(cells) ? to : from + i / out.m_perCell;
        while (knot + 1 != knots.end() && (knot + 1)->lnX <= x)
            ++knot;
        double p = knot->p;
        if (knot + 1 != knots.end() && (knot + 1)->lnX > knot->lnX)
            p += ((knot + 1)->p - knot->p) * (x - knot->lnX) / ((knot + 1)->lnX - knot->lnX);
        out.m_cells.push_back(p);
    }
    out.m_cells.front() = 0;
    out.m_cells.back() = 1;
    return out;
}

Curve Curve::of(const capacity::Distribution::Part& part) {
    return of(capacity::Distribution::mixture({part}));
}

Curve Curve::of(const catalog::RateSpread& spread) {
    return of(capacity::Distribution::of(spread));
}

double Curve::draw(double low, double high, double u) const {
    if (m_cells.empty()) return m_from;
    const double a = below(low);
    const double b = below(high);
    if (b <= a) return std::clamp(m_from, low, high);
    const double p = a + (b - a) * u;
    const auto after = std::lower_bound(m_cells.begin(), m_cells.end(), p);
    const auto i = std::max<std::ptrdiff_t>(1, after - m_cells.begin());
    const double left = m_cells[static_cast<std::size_t>(i - 1)];
    const double right = m_cells[static_cast<std::size_t>(i)];
    const double share = right > left ? (p - left) / (right - left) : 0.5;
    return std::clamp(m_from + (static_cast<double>(i - 1) + share) / m_perCell, low, high);
}

} // namespace metrodos::trace
