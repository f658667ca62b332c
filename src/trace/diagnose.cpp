#include "trace/diagnose.h"

#include "benchmark/statistics.h"
#include "quantity/format.h"
#include "trace/explain.h"
#include "trace/limiters.h"
#include "trace/next_tests.h"
#include "trace/signatures.h"
#include "trace/tolerances.h"

#include <algorithm>
#include <cmath>

namespace metrodos::trace {
namespace {

using benchmark::Direction;
using benchmark::Run;
using quantity::plain;

std::string percent(double p) {
    return p > 0.995 ? ">99 %" : quantity::significant(p * 100, 2) + " %";
}

// Works out one diagnosis, step by step.
class Work {
  public:
    explicit Work(const Case& asked)
        : m_asked(asked)
        , m_model(asked.prediction, asked.house, asked.catalog) {
        collect();
        m_question = questionOf(m_model, m_observations);
        m_particles = infer(m_model.unknowns(), m_observations, asked.particles, asked.seed,
                            [this](const std::vector<Particle>& particles) {
                                m_history.push_back(
                                    byElement(answer(m_question, particles), m_model.unknowns(), particles));
                            });
        m_answer = answer(m_question, m_particles);
    }

    Diagnosis result() {
        m_out.route = m_asked.prediction.route.id;
        std::vector<Run> free;
        std::copy_if(m_asked.runs.begin(), m_asked.runs.end(), std::back_inserter(free),
                     [](const Run& run) { return run.showsCeiling(); });
        m_out.measuredForward = capacityMeasured(free, Direction::forward);
        m_out.measuredBackward = capacityMeasured(free, Direction::backward);
        m_readings = readSignatures(m_asked.prediction, m_asked.catalog, free);
        suspects();
        tests();
        warnings();
        sentence();
        return std::move(m_out);
    }

  private:
    void collect() {
        const auto take = [&](const PredictedRuns& runs) {
            for (Observation& o : m_model.observations(runs)) {
                m_from.push_back(runs.prediction);
                m_observations.push_back(std::move(o));
            }
        };
        for (const PredictedRuns& other : m_asked.others)
            m_model.add(*other.prediction);
        for (Observation& o : m_model.readings()) {
            m_from.push_back(&m_asked.prediction);
            m_observations.push_back(std::move(o));
        }
        take({&m_asked.prediction, m_asked.runs});
        for (const PredictedRuns& other : m_asked.others)
            take(other);
    }

    // The direction that most particles speak of.
    [[nodiscard]] bool speaksForward() const {
        double forward = 0;
        for (std::size_t p = 0; p < m_particles.size(); ++p)
            if (m_answer.direction[p] == 0) forward += m_particles[p].weight;
        return forward >= 0.5;
    }

    [[nodiscard]] std::string labelOf(const house::Id& id) const {
        for (const Unknown& unknown : m_model.unknowns())
            if (unknown.element == id) return unknown.label;
        return id;
    }

    void suspects() {
        const auto probabilities = byElement(m_answer, m_model.unknowns(), m_particles);
        std::vector<std::pair<double, house::Id>> ranked;
        for (const auto& [id, p] : probabilities)
            ranked.emplace_back(p, id);
        std::stable_sort(ranked.begin(), ranked.end(),
                         [](const auto& a, const auto& b) { return a.first > b.first; });
        m_forward = speaksForward();
        const auto measured = m_forward ? m_out.measuredForward : m_out.measuredBackward;
        for (const auto& [p, id] : ranked) {
            if (p < minProbability && !m_out.suspects.empty()) break;
            Suspect suspect;
            suspect.element = id;
            suspect.label = labelOf(id);
            suspect.probability = p;
            state(suspect);
            evidence(suspect);
            std::vector<std::pair<double, double>> rates;
            for (std::size_t k = 0; k < m_particles.size(); ++k)
                if (m_model.unknowns()[m_answer.limiter[k]].element == id)
                    rates.emplace_back(m_answer.lnRate[k], m_particles[k].weight);
            suspect.ceiling = measured && p > 0.5 ? *measured : spreadOf(std::move(rates)).p50;
            because(suspect, measured);
            if (id != unlisted) {
                const Without rest = without(id, m_question, m_answer, m_model.unknowns(), m_particles);
                suspect.ifReplaced = rest.carries.p50;
                suspect.ifReplacedSpread = rest.carries;
                suspect.next = labelOf(rest.next);
                for (const house::Id& equal :
                     equalsOf(id, m_question, m_answer, m_model.unknowns(), m_particles))
                    suspect.equals.push_back(labelOf(equal));
            }
            m_out.suspects.push_back(std::move(suspect));
        }
        m_out.nextElement = m_out.suspects.front().next;
    }

