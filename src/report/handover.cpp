#include "report/handover.h"

#include "benchmark/revisit.h"
#include "benchmark/statistics.h"
#include "benchmark/week.h"
#include "capacity/predict.h"
#include "fit/labels.h"
#include "fit/steps.h"
#include "house/findings.h"
#include "job/log.h"
#include "job/record_digest.h"
#include "quantity/format.h"
#include "quantity/moment.h"
#include "quantity/text.h"
#include "trace/diagnose.h"
#include "weigh/need.h"

#include <algorithm>
#include <map>

namespace metrodos::report {
namespace {

using benchmark::Direction;
using quantity::BitRate;

constexpr Direction directions[] = {Direction::forward, Direction::backward};

std::string sentence(std::string text) {
    if (text.empty()) return text;
    text[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text[0])));
    if (text.back() != '.' && text.back() != '!' && text.back() != '?') text += '.';
    return text;
}

std::string rangeWords(const catalog::RateSpread& s) {
    const std::string low = quantity::plain(s.p10);
    const std::string high = quantity::plain(s.p90);
    return low == high ? low : low + " to " + high;
}

// What stays in the house, as against what was tried and proven.
bool isFitting(fit::StepKind kind) {
    using fit::StepKind;
    return kind != StepKind::baseline && kind != StepKind::bench && kind != StepKind::outlets &&
           kind != StepKind::lights && kind != StepKind::check;
}

std::string sureWords(double probability) {
    constexpr double certain = 0.99;
    return probability > certain ? "more than 99 % sure"
                                 : quantity::significant(probability * 100, 2) + " % sure";
}

// What makes a document of one job: its runs get their numbers here as figures name them.
class Maker {
  public:
    Maker(const job::Document& job, const catalog::Catalog& catalog, const HandOverSettings& settings)
        : m_job(job)
        , m_house(job.house)
        , m_catalog(catalog)
        , m_settings(settings)
        , m_runs(job::counted(job.runs, job.house))
        , m_steps(fit::stepsOf(job.house, catalog)) {
        const benchmark::RouteRuns judged = job::evidence(job.runs, job.house);
        for (const house::Route& route : m_house.routes)
            if (!benchmark::runsOf(judged, route.id).empty())
                if (auto d = trace::diagnoseRoute(m_house, catalog, route, judged))
                    m_verdicts.emplace(route.id, std::move(*d));
    }

    Document client();
    Document technician();

  private:
    Document begin(const std::string& subtitle) const {
        Document d;
        d.title = m_house.name;
        d.subtitle = subtitle;
        d.date = m_settings.date;
        d.firm = m_settings.firm;
        d.digest = job::recordDigest(m_job);
        return d;
    }
    Document finish(Document d) {
        std::erase_if(d.chapters, [](const Chapter& c) { return c.blocks.empty(); });
        if (!m_settings.chapters.empty()) {
            std::vector<Chapter> wanted;
            for (const std::string& id : m_settings.chapters)
                for (const Chapter& c : d.chapters)
                    if (c.id == id) wanted.push_back(c);
            d.chapters = std::move(wanted);
        }
        for (Chapter& c : d.chapters)
            for (const auto& [id, note] : m_settings.notes)
                if (c.id == id) c.note = note;
        for (const benchmark::RouteRun* r : m_named)
            d.proof.push_back({r->run.id, runWords(*r)});
        return d;
    }

    // Which numbers the runs have; they get one when they are first named.
    std::vector<int> numbersOf(const std::vector<const benchmark::RouteRun*>& runs) {
        std::vector<int> out;
        for (const benchmark::RouteRun* r : runs) {
            const auto known = m_numbers.find(r->run.id);
            if (known != m_numbers.end()) {
                out.push_back(known->second);
                continue;
            }
            m_named.push_back(r);
            m_numbers[r->run.id] = static_cast<int>(m_named.size());
            out.push_back(static_cast<int>(m_named.size()));
        }
        return out;
    }
    [[nodiscard]] std::string runWords(const benchmark::RouteRun& r) const {
        const benchmark::Run& run = r.run;
        const house::Route* route = m_house.route(r.route);
        std::string out = run.startedAt + ", " + (route == nullptr ? r.route : route->label) + ", " +
                          name(run.config.direction) + ", " +
                          (run.config.protocol == benchmark::Protocol::tcp ? "TCP, " : "UDP, ") +
                          quantity::counted(run.config.streams, "stream") + ", " +
                          quantity::significant(run.seconds, 3) + " s, " + quantity::plainBoth(run.goodput);
        if (run.simulated) out += ", simulated";
        if (!run.complete) out += ", cut off";
        return out;
    }

