// What the particles say of the route: which element is its limit, and what it carries.
#pragma once

#include "trace/posterior.h"

#include <map>

namespace metrodos::trace {

/// The question that is asked of each state of affairs: what is the limit of the route, with so many streams,
/// in its slower direction; towards the house where the internet service ends it.
struct Question {
    std::array<std::vector<Term>, 2> terms; ///< forward, backward
    std::optional<std::size_t> only;        ///< index of the direction asked about; nothing: the slower one
    std::vector<bool> own; ///< by observation: whether an outlier takes the route itself into question
    std::size_t unlisted = 0;
    const std::vector<Unknown>* unknowns = nullptr; ///< of the model, which must stay
};
[[nodiscard]] Question questionOf(const Model& model, const std::vector<Observation>& observations);

/// The answer, by particle.
struct Answer {
    std::vector<std::size_t> limiter;   ///< unknown
    std::vector<std::size_t> direction; ///< 0 forward, 1 backward
    std::vector<double> lnRate;         ///< of the route in that direction
};
[[nodiscard]] Answer answer(const Question& question, const std::vector<Particle>& particles);

/// The weight of each element that is the limit anywhere.
[[nodiscard]] std::map<house::Id, double>
byElement(const Answer& answer, const std::vector<Unknown>& unknowns, const std::vector<Particle>& particles);

/// The tenth, fiftieth and ninetieth percentile of exp(ln) under weights; at least one of these above 0.
[[nodiscard]] catalog::RateSpread spreadOf(std::vector<std::pair<double, double>> lnAndWeight);

/// What the route would carry without some elements, the rest as it is: its spread and the element that would
/// limit then. Where the first of them is the limit, it is asked; without one of two equal ports that is the
/// same rate again.
struct Without {
    catalog::RateSpread carries;
    house::Id next;
};
[[nodiscard]] Without without(const std::vector<house::Id>& elements, const Question& question,
                              const Answer& answer, const std::vector<Unknown>& unknowns,
                              const std::vector<Particle>& particles);

/// The elements that allow the same as this one where it is the limit: together with it they are one limit.
[[nodiscard]] std::vector<house::Id> equalsOf(const house::Id& element, const Question& question,
                                              const Answer& answer, const std::vector<Unknown>& unknowns,
                                              const std::vector<Particle>& particles);

} // namespace metrodos::trace
