// How exactly distributions of ceilings are reckoned with. Model values stand in data/catalog.
#pragma once

#include <cstddef>

namespace metrodos::capacity {

/// Points at which a log-normal part is looked at: every 2.5 % of probability, so that the three percentiles
/// of a spread are among them and a straight line in ln x between two is off by less than a rounded figure
/// shows.
inline constexpr std::size_t partKnots = 41;
/// Tails beyond one in two thousand are cut: no plan and no verdict rests on them, and a log-normal one has
/// no end.
inline constexpr double outermost = 0.0005;
/// Points of a mixture lie no closer in probability than this: a mixture of mixtures would otherwise grow
/// without bound.
inline constexpr double closestKnots = 1.0 / 200;
/// Quantiles that are kept of draws; a simulation draws 64, of which more could not be told apart from
/// chance.
inline constexpr std::size_t drawKnots = 33;

} // namespace metrodos::capacity
