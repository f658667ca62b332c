#include "trace/limiters.h"

#include "benchmark/statistics.h"
#include "trace/tolerances.h"

#include <algorithm>
#include <cmath>

namespace metrodos::trace {
namespace {

double allows(const Particle& p, const Term& term) {
    return p.value[term.unknown][static_cast<std::size_t>(term.sense)] + term.gain;
}

bool isOwn(const Observation& o, const house::Id& route) {
    return o.link.empty() && o.route == route && o.shape.arrangement.setup == house::Setup::place &&
           o.shape.arrangement.bypassed.empty() && o.shape.arrangement.altered.empty();
}

} // namespace

Question questionOf(const Model& model, const std::vector<Observation>& observations) {
    Question out;
    const auto& prediction = model.prediction();
    int streams = 0;
    for (const Observation& o : observations) {
        out.own.push_back(isOwn(o, prediction.route.id));
        if (out.own.back() && !o.atLeast) streams = std::max(streams, o.shape.streams);
    }
    if (streams == 0) streams = usualStreams;
    for (const bool forward : {true, false}) {
        auto terms = model.terms({forward, streams}, {});
        // The delay as the runs found it.
        for (const Observation& o : observations)
            if (isOwn(o, prediction.route.id) && o.shape.forward == forward && !o.shape.arrangement.swapped &&
                o.shape.streams == streams && !o.atLeast && !o.fromMemory)
                terms = o.terms;
        out.terms[forward ? 0 : 1] = std::move(terms);
    }
    out.unlisted = out.terms[0].back().unknown;
    out.unknowns = &model.unknowns();
    const auto& elements = prediction.elements;
    if (elements.front().element.kind == house::ElementKind::service) out.only = 0;
    if (elements.back().element.kind == house::ElementKind::service) out.only = 1;
    return out;
}

Answer answer(const Question& question, const std::vector<Particle>& particles) {
    Answer out;
    std::vector<std::vector<std::size_t>>
        level; // by particle: the unknowns that allow no more than the least
    std::map<std::size_t, double> often;
    for (const Particle& p : particles) {
        const std::array<Held, 2> held{heldBack(p, question.terms[0]), heldBack(p, question.terms[1])};
        const std::size_t d =
            question.only.value_or(held[1].lnRate < held[0].lnRate - 2 * sameCeiling ? 1 : 0);
        bool outlier = false;
        for (std::size_t o = 0; o < p.outlier.size(); ++o)
            outlier = outlier || (p.outlier[o] && question.own[o]);
        level.emplace_back();
        if (outlier) level.back().push_back(question.unlisted);
        for (const Term& term : question.terms[d])
            if (!outlier && allows(p, term) < held[d].lnRate + sameCeiling)
                level.back().push_back(term.unknown);
        // A sound cable links as fast as its ports: of equals it is never the one that decides.
        const auto follows = [&](std::size_t u) {
            const Unknown& unknown = (*question.unknowns)[u];
            return unknown.kind == house::ElementKind::cable && unknown.part == Part::element &&
                   unknown.states[static_cast<std::size_t>(p.state[u])].fault == nullptr;
        };
        if (!std::all_of(level.back().begin(), level.back().end(), follows))
            std::erase_if(level.back(), follows);
        for (const std::size_t unknown : level.back())
            often[unknown] += p.weight;
        out.direction.push_back(d);
        out.lnRate.push_back(held[d].lnRate);
    }
    // Of equals the one that is most often level with the least is named: the one known to be so before the
    // one that would have to be faulty.
    for (const std::vector<std::size_t>& equals : level)
        out.limiter.push_back(
            *std::ranges::max_element(equals, {}, [&](std::size_t term) { return often[term]; }));
    return out;
}

std::map<house::Id, double> byElement(const Answer& answer, const std::vector<Unknown>& unknowns,
                                      const std::vector<Particle>& particles) {
    std::map<house::Id, double> out;
    for (std::size_t p = 0; p < particles.size(); ++p)
        out[unknowns[answer.limiter[p]].element] += particles[p].weight;
    return out;
}

catalog::RateSpread spreadOf(std::vector<std::pair<double, double>> all) {
    std::sort(all.begin(), all.end());
    double sum = 0;
    for (const auto& [ln, weight] : all)
        sum += weight;
    const auto at = [&](double share) {
        double passed = 0;
        for (const auto& [ln, weight] : all) {
            passed += weight;
            if (passed >= share * sum) return quantity::BitRate::bitsPerSecond(std::exp(ln));
        }
        return quantity::BitRate::bitsPerSecond(std::exp(all.back().first));
    };
    return {at(0.1), at(0.5), at(0.9)};
}

namespace {

// The particles in which the element is the limit; all where it hardly is.
std::vector<bool> where(const house::Id& element, const Answer& answer, const std::vector<Unknown>& unknowns,
                        const std::vector<Particle>& particles) {
    constexpr double hardly = 0.01;
    std::vector<bool> out;
    double weight = 0;
    for (std::size_t p = 0; p < particles.size(); ++p) {
        out.push_back(unknowns[answer.limiter[p]].element == element);
        if (out.back()) weight += particles[p].weight;
    }
    if (weight < hardly) out.assign(particles.size(), true);
    return out;
}

} // namespace

Without without(const std::vector<house::Id>& elements, const Question& question, const Answer& answer,
                const std::vector<Unknown>& unknowns, const std::vector<Particle>& particles) {
    const std::vector<bool> in = where(elements.front(), answer, unknowns, particles);
    std::vector<std::pair<double, double>> rates;
    std::map<house::Id, double> next;
    for (std::size_t p = 0; p < particles.size(); ++p) {
        if (!in[p]) continue;
        const auto& terms = question.terms[answer.direction[p]];
        double least = noLimit;
        house::Id limit = elements.front();
        for (const Term& term : terms) {
            const Unknown& unknown = unknowns[term.unknown];
            const double z = allows(particles[p], term);
            if (std::find(elements.begin(), elements.end(), unknown.element) != elements.end()) continue;
            if (z < least) {
                least = z;
                limit = unknown.element;
            }
        }
        // Whatever came in its place would not be slower than it.
        rates.emplace_back(std::max(least, answer.lnRate[p]), particles[p].weight);
        next[limit] += particles[p].weight;
    }
    const auto most = std::ranges::max_element(next, {}, [](const auto& one) { return one.second; });
    return {spreadOf(std::move(rates)), most->first};
}

std::vector<house::Id> equalsOf(const house::Id& element, const Question& question, const Answer& answer,
                                const std::vector<Unknown>& unknowns,
                                const std::vector<Particle>& particles) {
    std::map<house::Id, double> equal;
    double weight = 0;
    for (std::size_t p = 0; p < particles.size(); ++p) {
        const Unknown& held = unknowns[answer.limiter[p]];
        if (held.element != element || held.part != Part::element) continue;
        weight += particles[p].weight;
        for (const Term& term : question.terms[answer.direction[p]]) {
            const Unknown& other = unknowns[term.unknown];
            if (other.element != element && other.part == Part::element && other.element != unlisted &&
                std::fabs(allows(particles[p], term) - answer.lnRate[p]) < sameCeiling)
                equal[other.element] += particles[p].weight;
        }
    }
    std::vector<house::Id> out;
    for (const auto& [id, w] : equal)
        if (w > 0.5 * weight) out.push_back(id);
    return out;
}

} // namespace metrodos::trace