    // How the suspect is, where it is the limiter.
    void state(Suspect& suspect) const {
        std::map<std::string, double> labels;
        double all = 0;
        for (std::size_t k = 0; k < m_particles.size(); ++k) {
            const std::size_t u = m_answer.limiter[k];
            const Unknown& unknown = m_model.unknowns()[u];
            if (unknown.element != suspect.element) continue;
            all += m_particles[k].weight;
            const State& held = unknown.states[static_cast<std::size_t>(m_particles[k].state[u])];
            const std::string how = held.fault != nullptr          ? held.fault->label
                                    : unknown.part == Part::window ? "the window of a stream over the delay"
                                                                   : "";
            labels[how] += m_particles[k].weight;
        }
        for (const auto& [how, weight] : labels)
            if (weight > suspect.stateProbability * all) {
                suspect.stateProbability = weight / all;
                suspect.state = how;
            }
    }

    void evidence(Suspect& suspect) const {
        const auto at = [&](std::size_t step) {
            const auto it = m_history[step].find(suspect.element);
            return it == m_history[step].end() ? 0.0 : it->second;
        };
        for (std::size_t o = 0; o < m_observations.size(); ++o)
            if (std::fabs(at(o + 1) - at(o)) >= minChange)
                suspect.evidence.push_back(
                    {describe(m_observations[o], *m_from[o], m_asked.prediction.route.id), at(o), at(o + 1),
                     m_observations[o].runs});
    }

    void because(Suspect& suspect, const std::optional<BitRate>& measured) const {
        auto& out = suspect.because;
        if (suspect.element == unlisted) {
            out.push_back(m_asked.runs.empty() ? "some routes are held back by what nobody wrote down"
                                               : "the ceilings of the elements explain the runs less well");
            if (!suspect.state.empty()) out.push_back("most likely: " + suspect.state);
        }
        for (const auto& e : m_asked.prediction.elements) {
            if (e.element.id != suspect.element) continue;
            out.push_back(e.ceiling.because);
            if (!suspect.state.empty())
                out.push_back("where it is the limit: " + suspect.state + " (" +
                              percent(suspect.stateProbability) + ")");
            const auto& spread = m_forward ? e.forward : e.backward;
            if (measured)
                out.push_back("measured " + plain(*measured) + (m_forward ? " forward" : " backward") +
                              ", expected of it " +
                              (spread.p10 == spread.p90 ? plain(spread.p50)
                                                        : plain(spread.p10) + " to " + plain(spread.p90)));
            break;
        }
        for (const Reading& reading : m_readings)
            if (reading.element == suspect.element) out.push_back(reading.text);
        for (const Evidence& e : suspect.evidence)
            out.push_back((e.after > e.before ? "for it: " : "against it: ") + e.text + ": from " +
                          percent(e.before) + " to " + percent(e.after));
    }

    void tests() {
        const double sure = m_out.suspects.front().probability;
        if (sure >= certainFrom && !m_asked.runs.empty()) return;
        m_out.nextTests = ranked(candidates(m_asked, m_observations), m_model, m_answer, m_particles);
        if (!m_out.nextTests.empty())
            m_out.nextTests.front().outcomes =
                outcomesOf(m_out.nextTests.front(), m_model, m_answer, m_particles);
    }

    void warnings() {
        for (const Reading& reading : m_readings)
            if (reading.element.empty()) m_out.warnings.push_back(reading.text);
        for (std::string& text : contradictions(m_asked))
            m_out.warnings.push_back(std::move(text));
        for (std::size_t o = 0; o < m_observations.size(); ++o) {
            double outlier = 0;
            for (const Particle& p : m_particles)
                if (p.outlier[o]) outlier += p.weight;
            if (outlier > 0.5)
                m_out.warnings.push_back(
                    "nothing in the survey explains a run: " +
                    describe(m_observations[o], *m_from[o], m_asked.prediction.route.id));
        }
        aboutMedia();
    }