    // Runs over the place, as fast as the way lets one go, of one way and direction, in days [from, until].
    [[nodiscard]] std::vector<const benchmark::RouteRun*>
    runsIn(const house::Id& route, Direction d, const std::string& from, const std::string& until) const {
        std::vector<const benchmark::RouteRun*> out;
        for (const benchmark::RouteRun& r : m_runs) {
            if (r.route != route || r.run.config.direction != d || !r.run.complete || !r.run.showsCeiling())
                continue;
            const std::string day = dayOf(r);
            if (day >= from && (until.empty() || day <= until)) out.push_back(&r);
        }
        return out;
    }
    static std::optional<catalog::RateSpread> spreadOf(const std::vector<const benchmark::RouteRun*>& runs) {
        std::vector<double> rates;
        for (const benchmark::RouteRun* r : runs)
            rates.push_back(r->run.goodput.bps());
        if (rates.empty()) return std::nullopt;
        const auto at = [&](double p) { return BitRate::bitsPerSecond(benchmark::quantile(rates, p)); };
        return catalog::RateSpread{at(0.1), at(0.5), at(0.9)};
    }

    /// Of each way, by its label: those that are sure, of appliances that somebody saw run.
    [[nodiscard]] std::vector<std::pair<std::string, benchmark::Coincidence>> coincidences() const;
    static std::string dayOf(const benchmark::RouteRun& r) {
        const auto at = quantity::utcSeconds(r.run.startedAt);
        return at ? quantity::localTime(*at).dateText() : std::string();
    }
    Chapter wanted() const;
    Chapter theHouse() const;
    Chapter found() const;
    Chapter fitted() const;
    Chapter ways();
    Chapter limits() const;
    Chapter declined() const;
    Chapter addresses() const;
    Chapter keys() const;
    Chapter slow() const;
    Chapter again() const;
    Chapter topology() const;
    Chapter allRuns();
    Chapter open() const;
    Chapter changes() const;
    Chapter method() const;

    const job::Document& m_job;
    const house::House& m_house;
    const catalog::Catalog& m_catalog;
    const HandOverSettings& m_settings;
    benchmark::RouteRuns m_runs;
    std::vector<fit::Step> m_steps;
    std::map<house::Id, trace::Diagnosis> m_verdicts;
    std::vector<const benchmark::RouteRun*> m_named;
    std::map<std::string, int> m_numbers;
};

Chapter Maker::wanted() const {
    Chapter c{"wanted", "What was wanted", {}};
    List list;
    for (const house::Spot& spot : m_house.spots) {
        const weigh::Need need = weigh::needOf(m_house, spot, m_catalog);
        std::string text = spot.label + ": ";
        const std::string uses = weigh::usesText(spot.uses, m_catalog, m_house);
        text += uses.empty() ? "" : uses + "; ";
        text += need.any() ? quantity::plainBoth(need.down) + " towards it, " + quantity::plainBoth(need.up) +
                                 " back"
                           : "no figure was named";
        list.items.push_back({sentence(text), {}});
    }
    if (!list.items.empty()) c.blocks.push_back(list);
    return c;
}

Chapter Maker::theHouse() const {
    Chapter c{"house", "The house", {}};
    if (m_house.rooms.empty()) return c;
    const auto count = [](std::size_t n, const char* one) {
        return quantity::counted(static_cast<long long>(n), one);
    };
    constexpr double upright = 1.4; // of a page
    c.blocks.push_back(Drawing{drawSection(m_house, upright),
                               "The house as a section: " + count(m_house.rooms.size(), "room") + ", " +
                                   count(m_house.jacks.size(), "jack") + ", " +
                                   count(m_house.devices.size(), "device") + "."});
    return c;
}

