#include "trace/diagnose.h"

#include "benchmark/statistics.h"
#include "quantity/format.h"
#include "trace/explain.h"
#include "trace/limiters.h"
#include "trace/next_tests.h"
#include "trace/probability_text.h"
#include "trace/promises.h"
#include "trace/route_taken.h"
#include "trace/signatures.h"
#include "trace/together.h"
#include "trace/tolerances.h"

#include <algorithm>
#include <cmath>
#include <functional>

namespace metrodos::trace {
namespace {

using benchmark::Direction;
using benchmark::Run;
using quantity::plain;

// Works out one diagnosis, step by step.
class Work {
  public:
    explicit Work(const Case& asked)
        : m_asked(overTheRoute(asked, m_out))
        , m_model(asked.prediction, asked.house, asked.catalog) {
        collect();
        m_question = questionOf(m_model, m_observations);
        m_out.route = asked.prediction.route.id;
        m_particles = infer(m_model.unknowns(), m_observations, asked.particles, asked.seed,
                            [this](const std::vector<Particle>& particles) {
                                m_history.push_back(
                                    byElement(answer(m_question, particles), m_model.unknowns(), particles));
                            });
        m_answer = answer(m_question, m_particles);
    }

    Diagnosis result() {
        std::vector<Run> free;
        std::copy_if(m_asked.runs.begin(), m_asked.runs.end(), std::back_inserter(free),
                     [](const Run& run) { return run.showsCeiling(); });
        const benchmark::Rule rule = m_asked.house.measuring.summary;
        m_out.summaryForward = benchmark::capacitySummary(free, Direction::forward, rule);
        m_out.summaryBackward = benchmark::capacitySummary(free, Direction::backward, rule);
        if (m_out.summaryForward) m_out.measuredForward = m_out.summaryForward->goodput;
        if (m_out.summaryBackward) m_out.measuredBackward = m_out.summaryBackward->goodput;
        m_readings = readSignatures(m_asked.prediction, m_asked.catalog, free);
        suspects();
        directions();
        lifts();
        tests();
        warnings();
        sentence();
        return std::move(m_out);
    }

