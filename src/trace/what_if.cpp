#include "trace/what_if.h"

#include "catalog/refit.h"
#include "trace/limiters.h"
#include "trace/route_taken.h"

#include <algorithm>
#include <cmath>

namespace metrodos::trace {
namespace {

std::optional<quantity::Money> priceOf(const catalog::Catalog& catalog, const std::string& choice) {
    const catalog::DeviceClass* device = catalog.device(choice);
    return device == nullptr ? std::nullopt : std::optional(device->price);
}

// What the particles say of the route with some elements new.
class Exchange {
  public:
    explicit Exchange(const Case& asked)
        : m_asked(asked)
        , m_model(asked.prediction, asked.house, asked.catalog) {
        std::vector<Observation> observations = m_model.readings();
        std::vector<benchmark::Run> own = asked.runs;
        std::erase_if(
            own, [&](const benchmark::Run& run) { return saysNothing(run, asked.prediction).has_value(); });
        for (Observation& o : m_model.observations({&asked.prediction, own}))
            observations.push_back(std::move(o));
        m_particles = infer(m_model.unknowns(), observations, asked.particles, asked.seed);
        m_question = questionOf(m_model, observations);
    }

    /// Fills in what the route would carry in this house; of what is not new the runs have spoken.
    bool fill(WhatIf& out, const house::House& changed, const house::Id& element) const {
        const auto predicted = capacity::predict(changed, m_asked.catalog, m_asked.prediction.route);
        if (!predicted) return false;
        std::map<house::Id, const capacity::ElementPrediction*> fresh;
        for (const auto& e : predicted->elements)
            for (const auto& before : m_asked.prediction.elements)
                if (before.element.id == e.element.id && !out.now &&
                    (e.element.id == element || !(before.forward == e.forward)))
                    fresh[e.element.id] = &e;
        work(out, m_question.terms, fresh);
        return true;
    }
    void fillStreams(WhatIf& out, int streams) const {
        work(out, {m_model.terms({true, streams}), m_model.terms({false, streams})}, {});
    }

  private:
    void work(WhatIf& out, const std::array<std::vector<Term>, 2>& terms,
              const std::map<house::Id, const capacity::ElementPrediction*>& fresh) const {
        std::map<std::string, double> limits;
        std::array<std::vector<std::pair<double, double>>, 2> rates;
        for (std::size_t p = 0; p < m_particles.size(); ++p) {
            const double u = (static_cast<double>(p) + 0.5) / static_cast<double>(m_particles.size());
            std::array<double, 2> least{50, 50};
            std::string limit;
            for (const std::size_t d : {std::size_t{0}, std::size_t{1}})
                for (const Term& term : terms[d]) {
                    const Unknown& unknown = m_model.unknowns()[term.unknown];
                    double z =
                        m_particles[p].value[term.unknown][static_cast<std::size_t>(term.sense)] + term.gain;
                    if (const auto hit = fresh.find(unknown.element);
                        hit != fresh.end() && unknown.part == Part::element)
                        z = std::log((d == 0 ? hit->second->ceiling.forward : hit->second->ceiling.backward)
                                         .quantile(std::clamp(u, 0.001, 0.999)));
                    // A new one loses nothing.
                    if (unknown.part == Part::loss && fresh.contains(unknown.element)) continue;
                    if (z >= least[d]) continue;
                    if (z < std::min(least[0], least[1])) limit = unknown.label;
                    least[d] = z;
                }
            for (const std::size_t d : {std::size_t{0}, std::size_t{1}})
                rates[d].emplace_back(least[d], m_particles[p].weight);
            limits[limit] += m_particles[p].weight;
        }
        out.forward = spreadOf(std::move(rates[0]));
        out.backward = spreadOf(std::move(rates[1]));
        out.limiter = std::ranges::max_element(limits, {}, [](const auto& one) { return one.second; })->first;
    }

    const Case& m_asked;
    Model m_model;
    std::vector<Particle> m_particles;
    Question m_question;
};

} // namespace

std::vector<WhatIf> whatIf(const Case& asked, const house::Id& element) {
    const auto& elements = asked.prediction.elements;
    const auto it = std::find_if(elements.begin(), elements.end(),
                                 [&](const auto& e) { return e.element.id == element; });
    if (it == elements.end()) return {};
    const Exchange exchange(asked);
    std::vector<WhatIf> out;
    const auto add = [&](WhatIf one, const house::House& changed) {
        if (exchange.fill(one, changed, element)) out.push_back(std::move(one));
    };
    for (const catalog::Choice& choice : catalog::choicesFor(asked.house, asked.catalog, it->element)) {
        if (choice.id.empty()) continue;
        const auto changed = catalog::withChoice(asked.house, asked.catalog, it->element, choice.id);
        if (!changed) continue;
        WhatIf one;
        one.choice = choice.id;
        one.label = choice.label;
        one.now = choice.id == catalog::choiceOf(asked.house, it->element);
        one.price = priceOf(asked.catalog, choice.id);
        add(std::move(one), *changed);
    }
    if (it->element.kind == house::ElementKind::mains) {
        house::House changed = asked.house;
        for (const house::PortRef& end : {it->element.entry, it->element.exit})
            if (house::Port* port = changed.port(end)) port->strip = house::Strip::wall;
        WhatIf one;
        one.choice = "wall";
        one.label = "both adapters straight in the wall";
        one.now = changed == asked.house;
        add(std::move(one), changed);
    }
    for (const int streams : {1, 4, 16}) {
        WhatIf one;
        one.choice = "streams-" + std::to_string(streams);
        one.label = streams == 1 ? "one stream" : std::to_string(streams) + " streams";
        exchange.fillStreams(one, streams);
        out.push_back(std::move(one));
    }
    return out;
}

std::vector<WhatIf> whatIfRoute(const house::House& house, const catalog::Catalog& catalog,
                                const house::Route& route, const benchmark::RouteRuns& runs,
                                const house::Id& element) {
    const auto prediction = capacity::predict(house, catalog, route);
    if (!prediction) return {};
    Case asked{*prediction, house, catalog};
    asked.runs = benchmark::runsOf(runs, route.id);
    return whatIf(asked, element);
}

} // namespace metrodos::trace