// One sentence for each way that was measured: what limits it, and how sure that is.
Chapter Maker::found() const {
    Chapter c{"found", "What was found", {}};
    List list;
    for (const house::Route& route : m_house.routes)
        if (const auto d = m_verdicts.find(route.id); d != m_verdicts.end())
            list.items.push_back({"“" + route.label + "”: " + sentence(d->second.sentence), {}});
    for (const auto& [way, k] : coincidences())
        list.items.push_back({"“" + way + "”: " + sentence(k.sentence), {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

std::vector<std::pair<std::string, benchmark::Coincidence>> Maker::coincidences() const {
    std::vector<std::pair<std::string, benchmark::Coincidence>> out;
    for (const house::Route& route : m_house.routes)
        for (benchmark::Coincidence& k : benchmark::coincidencesOf(m_house, m_runs, route.id))
            if (k.isReal && k.isNoted) out.emplace_back(route.label, std::move(k));
    return out;
}

Chapter Maker::fitted() const {
    Chapter c{"fitted", "What was fitted, and where", {}};
    Table table{{"What", "Where", "Label", "Done"}, {}};
    for (const fit::Step& step : m_steps) {
        if (step.state != house::StepState::done || !isFitting(step.kind)) continue;
        const house::Room* room = m_house.room(step.room);
        std::string where = room == nullptr ? "" : room->label;
        if (!step.where.empty()) where += (where.empty() ? "" : ", ") + step.where;
        table.rows.push_back({{step.what, {}}, {where, {}}, {step.label, {}}, {step.at.substr(0, 10), {}}});
    }
    if (!table.rows.empty()) c.blocks.push_back(std::move(table));
    return c;
}

// The first day on which the way was measured, and the last.
Chapter Maker::ways() {
    Chapter c{"ways", "Each way, before and now", {}};
    Table table{{"Way", "Direction", "Before", "Now", "Needed"}, {}, {2, 3, 4}};
    Ranges ranges;
    for (const house::Route& route : m_house.routes)
        for (const Direction d : directions) {
            const auto all = runsIn(route.id, d, "", "");
            if (all.empty()) continue;
            std::string first = dayOf(*all.front());
            std::string last = dayOf(*all.back());
            const auto before =
                first == last ? std::vector<const benchmark::RouteRun*>{} : runsIn(route.id, d, first, first);
            const auto now = runsIn(route.id, d, last, last);
            const auto& need = d == Direction::forward ? route.needForward : route.needBackward;
            const auto cell = [&](const std::vector<const benchmark::RouteRun*>& runs,
                                  const std::string& day) -> Cell {
                const auto spread = spreadOf(runs);
                if (!spread) return {"–", {}};
                return {rangeWords(*spread) + " (" + day + ")", numbersOf(runs)};
            };
            table.rows.push_back({{route.label, {}},
                                  {name(d), {}},
                                  cell(before, first),
                                  cell(now, last),
                                  {need ? quantity::plain(*need) : "–", {}}});
            ranges.rows.push_back({route.label + ", " + name(d), spreadOf(before), spreadOf(now), need});
        }
    if (table.rows.empty()) return c;
    c.blocks.push_back(
        Paragraph{{"Rates are what an application gets; ranges are from the tenth to the ninetieth "
                   "percentile of the runs of that day. The figures in brackets are the runs.",
                   {}}});
    c.blocks.push_back(std::move(ranges));
    c.blocks.push_back(std::move(table));
    if (std::any_of(m_runs.begin(), m_runs.end(),
                    [](const benchmark::RouteRun& r) { return r.run.simulated; }))
        c.blocks.push_back(Paragraph{{"Some of these runs are simulated; the list of runs says which.", {}}});
    return c;
}

Chapter Maker::limits() const {
    Chapter c{"limits", "What limits it now, and whether that matters", {}};
    List list;
    for (const house::Route& route : m_house.routes) {
        const auto found = m_verdicts.find(route.id);
        if (found == m_verdicts.end() || found->second.suspects.empty()) continue;
        const trace::Diagnosis& d = found->second;
        const trace::Suspect& first = d.suspects.front();
        std::string text = "“" + route.label + "”: " + first.label + ", " + sureWords(first.probability);
        const auto met = [&](Direction dir) {
            return dir == Direction::forward ? d.forwardMet : d.backwardMet;
        };
        bool anyNeed = false;
        bool allMet = true;
        for (const Direction dir : directions)
            if (const auto m = met(dir)) {
                anyNeed = true;
                allMet = allMet && *m;
            }
        // Of a need that nobody stated, nothing is said.
        if (anyNeed)
            text +=
                allMet ? "; what was asked of this way is met" : "; what was asked of this way is not met";
        if (anyNeed && !allMet && first.ifReplaced)
            text += "; without it the way would carry about " + quantity::plain(*first.ifReplaced);
        list.items.push_back({sentence(text), {}});
    }
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Chapter Maker::declined() const {
    Chapter c{"declined", "What was advised and declined", {}};
    List list;
    for (const fit::Step& step : m_steps)
        if (step.state == house::StepState::skipped)
            list.items.push_back(
                {sentence(step.what) + (step.reason.empty() ? "" : " " + sentence(step.reason)), {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Chapter Maker::addresses() const {
    Chapter c{"addresses", "Addresses and labels", {}};
    Table table{{"Device", "Address", "Kept by", "Network"}, {}};
    for (const house::PortAddress& a : m_house.addressing.ports) {
        const auto network =
            std::find_if(m_house.addressing.networks.begin(), m_house.addressing.networks.end(),
                         [&](const house::Network& n) { return n.id == a.network; });
        table.rows.push_back(
            {{m_house.labelOf({a.device, a.port}), {}},
             {a.address.empty() ? "to be chosen" : a.address, {}},
             {a.kind == house::AddressKind::reserved ? "the router" : "the device itself", {}},
             {network == m_house.addressing.networks.end() ? "" : network->label, {}}});
    }
    if (!table.rows.empty()) c.blocks.push_back(std::move(table));
    Table labels{{"Label", "What", "Where"}, {}};
    for (const fit::Label& l : fit::labelsOf(m_house))
        if (std::any_of(m_house.fitting.codes.begin(), m_house.fitting.codes.end(),
                        [&](const house::LabelCode& code) { return code.thing == l.thing; }))
            labels.rows.push_back({{l.code, {}}, {l.what, {}}, {l.where, {}}});
    if (!labels.rows.empty()) c.blocks.push_back(std::move(labels));
    return c;
}

Chapter Maker::keys() const {
    Chapter c{"keys", "Where keys are kept", {}};
    List list;
    for (const house::Device& d : m_house.devices)
        if (!d.setUp.keyPlace.empty())
            list.items.push_back(
                {sentence("the key of the network of “" + d.label + "”: " + d.setUp.keyPlace), {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

// Three steps for this house: what it is on the way of, what disturbs it, what to switch off and on.
Chapter Maker::slow() const {
    Chapter c{"slow", "When it gets slow", {}};
    List list;
    list.isNumbered = true;
    std::string service = "See whether it is the internet service or the house: copy a large file between "
                          "two machines of the house";
    if (m_house.service)
        service += "; where that is fast and the internet is not, call the operator of “" +
                   m_house.service->label + "”";
    list.items.push_back({sentence(service), {}});
    const auto real = coincidences();
    if (!real.empty()) {
        std::string text = "Switch off ";
        std::vector<std::string> named;
        for (const auto& [way, k] : real)
            if (k.ratio < 1 && std::find(named.begin(), named.end(), k.appliance) == named.end())
                named.push_back(k.appliance);
        for (std::size_t i = 0; i < named.size(); ++i)
            text += (i == 0 ? "“" : " and “") + named[i] + "”";
        if (!named.empty())
            list.items.push_back(
                {sentence(text + " and try again: in this house the way was slower while it ran"), {}});
    }
    std::string boxes;
    for (const house::Device& d : m_house.devices)
        if (d.kind == house::DeviceKind::adapter &&
            std::any_of(d.ports.begin(), d.ports.end(), [](const house::Port& p) {
                return p.kind == house::PortKind::coax || p.kind == house::PortKind::mains ||
                       p.kind == house::PortKind::radio;
            }))
            boxes += (boxes.empty() ? "" : ", ") + d.label;
    list.items.push_back(
        {sentence(boxes.empty()
                      ? "Switch the router off and on, and wait five minutes"
                      : "Pull these for ten seconds, one after the other, and wait two minutes: " + boxes),
         {}});
    list.items.push_back(
        {"If that does not help, have the same runs made again: this record says what the house carried.",
         {}});
    c.blocks.push_back(std::move(list));
    return c;
}

Chapter Maker::again() const {
    Chapter c{"again", "When to look again", {}};
    c.blocks.push_back(
        Paragraph{{"After a change of the service, of an adapter or of the wiring, and otherwise within a "
                   "year: the runs of this record can be repeated under the same conditions.",
                   {}}});
    return c;
}

Chapter Maker::topology() const {
    Chapter c{"topology", "Ways, and the ceiling of every element", {}};
    for (const house::Route& route : m_house.routes) {
        const auto predicted = capacity::predict(m_house, m_catalog, route);
        c.blocks.push_back(Paragraph{{route.label + ": " + m_house.endLabel(route.from) + " to " +
                                          m_house.endLabel(route.to) +
                                          (predicted ? "" : ". " + sentence(predicted.error().what)),
                                      {}}});
        if (!predicted) continue;
        Table table{{"Element", "Forward", "Backward", "Because"}, {}, {1, 2}};
        for (const capacity::ElementPrediction& e : predicted->elements)
            table.rows.push_back({{e.element.label, {}},
                                  {rangeWords(e.forward), {}},
                                  {rangeWords(e.backward), {}},
                                  {e.ceiling.because, {}}});
        c.blocks.push_back(std::move(table));
    }
    return c;
}

Chapter Maker::allRuns() {
    Chapter c{"runs", "All runs", {}};
    Table table{
        {"When (UTC)", "Way", "Direction", "How", "Goodput", "Idle, loaded delay", "Conditions"}, {}, {4}};
    std::map<std::string, const job::LogEntry*>
        entries; // one log for all: whether a run is judged by hangs on the others
    const auto log = job::logOf(m_house, m_job.runs, {}, {});
    for (const job::LogEntry& e : log)
        entries[e.id] = &e;
    for (const benchmark::RouteRun& r : m_job.runs) {
        const benchmark::Run& run = r.run;
        const house::Route* route = m_house.route(r.route);
        const auto delay = [](const std::optional<benchmark::Percentiles>& p) {
            return p ? quantity::plainMicroseconds(p->p50) : std::string("–");
        };
        const std::string how = std::string(run.config.protocol == benchmark::Protocol::tcp ? "TCP" : "UDP") +
                                ", " + quantity::counted(run.config.streams, "stream") + ", " +
                                quantity::significant(run.seconds, 3) + " s, warm-up " +
                                quantity::significant(run.warmupSeconds, 2) + " s, " +
                                std::string(house::name(run.config.arrangement.setup));
        const job::LogEntry& entry = *entries.at(run.id);
        std::string words = entry.words;
        if (!entry.aside.empty()) words += (words.empty() ? "" : "; ") + ("does not count: " + entry.aside);
        table.rows.push_back({{run.startedAt, {}},
                              {route == nullptr ? r.route : route->label, {}},
                              {name(run.config.direction), {}},
                              {how, {}},
                              {quantity::plainBoth(run.goodput), numbersOf({&r})},
                              {delay(run.rttIdleUs) + ", " + delay(run.rttLoadedUs), {}},
                              {words, {}}});
    }
    if (!table.rows.empty()) c.blocks.push_back(std::move(table));
    return c;
}

Chapter Maker::open() const {
    Chapter c{"open", "Open points", {}};
    List list;
    for (const quantity::Problem& p : house::findings(m_house))
        list.items.push_back({p.sentence(), {}});
    for (const fit::Step& step : m_steps)
        if (!fit::isClosed(step.state))
            list.items.push_back(
                {sentence(step.what) + (step.reason.empty() ? "" : " " + sentence(step.reason)), {}});
    for (const auto& [route, d] : m_verdicts)
        if (!d.nextTests.empty())
            list.items.push_back(
                {"“" + m_house.route(route)->label + "”, next test: " + sentence(d.nextTests.front().does),
                 {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Chapter Maker::changes() const {
    Chapter c{"changes", "What was exchanged, and when", {}};
    List list;
    for (const house::DatedChange& change : m_house.changes)
        list.items.push_back({change.at + ": " + sentence(change.text), {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Chapter Maker::method() const {
    Chapter c{"method", "Method", {}};
    c.blocks.push_back(Paragraph{
        {"Goodput is the payload that the receiving application gets (RFC 2647, 3.17). The warm-up is found "
         "from the samples (MSER-5) unless it was ordered. Repeated runs become one figure by the rule “" +
             std::string(house::name(m_house.measuring.summary)) +
             "”. Delay is taken beside the run, without and with load (RFC 6349).",
         {}}});
    return c;
}

Document Maker::client() {
    Document d = begin("Record of the house's network");
    for (Chapter c : {wanted(), theHouse(), found(), fitted(), ways(), limits(), declined(), addresses(),
                      keys(), slow(), again()})
        d.chapters.push_back(std::move(c));
    return finish(std::move(d));
}

Document Maker::technician() {
    Document d = begin("For the next technician");
    for (Chapter c : {topology(), allRuns(), method(), addresses(), keys(), changes(), open()})
        d.chapters.push_back(std::move(c));
    return finish(std::move(d));
}

} // namespace

Document clientDocument(const job::Document& job, const catalog::Catalog& catalog,
                        const HandOverSettings& settings) {
    return Maker(job, catalog, settings).client();
}

Document technicianDocument(const job::Document& job, const catalog::Catalog& catalog,
                            const HandOverSettings& settings) {
    return Maker(job, catalog, settings).technician();
}

} // namespace metrodos::report