  private:
    // Without the runs that went another way; they are named.
    static Case overTheRoute(const Case& asked, Diagnosis& out) {
        Case kept = asked;
        std::map<std::string, std::vector<std::string>> why;
        std::erase_if(kept.runs, [&](const Run& run) {
            const auto reason = saysNothing(run, asked.prediction);
            if (!reason) return false;
            why[*reason].push_back(run.id);
            out.leftOut.push_back(run.id);
            return true;
        });
        for (const auto& [reason, runs] : why)
            out.warnings.push_back((runs.size() == 1
                                        ? std::string("a run says nothing of this route: ")
                                        : std::to_string(runs.size()) + " runs say nothing of this route: ") +
                                   reason);
        return kept;
    }

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
        std::ranges::stable_sort(ranked, std::ranges::greater(), &std::pair<double, house::Id>::first);
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
                const Without rest = without({id}, m_question, m_answer, m_model.unknowns(), m_particles);
                suspect.ifReplaced = rest.carries.p50;
                suspect.ifReplacedSpread = rest.carries;
                suspect.cost = costOf({suspect.element}, rest.carries.p50);
                suspect.next = labelOf(rest.next);
                for (const house::Id& equal :
                     equalsOf(id, m_question, m_answer, m_model.unknowns(), m_particles)) {
                    suspect.equals.push_back(labelOf(equal));
                    suspect.equalIds.push_back(equal);
                }
            }
            m_out.suspects.push_back(std::move(suspect));
        }
        m_out.nextElement = m_out.suspects.front().next;
    }

    // Each direction has its own limit.
    void directions() {
        for (const std::size_t d : {std::size_t{0}, std::size_t{1}}) {
            Question one = m_question;
            one.only = d;
            const Answer answered = answer(one, m_particles);
            const auto probabilities = byElement(answered, m_model.unknowns(), m_particles);
            const auto most =
                std::ranges::max_element(probabilities, {}, [](const auto& one) { return one.second; });
            if (most == probabilities.end()) continue;
            std::vector<std::pair<double, double>> rates;
            for (std::size_t k = 0; k < m_particles.size(); ++k)
                if (m_model.unknowns()[answered.limiter[k]].element == most->first)
                    rates.emplace_back(answered.lnRate[k], m_particles[k].weight);
            const auto& measured = d == 0 ? m_out.measuredForward : m_out.measuredBackward;
            const auto& need =
                d == 0 ? m_asked.prediction.route.needForward : m_asked.prediction.route.needBackward;
            m_expected[d] = d == 0 ? m_asked.prediction.forward.p50 : m_asked.prediction.backward.p50;
            // A way that was not measured is expected to carry what is known of its parts by now: the other
            // way was measured, or a modem shows its rate.
            if (!measured && !m_observations.empty()) {
                std::vector<std::pair<double, double>> all;
                for (std::size_t k = 0; k < m_particles.size(); ++k)
                    all.emplace_back(answered.lnRate[k], m_particles[k].weight);
                m_expected[d] = spreadOf(std::move(all)).p50;
            }
            (d == 0 ? m_out.limitForward : m_out.limitBackward) =
                DirectionLimit{most->first, labelOf(most->first), most->second,
                               measured && most->second > 0.5 ? *measured : spreadOf(std::move(rates)).p50};
            if (need)
                (d == 0 ? m_out.forwardMet : m_out.backwardMet) = measured.value_or(m_expected[d]) >= *need;
        }
    }

    // The first suspect with its equals; then with what would be next, and so on while that is more.
    void lifts() {
        constexpr double more = 1.05;
        constexpr std::size_t steps = 4;
        const Suspect& first = m_out.suspects.front();
        if (first.element == unlisted) return;
        const auto& need =
            m_forward ? m_asked.prediction.route.needForward : m_asked.prediction.route.needBackward;
        std::vector<house::Id> exchange{first.element};
        BitRate before = first.ceiling;
        for (std::size_t step = 0; step < 4 * steps && m_out.lifts.size() < steps; ++step) {
            const Without rest = without(exchange, m_question, m_answer, m_model.unknowns(), m_particles);
            if (rest.carries.p50 > before * more) {
                Lift lift;
                lift.exchange = exchange;
                lift.then = rest.carries.p50;
                lift.next = labelOf(rest.next);
                for (const house::Id& id : exchange)
                    lift.labels.push_back(labelOf(id));
                lift.cost = costOf(exchange, lift.then);
                before = lift.then;
                m_out.lifts.push_back(std::move(lift));
                if (!need || before >= *need) break;
            }
            if (rest.next == unlisted ||
                std::find(exchange.begin(), exchange.end(), rest.next) != exchange.end())
                break;
            exchange.push_back(rest.next);
        }
        if (!m_out.lifts.empty()) m_out.nextElement = m_out.lifts.front().next;
    }

    // The cheapest boxes of the same family that carry so much, each once; nothing where one of the elements
    // is no box.
    [[nodiscard]] std::optional<quantity::Money> costOf(const std::vector<house::Id>& elements,
                                                        BitRate rate) const {
        std::map<house::Id, quantity::Money> boxes;
        for (const house::Id& id : elements) {
            const auto e =
                std::find_if(m_asked.prediction.elements.begin(), m_asked.prediction.elements.end(),
                             [&](const auto& one) { return one.element.id == id; });
            if (e == m_asked.prediction.elements.end()) return std::nullopt;
            const house::Device* device = m_asked.house.device(e->element.device);
            const catalog::DeviceClass* now =
                device == nullptr ? nullptr : m_asked.catalog.device(device->deviceClass);
            if (now == nullptr) return std::nullopt;
            const catalog::DeviceClass* best = nullptr;
            for (const catalog::DeviceClass& cls : m_asked.catalog.devices) {
                const catalog::Phy* phy = m_asked.catalog.phy(cls.ethernetPhy);
                if (cls.family != now->family || phy == nullptr || cls.goodput.p50 < rate * 0.99 ||
                    capacity::goodput(phy->rate, {}) < rate * 0.99)
                    continue;
                if (best == nullptr || cls.price < best->price) best = &cls;
            }
            if (best == nullptr) return std::nullopt;
            boxes[device->id] = best->price;
        }
        quantity::Money sum;
        for (const auto& [id, price] : boxes)
            sum = sum + price;
        return sum;
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

    // The cable in whose stretch something that is not in the survey is to be looked for; empty: in no one
    // more than in others.
    [[nodiscard]] house::Id likelyStretch() const {
        constexpr double likely = 0.6;
        std::map<house::Id, double> weights;
        double all = 0;
        for (std::size_t k = 0; k < m_particles.size(); ++k) {
            const Unknown& unknown = m_model.unknowns()[m_answer.limiter[k]];
            if (unknown.part != Part::unlisted) continue;
            weights[unknown.stretch] += m_particles[k].weight;
            all += m_particles[k].weight;
        }
        for (const auto& [stretch, weight] : weights)
            if (weight > likely * all) return stretch;
        return {};
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
            if (const house::Id stretch = likelyStretch(); !stretch.empty())
                out.push_back("most likely in the stretch of “" + labelOf(stretch) + "”");
        }
        for (const auto& e : m_asked.prediction.elements) {
            if (e.element.id != suspect.element) continue;
            out.push_back(e.ceiling.because);
            if (!suspect.state.empty())
                out.push_back("where it is the limit: " + suspect.state + " (" +
                              probabilityText(suspect.stateProbability) + ")");
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
                          probabilityText(e.before) + " to " + probabilityText(e.after));
    }

    void tests() {
        const double sure = m_out.suspects.front().probability;
        if (sure < certainFrom || m_asked.runs.empty()) {
            m_out.nextTests = ranked(candidates(m_asked, m_observations), m_model, m_answer, m_particles);
            if (!m_out.nextTests.empty())
                m_out.nextTests.front().outcomes =
                    outcomesOf(m_out.nextTests.front(), m_model, m_answer, m_particles);
        }
        // No single run could tell it, however sure they are of themselves.
        if (auto both = bothAtOnce(m_asked, m_out.suspects))
            m_out.nextTests.insert(m_out.nextTests.begin(), std::move(*both));
    }

    void warnings() {
        for (const Reading& reading : m_readings)
            if (reading.element.empty())
                m_out.warnings.push_back(reading.text +
                                         (!reading.isFarBelow ? ""
                                          : m_out.suspects.front().element == unlisted
                                              ? "; something that is not in the survey holds it back"
                                              : "; something in the way is not as it should be"));
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
        for (std::string& text : slowPorts(m_asked.prediction, m_asked.house, m_asked.catalog))
            m_out.warnings.push_back(std::move(text));
        m_out.sold = soldAgainstMeasured(m_asked, m_out);
        aboutMedia();
        std::vector<std::string> once; // nothing is said twice
        for (std::string& warning : m_out.warnings)
            if (std::find(once.begin(), once.end(), warning) == once.end())
                once.push_back(std::move(warning));
        m_out.warnings = std::move(once);
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
        const BitRate carried = measured.value_or(m_expected[m_forward ? 0 : 1]);
        m_out.carried = carried;
        m_out.needMet = need && carried >= *need;
        std::string& out = m_out.sentence;
        out = (anyRun ? "The limit is " : "Expected limit: ") + first.label + " (" +
              probabilityText(first.probability) + "): " + plainBoth(carried);
        if (const auto other = otherWay()) out += "; " + *other;
        if (m_out.needMet)
            out += ". That meets the need of " + plain(*need) + ": nothing to replace";
        else if (!m_out.lifts.empty())
            out += liftWords();
        out += ".";
    }

    // What limits the other direction, where both were measured and it is something else.
    [[nodiscard]] std::optional<std::string> otherWay() const {
        const auto& other = m_forward ? m_out.limitBackward : m_out.limitForward;
        const Suspect& first = m_out.suspects.front();
        if (!m_out.measuredForward || !m_out.measuredBackward || !other || other->probability <= 0.5 ||
            other->element == first.element || other->element == unlisted ||
            std::find(first.equalIds.begin(), first.equalIds.end(), other->element) != first.equalIds.end())
            return std::nullopt;
        return std::string(m_forward ? "back" : "forward") + " it is " + other->label + " (" +
               probabilityText(other->probability) + "): " + plainBoth(other->ceiling);
    }

    [[nodiscard]] std::string liftWords() const {
        const Lift& lift = m_out.lifts.front();
        if (lift.exchange.size() == 1)
            return ". Without it " + lift.next + " would allow " + plain(lift.then);
        std::string all;
        for (std::size_t i = 1; i < lift.labels.size(); ++i)
            all += (i == 1 ? "" : i + 1 == lift.labels.size() ? " and " : ", ") + lift.labels[i];
        return ". With " + all + " exchanged as well, " + lift.next + " would allow " + plain(lift.then);
    }

    Diagnosis m_out;
    const Case m_asked; // its runs are those over the route
    Model m_model;
    std::vector<Observation> m_observations;
    std::vector<const capacity::RoutePrediction*> m_from; // by observation
    Question m_question;
    std::vector<std::map<house::Id, double>> m_history; // before the first observation, and after each
    std::vector<Particle> m_particles;
    Answer m_answer;
    std::vector<Reading> m_readings;
    std::array<BitRate, 2> m_expected{}; ///< by direction, where it was not measured
    bool m_forward = true;
};

} // namespace

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