    // A medium that never was the limit has not been tested, however many runs went over it.
    void aboutMedia() {
        const auto measured = m_forward ? m_out.measuredForward : m_out.measuredBackward;
        if (!measured) return;
        const auto probabilities = byElement(m_answer, m_model.unknowns(), m_particles);
        for (const auto& e : m_asked.prediction.elements) {
            const auto kind = e.element.kind;
            if (!house::isMedium(kind)) continue;
            const auto it = probabilities.find(e.element.id);
            if (it == probabilities.end() || it->second < 0.05)
                m_out.warnings.push_back(
                    "“" + e.element.label +
                    "” was not the limit: of it the runs say only that it carries at least " +
                    plain(*measured));
        }
    }

    void sentence() {
        const Suspect& first = m_out.suspects.front();
        const bool anyRun = m_out.measuredForward || m_out.measuredBackward;
        const auto& prediction = m_asked.prediction;
        const auto measured = m_forward ? m_out.measuredForward : m_out.measuredBackward;
        const auto need = m_forward ? prediction.route.needForward : prediction.route.needBackward;
        const BitRate carried =
            measured.value_or(m_forward ? prediction.forward.p50 : prediction.backward.p50);
        m_out.needMet = need && carried >= *need;
        std::string& out = m_out.sentence;
        out = (anyRun ? "The limit is " : "Expected limit: ") + first.label + " (" +
              percent(first.probability) + "): " + plainBoth(carried);
        if (m_out.needMet)
            out += ". That meets the need of " + plain(*need) + ": nothing to replace";
        else if (first.ifReplaced && *first.ifReplaced > carried * 1.05)
            out += ". Without it " + first.next + " would allow " + plain(*first.ifReplaced);
        out += ".";
    }

    const Case& m_asked;
    Model m_model;
    std::vector<Observation> m_observations;
    std::vector<const capacity::RoutePrediction*> m_from; // by observation
    Question m_question;
    std::vector<std::map<house::Id, double>> m_history; // before the first observation, and after each
    std::vector<Particle> m_particles;
    Answer m_answer;
    std::vector<Reading> m_readings;
    bool m_forward = true;
    Diagnosis m_out;
};

} // namespace

std::optional<BitRate> capacityMeasured(const std::vector<Run>& runs, Direction direction) {
    int most = 0;
    for (const Run& run : runs)
        if (run.config.direction == direction && run.samples.size() >= 5)
            most = std::max(most, run.config.streams);
    std::vector<double> rates;
    for (const Run& run : runs)
        if (run.config.direction == direction && run.samples.size() >= 5 && run.config.streams == most)
            rates.push_back(run.goodput.bps());
    if (rates.empty()) return std::nullopt;
    return BitRate::bitsPerSecond(benchmark::quantile(rates, 0.5));
}

Diagnosis diagnose(const Case& asked) {
    return Work(asked).result();
}

quantity::Result<Diagnosis> diagnoseRoute(const house::House& house, const catalog::Catalog& catalog,
                                          const house::Route& route, const benchmark::RouteRuns& runs) {
    const auto prediction = capacity::predict(house, catalog, route);
    if (!prediction) return tl::unexpected(prediction.error());
    Case asked{*prediction, house, catalog};
    asked.declined = route.declined;
    // Only simulated endpoints read and write their disks in a run.
    asked.runsFromMemory =
        std::any_of(runs.begin(), runs.end(), [](const auto& r) { return !r.run.simulated; });
    std::map<house::Id, std::vector<Run>> byRoute;
    for (const auto& [id, run] : runs)
        (id == route.id ? asked.runs : byRoute[id]).push_back(run);
    // Other routes count where they share something; the predictions must stay where they are.
    std::vector<capacity::RoutePrediction> predictions;
    predictions.reserve(byRoute.size());
    for (auto& [id, own] : byRoute) {
        const house::Route* other = house.route(id);
        if (other == nullptr) continue;
        auto predicted = capacity::predict(house, catalog, *other);
        if (!predicted) continue;
        const bool shares =
            std::any_of(predicted->elements.begin(), predicted->elements.end(), [&](const auto& e) {
                return std::any_of(prediction->elements.begin(), prediction->elements.end(),
                                   [&](const auto& mine) { return mine.element.id == e.element.id; });
            });
        if (!shares) continue;
        predictions.push_back(std::move(*predicted));
        asked.others.push_back({&predictions.back(), std::move(own)});
    }
    return diagnose(asked);
}

} // namespace metrodos::trace
