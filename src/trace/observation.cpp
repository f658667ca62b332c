#include "trace/observation.h"

#include "benchmark/rate_steps.h"
#include "benchmark/run_measures.h"
#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "benchmark/tolerances.h"
#include "house/chain.h"
#include "trace/tolerances.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <span>

namespace metrodos::trace {
namespace {

using benchmark::Run;

// What most of the runs show.
std::optional<bool> majority(const std::vector<Symptoms>& all, std::optional<bool> Symptoms::*sign) {
    int yes = 0;
    int no = 0;
    for (const Symptoms& one : all)
        if (one.*sign) ++(*(one.*sign) ? yes : no);
    if (yes == no) return std::nullopt;
    return yes > no;
}

// Hardly a byte arrived for half of the time, while small requests were answered.
bool stalled(const Run& run) {
    std::size_t still = 0;
    std::size_t answered = 0;
    for (const benchmark::Sample& sample : run.samples) {
        if (sample.goodputBps > stalledBelow) continue;
        ++still;
        if (sample.rttUs) ++answered;
    }
    return 2 * still > run.samples.size() && 2 * answered > still;
}

// Whether the last third of the seconds is clearly below the first.
bool endsLower(const Run& run) {
    constexpr double clearly = 0.92;
    const std::vector<double> seconds = benchmark::wholeSeconds(run);
    const std::size_t third = seconds.size() / 3;
    return third > 0 && benchmark::mean(std::span(seconds).last(third)) <
                            clearly * benchmark::mean(std::span(seconds).first(third));
}

// The middle one of what the runs show.
std::optional<double> middle(const std::vector<Symptoms>& all, std::optional<double> Symptoms::*figure) {
    std::vector<double> values;
    for (const Symptoms& one : all)
        if (one.*figure) values.push_back(*(one.*figure));
    if (values.empty()) return std::nullopt;
    return benchmark::quantile(values, 0.5);
}

// Whether a run was held by its own order, or by others, so that the route may carry more. Datagrams that
// were sent faster than they arrived were not.
bool saysAtLeast(const Run& run) {
    if (run.config.protocol == benchmark::Protocol::udp) {
        constexpr double overfull = 0.03;
        if (!run.datagrams || run.datagrams->sent == 0 || !run.config.group.empty()) return true;
        const auto lostAtHost =
            static_cast<double>(run.datagrams->dropped) / static_cast<double>(run.datagrams->sent);
        return run.datagrams->lossRatio() - lostAtHost < overfull;
    }
    return run.config.rate || !run.config.group.empty() || run.config.windowBytes > 0 ||
           run.conditions.othersActive.value_or(false);
}

} // namespace

Symptoms symptomsOf(const Run& run) {
    Symptoms out;
    if (run.rttIdleUs && run.rttLoadedUs) {
        const double rise = run.rttLoadedUs->p50 - run.rttIdleUs->p50;
        const double threshold = std::max(risesFromUs, risesFrom * run.rttIdleUs->p50);
        if (rise > threshold)
            out.queue = true;
        else if (rise < threshold / 2)
            out.queue = false;
    }
    if (run.senderLimited) {
        out.window = run.senderLimited->receiverWindow > heldFrom;
        out.buffer = run.senderLimited->sendBuffer > heldFrom;
    }
    if (run.cpuSender) out.coreSender = *run.cpuSender >= benchmark::fullCore;
    if (run.cpuReceiver) out.coreReceiver = *run.cpuReceiver >= benchmark::fullCore;
    out.resent = benchmark::resentShare(run);
    if (const auto spread = benchmark::secondsSpread(run)) {
        out.spread = spread;
        if (*spread > unsteadyFrom)
            out.unsteady = true;
        else if (*spread < steadyBelow)
            out.unsteady = false;
    }
    out.stalls = stalled(run);
    if (run.seconds >= leastForSteps && !*out.stalls) {
        // Steps are looked for only where the end is lower than the beginning: most runs are even.
        const std::vector<benchmark::RateStep> steps =
            endsLower(run) ? benchmark::rateSteps(run) : std::vector<benchmark::RateStep>{};
        out.falls = !steps.empty() && steps.back().after.bps() < fallsBelow * steps.front().before.bps();
        if (*out.falls) { // seconds on two levels say nothing of how steady either was
            out.spread.reset();
            out.unsteady.reset();
        }
    }
    for (const auto& count : {run.interfaceSender, run.interfaceReceiver})
        if (count && count->errors) out.errors = out.errors.value_or(false) || *count->errors > 0;
    return out;
}

Model::Model(const capacity::RoutePrediction& prediction, const house::House& house,
             const catalog::Catalog& catalog)
    : m_house(house)
    , m_catalog(catalog) {
    add(prediction);
}

void Model::add(const capacity::RoutePrediction& prediction) {
    Unknowns made = unknownsOf(prediction, m_house, m_catalog);
    Route route;
    route.prediction = &prediction;
    const auto place = [&](const std::string& name, Unknown&& unknown, double middle) {
        const auto [it, isNew] = m_known.emplace(name, m_unknowns.size());
        if (isNew) {
            m_middle[it->second] = middle;
            m_unknowns.push_back(std::move(unknown));
        }
        return it->second;
    };
    for (std::size_t i = 0; i < made.elements; ++i) {
        // By the sense, not by the direction: another route may pass it the other way round.
        const auto& e = prediction.elements[i];
        const auto& spread = senseOf(prediction.elements, i, true) == 0 ? e.forward : e.backward;
        const double middle = std::log(spread.p50.bps());
        const std::string name = std::string(house::name(e.element.kind)) + ' ' + e.element.id;
        const std::size_t at = place(name, std::move(made.all[i]), middle);
        route.unknown.push_back(at);
        route.gain.push_back(middle - m_middle[at]);
        if (house::isMedium(e.element.kind) && !m_twins.contains(at)) {
            m_twins[at] = m_unknowns.size();
            m_unknowns.push_back(twinOf(m_unknowns[at]));
        }
    }
    for (LossUnknown& loss : made.losses)
        route.losses.emplace_back(loss.at, place("loss " + loss.unknown.element, std::move(loss.unknown), 0));
    Unknown& from = made.all[made.windowAtFrom()];
    Unknown& to = made.all[made.windowAtTo()];
    const std::string fromName = "window " + from.element;
    const std::string toName = "window " + to.element;
    route.windowAtFrom = place(fromName, std::move(from), 0);
    route.windowAtTo = place(toName, std::move(to), 0);
    // It may be in any stretch between two boxes, and a run that leaves the stretch out does not meet it.
    for (std::size_t i = 0; i < made.elements; ++i) {
        const house::Element& e = prediction.elements[i].element;
        if (e.kind != house::ElementKind::cable) continue;
        Unknown here = made.all[made.unlistedOne()];
        here.stretch = e.id;
        route.unlisted.emplace_back(i, place("unlisted " + e.id, std::move(here), 0));
    }
    if (route.unlisted.empty())
        route.unlisted.emplace_back(made.elements, place("unlisted " + prediction.route.id,
                                                         std::move(made.all[made.unlistedOne()]), 0));
    m_routes.push_back(std::move(route));
}

const Model::Route* Model::find(const house::Id& route) const {
    if (route.empty()) return &m_routes.front();
    for (const Route& one : m_routes)
        if (one.prediction->route.id == route) return &one;
    return nullptr;
}

std::vector<Term> Model::terms(const RunShape& how, const house::Id& id, std::optional<double> rttUs) const {
    const Route* route = find(id);
    if (route == nullptr) return {};
    const auto& elements = route->prediction->elements;
    std::vector<house::Element> plain;
    for (const auto& e : elements)
        plain.push_back(e.element);
    const std::vector<bool> in = house::passed(plain, how.arrangement.setup, how.arrangement.bypassed);
    const house::RouteShape shape = house::shapeOf(plain);
    std::vector<Term> out;
    for (std::size_t i = 0; i < elements.size(); ++i) {
        if (!in[i]) continue;
        // Machines that changed places take their sockets and ports with them, and pass them the other way.
        const bool end = shape.isAtEnd(i);
        const bool forward = how.arrangement.swapped && end ? !how.forward : how.forward;
        Term term{route->unknown[i], senseOf(elements, i, forward), route->gain[i]};
        for (const benchmark::Alteration& a : how.arrangement.altered)
            if (a.element == plain[i].id) lift(term, a.kind);
        out.push_back(term);
    }
    const auto roundTrip = [&] {
        return std::max(rttUs.value_or(how.arrangement.setup == house::Setup::baseline
                                           ? m_catalog.wiredRttMicroseconds * 2
                                           : route->prediction->rttMicroseconds.p50),
                        20.0);
    };
    // Datagrams know no such bound.
    if (how.streams < benchmark::maxStreams)
        for (const auto& [i, unknown] : route->losses)
            if (in[i])
                out.push_back({unknown, senseOf(elements, i, how.forward),
                               std::log(lossBound(roundTrip()) * how.streams)});
    const bool receivesAtTo = how.forward != how.arrangement.swapped;
    const std::size_t receiver = receivesAtTo ? elements.size() - 1 : 0;
    if (in[receiver] && house::isMachine(elements[receiver].element.kind)) {
        out.push_back({receivesAtTo ? route->windowAtTo : route->windowAtFrom, 0,
                       std::log(8e6 * how.streams / roundTrip())});
    }
    if (how.arrangement.setup == house::Setup::place)
        for (const auto& [i, unknown] : route->unlisted)
            if (i >= elements.size() || in[i]) out.push_back({unknown, 0, 0});
    return out;
}

// Another outlet is another place on the medium, whatever was wrong at the first.
void Model::lift(Term& term, house::AlterationKind how) const {
    const auto twin = m_twins.find(term.unknown);
    if (twin == m_twins.end()) return;
    term.twin = twin->second;
    term.lifted |=
        how == house::AlterationKind::other_outlet ? allStates : m_unknowns[term.unknown].curedBy(how);
}

std::vector<Observation> Model::observations(const PredictedRuns& route) const {
    struct Alike {
        Observation observation;
        std::vector<double> lnRates;
        std::vector<double> rtts;
        std::vector<Symptoms> symptoms;
    };
    struct Kind {
        RunShape shape;
        bool atLeast = false;
        bool fromMemory = false;
        bool operator==(const Kind& o) const {
            return shape == o.shape && atLeast == o.atLeast && fromMemory == o.fromMemory;
        }
    };
    std::vector<std::pair<Kind, Alike>> groups;
    // Only simulated endpoints read and write their disks in a run.
    const bool isOfCopies = !route.prediction->route.fileProtocol.empty();
    const house::Id id = route.prediction->route.id;
    // Where the appliances that ran were written down, runs without any are quiet ones.
    const bool appliancesNoted = std::any_of(route.runs.begin(), route.runs.end(),
                                             [](const Run& r) { return !r.conditions.appliances.empty(); });
    // A twin stands for one other place of a medium, the first that was tried; of other sockets and ports
    // there is none, and nothing follows for the surveyed ones from what they carry.
    std::map<house::Id, std::string> firstPlace;
    const auto isOfOtherThings = [&](const benchmark::Alteration& a) {
        if (a.kind != house::AlterationKind::other_outlet || a.place.empty()) return false;
        const auto& elements = route.prediction->elements;
        const bool isMedium = std::any_of(elements.begin(), elements.end(), [&](const auto& e) {
            return e.element.id == a.element && house::isMedium(e.element.kind);
        });
        return !isMedium || firstPlace.try_emplace(a.element, a.place).first->second != a.place;
    };
    for (const Run& run : route.runs) {
        const auto& altered = run.config.arrangement.altered;
        if (std::any_of(altered.begin(), altered.end(), isOfOtherThings)) continue;
        if (run.samples.size() < 5 || (run.goodput.bps() <= 0 && !stalled(run))) continue;
        RunShape how{run.config.direction == benchmark::Direction::forward,
                     run.config.protocol == benchmark::Protocol::udp ? benchmark::maxStreams
                                                                     : run.config.streams,
                     run.config.arrangement};
        if (appliancesNoted && run.conditions.appliances.empty())
            for (const auto& e : route.prediction->elements)
                if (e.element.kind == house::ElementKind::mains)
                    how.arrangement.altered.push_back({e.element.id, house::AlterationKind::appliances_off});
        std::sort(how.arrangement.altered.begin(), how.arrangement.altered.end());
        how.arrangement.altered.erase(
            std::unique(how.arrangement.altered.begin(), how.arrangement.altered.end()),
            how.arrangement.altered.end());
        const bool atLeast = saysAtLeast(run);
        const Kind key{how, atLeast, isOfCopies && !run.simulated};
        auto it = std::find_if(groups.begin(), groups.end(), [&](const auto& g) { return g.first == key; });
        if (it == groups.end()) {
            groups.push_back({key, {}});
            it = groups.end() - 1;
            it->second.observation.route = id;
            it->second.observation.shape = how;
            it->second.observation.atLeast = atLeast;
            it->second.observation.fromMemory = key.fromMemory;
        }
        Alike& alike = it->second;
        alike.observation.runs.push_back(run.id);
        alike.lnRates.push_back(std::log(std::max(run.goodput.bps(), stalledBelow)));
        if (run.rttIdleUs) alike.rtts.push_back(run.rttIdleUs->p50);
        alike.symptoms.push_back(symptomsOf(run));
    }
    std::vector<Observation> out;
    for (auto& [key, alike] : groups) {
        Observation& o = alike.observation;
        // Of bounds the highest speaks, of rates the middle one.
        o.lnRate = o.atLeast ? *std::max_element(alike.lnRates.begin(), alike.lnRates.end())
                             : benchmark::quantile(alike.lnRates, 0.5);
        double squares = 0;
        for (const double rate : alike.lnRates)
            squares += std::pow(rate - o.lnRate, 2);
        const auto n = static_cast<double>(alike.lnRates.size());
        const double spread = n > 1 ? std::sqrt(squares / (n - 1) / n) : 0;
        const int streams = o.shape.streams;
        o.below = std::hypot(streams == 1 ? belowWithOne : belowCeiling * (streams < 4 ? 1.5 : 1.0), spread);
        o.above = std::hypot(aboveCeiling, spread);
        o.terms =
            terms(o.shape, id,
                  alike.rtts.empty() ? std::nullopt : std::optional(benchmark::quantile(alike.rtts, 0.5)));
        if (o.fromMemory) {
            std::erase_if(o.terms, [&](const Term& t) {
                return m_unknowns[t.unknown].kind == house::ElementKind::storage &&
                       m_unknowns[t.unknown].part == Part::element;
            });
            for (Term& term : o.terms) // the ceilings have the protocol in them
                term.gain -= std::log(route.prediction->copyShare);
        }
        o.symptoms.queue = majority(alike.symptoms, &Symptoms::queue);
        o.symptoms.window = majority(alike.symptoms, &Symptoms::window);
        o.symptoms.buffer = majority(alike.symptoms, &Symptoms::buffer);
        o.symptoms.coreSender = majority(alike.symptoms, &Symptoms::coreSender);
        o.symptoms.coreReceiver = majority(alike.symptoms, &Symptoms::coreReceiver);
        o.symptoms.unsteady = majority(alike.symptoms, &Symptoms::unsteady);
        o.symptoms.errors = majority(alike.symptoms, &Symptoms::errors);
        o.symptoms.falls = majority(alike.symptoms, &Symptoms::falls);
        o.symptoms.stalls = majority(alike.symptoms, &Symptoms::stalls);
        o.symptoms.spread = middle(alike.symptoms, &Symptoms::spread);
        o.symptoms.resent = middle(alike.symptoms, &Symptoms::resent);
        out.push_back(std::move(o));
    }
    return out;
}

std::vector<Observation> Model::readings() const {
    constexpr double exact = 0.002;
    std::vector<Observation> out;
    const Route& route = m_routes.front();
    const auto& elements = route.prediction->elements;
    for (std::size_t i = 0; i < elements.size(); ++i) {
        const house::Connection* cable = m_house.connection(elements[i].element.connection);
        if (elements[i].element.kind != house::ElementKind::cable || cable == nullptr || !cable->linkedAt)
            continue;
        Observation o;
        o.route = route.prediction->route.id;
        o.link = elements[i].element.id;
        o.lnRate =
            std::log(capacity::goodput(*cable->linkedAt, capacity::framingOf(route.prediction->route)).bps() *
                     route.prediction->copyShare);
        o.below = o.above = exact;
        for (std::size_t k = i == 0 ? 0 : i - 1; k <= i + 1 && k < elements.size(); ++k)
            if (k == i || elements[k].element.kind == house::ElementKind::port)
                o.terms.push_back({route.unknown[k], 0, route.gain[k]});
        out.push_back(std::move(o));
    }
    for (std::size_t i = 0; i < elements.size(); ++i)
        for (const bool forward : {true, false})
            if (auto symptoms = phyReading(route, i, forward)) out.push_back(std::move(*symptoms));
    return out;
}

// What the adapters on both sides of a medium show of their modems, as a rate of TCP over it.
std::optional<Observation> Model::phyReading(const Route& route, std::size_t i, bool forward) const {
    const house::Element& element = route.prediction->elements[i].element;
    const house::Connection* connection = m_house.connection(element.connection);
    if (!house::isMedium(element.kind) || connection == nullptr) return std::nullopt;
    const catalog::MediumClass* medium = m_catalog.medium(connection->medium);
    const house::Id& from = forward ? element.entry.device : element.exit.device;
    const house::Id& to = forward ? element.exit.device : element.entry.device;
    for (const house::PhyReading& reading : connection->phyRates) {
        if (medium == nullptr || reading.from != from || reading.to != to) continue;
        constexpr double ninetieth = 1.2816; // quantile of the normal distribution
        Observation o;
        o.route = route.prediction->route.id;
        o.link = element.id;
        o.shape.forward = forward;
        const catalog::Spread<double>& share = medium->phyShare;
        o.lnRate = std::log(reading.rate.bps() * share.p50);
        o.below = std::log(share.p50 / share.p10) / ninetieth;
        o.above = std::log(share.p90 / share.p50) / ninetieth;
        Term term{route.unknown[i], senseOf(route.prediction->elements, i, forward), route.gain[i]};
        lift(term, house::AlterationKind::phy_rate);
        o.terms = {term};
        return o;
    }
    return std::nullopt;
}

} // namespace metrodos::trace
