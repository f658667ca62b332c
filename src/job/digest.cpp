#include "job/digest.h"

#include "capacity/plant_ceiling.h"
#include "fit/steps.h"
#include "house/findings.h"
#include "house/route.h"
#include "job/log.h"
#include "quantity/format.h"
#include "quantity/text.h"
#include "trace/diagnose.h"
#include "trace/probability_text.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace metrodos::job {
namespace {

using house::Medium;

constexpr double likely = 0.5; // above it the medium itself is what was measured

void append(std::string& to, const std::string& text, const char* between = "; ") {
    if (text.empty()) return;
    to += (to.empty() ? "" : between) + text;
}

std::string classesOf(const house::House& house, const catalog::Catalog& catalog) {
    std::set<std::string> labels;
    for (const house::Device& d : house.devices)
        if (const auto* cls = catalog.device(d.deviceClass)) labels.insert(cls->label);
    for (const house::Connection& c : house.connections)
        if (const auto* cable = catalog.cable(c.cableClass)) labels.insert(cable->label);
    std::string out;
    for (const std::string& label : labels)
        append(out, label);
    return out;
}

std::string notesOf(const Document& d) {
    std::string out;
    for (const house::StepRecord& r : d.house.fitting.records) {
        append(out, r.note);
        append(out, r.reason);
    }
    for (const house::SetAside& s : d.house.setAside)
        append(out, s.reason);
    for (const house::DatedChange& c : d.house.changes)
        append(out, c.text);
    std::set<std::string> changed;
    for (const benchmark::RouteRun& r : d.runs)
        changed.insert(r.run.conditions.changed);
    for (const std::string& text : changed)
        append(out, text);
    return out;
}

// The circuit that an end of a mains network is on.
const house::Circuit* circuitOf(const house::House& house, const house::PortRef& end) {
    const house::Port* port = house.port(end);
    const house::Id jack = port == nullptr ? end.device : port->jack;
    if (jack.empty()) return nullptr;
    for (const house::Circuit& c : house.circuits)
        if (std::any_of(c.outlets.begin(), c.outlets.end(),
                        [&](const house::CircuitOutlet& o) { return o.jack == jack; }))
            return &c;
    return nullptr;
}

std::optional<MeasuredPair> pairOf(const house::House& house, const catalog::Catalog& catalog,
                                   const house::Route& route, const trace::Diagnosis& d) {
    const auto elements = house::RouteFinder(house).find(route);
    if (!elements) return std::nullopt;
    const house::Element* medium = nullptr;
    for (const house::Element& e : *elements) {
        if (!house::isMedium(e.kind)) continue;
        if (medium != nullptr) return std::nullopt; // two of them: whose figure it is cannot be told
        medium = &e;
    }
    const house::Connection* connection = medium == nullptr ? nullptr : house.connection(medium->connection);
    if (connection == nullptr) return std::nullopt;
    const auto* cls = capacity::slowerClass(house, catalog, *medium, catalog::familyOf(connection->medium));
    MeasuredPair out;
    out.medium = connection->medium;
    out.deviceClass = cls == nullptr ? "" : cls->id;
    out.situation = situationOf(house, *connection);
    if (out.deviceClass.empty() || out.situation.empty()) return std::nullopt;
    double sum = 0;
    double count = 0;
    for (const auto& rate : {d.measuredForward, d.measuredBackward})
        if (rate && rate->bps() > 0) {
            sum += std::log(rate->bps());
            ++count;
        }
    if (count == 0) return std::nullopt;
    out.goodput = quantity::BitRate::bitsPerSecond(std::exp(sum / count));
    double probability = 0;
    for (const trace::Suspect& s : d.suspects)
        if (s.element == medium->id) probability = s.probability;
    out.isAtLeast = probability < likely;
    return out;
}

} // namespace

std::string situationOf(const house::House& house, const house::Connection& connection) {
    if (!connection.situation.empty()) return connection.situation;
    if (connection.medium != Medium::mains || connection.ends.size() != 2) return {};
    const house::Circuit* a = circuitOf(house, connection.ends[0]);
    const house::Circuit* b = circuitOf(house, connection.ends[1]);
    if (a == nullptr || b == nullptr) return {};
    if (a == b) return "same_circuit";
    if (a->panel != b->panel) return "other_panel";
    return a->leg.empty() || b->leg.empty() || a->leg == b->leg ? "same_panel" : "other_leg";
}

Digest digestOf(const Document& document, const catalog::Catalog& catalog) {
    const house::House& house = document.house;
    const benchmark::RouteRuns runs = evidence(document.runs, house);
    Digest out;
    out.label = house.name;
    for (const house::Room& r : house.rooms)
        append(out.places, r.label, ", ");
    for (const benchmark::RouteRun& r : document.runs) {
        const std::string day = r.run.startedAt.substr(0, 10);
        if (day.size() < 10) continue;
        if (out.firstDay.empty() || day < out.firstDay) out.firstDay = day;
        if (day > out.lastDay) out.lastDay = day;
    }
    out.runs = static_cast<int>(document.runs.size());
    out.classes = classesOf(house, catalog);
    const auto findings = house::findings(house);
    for (const quantity::Problem& p : findings)
        append(out.findings, p.sentence(), " ");
    std::size_t open = 0;
    for (const fit::Step& s : fit::stepsOf(house, catalog))
        open += s.state == house::StepState::open || s.state == house::StepState::failed ? 1 : 0;
    if (!findings.empty())
        append(out.open, quantity::counted(static_cast<long long>(findings.size()), "finding"), ", ");
    if (open > 0) append(out.open, quantity::counted(static_cast<long long>(open), "step"), ", ");
    double surest = 0;
    for (const house::Route& route : house.routes) {
        if (benchmark::runsOf(runs, route.id).empty()) continue;
        const auto d = trace::diagnoseRoute(house, catalog, route, runs);
        if (!d) continue;
        append(out.findings, d->sentence, " ");
        if (!d->suspects.empty() && d->suspects.front().probability > surest) {
            surest = d->suspects.front().probability;
            out.limit = d->suspects.front().label + " (" + trace::probabilityText(surest) + ")";
        }
        if (const auto pair = pairOf(house, catalog, route, *d)) out.pairs.push_back(*pair);
    }
    out.notes = notesOf(document);
    out.statements = benchmark::statementsOf(house, counted(document.runs, house), house.measuring.summary);
    return out;
}

} // namespace metrodos::job
