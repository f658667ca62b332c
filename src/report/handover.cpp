#include "report/handover.h"

#include "benchmark/revisit.h"
#include "benchmark/statistics.h"
#include "benchmark/week.h"
#include "capacity/predict.h"
#include "fit/steps.h"
#include "house/findings.h"
#include "job/log.h"
#include "job/record_digest.h"
#include "quantity/format.h"
#include "quantity/text.h"
#include "report/chapters.h"
#include "report/proof.h"
#include "trace/diagnose.h"

#include <algorithm>
#include <map>

namespace metrodos::report {
namespace {

using benchmark::Direction;
using quantity::BitRate;

constexpr Direction directions[] = {Direction::forward, Direction::backward};

// What stays in the house, as against what was tried and proven.
bool isFitting(fit::StepKind kind) {
    using fit::StepKind;
    return kind != StepKind::baseline && kind != StepKind::bench && kind != StepKind::outlets &&
           kind != StepKind::lights && kind != StepKind::check;
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
        , m_steps(fit::stepsOf(job.house, catalog))
        , m_kept(job::keptOf(job.reports))
        , m_proof(job.house) {
        for (const job::LogEntry& entry : job::logOf(job.house, job.runs, {}, {}))
            m_words[entry.id] = entry.words;
        m_judged = job::evidence(job.runs, job.house);
        m_known = settings.verdicts ? settings.verdicts : verdictsOf(job, catalog);
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
        d.digest = m_settings.records.empty() ? job::recordDigest(m_job) : m_settings.records;
        return d;
    }
    Document finish(Document d) {
        std::erase_if(d.chapters, [](const Chapter& c) { return c.blocks.empty(); });
        d.proof = m_proof.list();
        return d;
    }

    // Those that the verdict on a way stands on.
    std::vector<int> judgedRuns(const trace::Diagnosis& verdict) {
        return m_proof.numbersOf(m_judged, verdict.route, verdict.leftOut);
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

    // "3 runs of 4 streams, between 10:00 and 10:02 UTC; alone": what they have in common, and what else
    // there was.
    [[nodiscard]] std::string conditionsOf(const std::vector<const benchmark::RouteRun*>& runs) const {
        std::string out = quantity::counted(static_cast<long long>(runs.size()), "run");
        std::vector<std::string> words;
        bool isAlike = true;
        for (const benchmark::RouteRun* r : runs) {
            isAlike = isAlike && r->run.config.streams == runs.front()->run.config.streams;
            const auto entry = m_words.find(r->run.id);
            if (entry != m_words.end() && !entry->second.empty() &&
                std::find(words.begin(), words.end(), entry->second) == words.end())
                words.push_back(entry->second);
        }
        if (isAlike) out += " of " + quantity::counted(runs.front()->run.config.streams, "stream");
        const auto clock = [](const benchmark::RouteRun* r) { return r->run.startedAt.substr(11, 5); };
        out += ", " +
               (clock(runs.front()) == clock(runs.back())
                    ? "at " + clock(runs.front())
                    : "from " + clock(runs.front()) + " to " + clock(runs.back())) +
               " UTC";
        constexpr std::size_t most = 3;
        for (std::size_t i = 0; i < std::min(words.size(), most); ++i)
            out += "; " + words[i];
        if (words.size() > most) out += "; and others";
        return out;
    }

    /// Of each way: those that are sure, of appliances that somebody saw run.
    [[nodiscard]] std::vector<std::pair<const house::Route*, benchmark::Coincidence>> coincidences() const;
    Chapter quote() const;
    Chapter promised();
    // No figure of no real network without that word.
    void addSimulated(Chapter& c) const {
        const auto simulated = std::count_if(m_runs.begin(), m_runs.end(),
                                             [](const benchmark::RouteRun& r) { return r.run.simulated; });
        if (simulated == 0 || c.blocks.empty()) return;
        const bool isAll = static_cast<std::size_t>(simulated) == m_runs.size();
        c.blocks.push_back(
            Paragraph{{isAll ? "All measured figures come from simulated runs."
                             : "Some measured figures come from simulated runs; the list of runs says which.",
                       {}}});
    }
    [[nodiscard]] WayStrip stripOf(const trace::Diagnosis& verdict, const house::Route& route) const;
    Chapter found();
    Chapter fitted() const;
    Chapter ways();
    Chapter limits();
    Chapter declined() const;
    Chapter slow() const;
    Chapter allRuns();
    Chapter open() const;

    const job::Document& m_job;
    const house::House& m_house;
    const catalog::Catalog& m_catalog;
    const HandOverSettings& m_settings;
    benchmark::RouteRuns m_runs;
    benchmark::RouteRuns m_judged;
    std::vector<fit::Step> m_steps;
    std::vector<job::KeptDocument> m_kept;
    std::shared_ptr<const Verdicts> m_known;
    Proof m_proof;
    std::map<std::string, std::string> m_words; ///< conditions, by run
};

// One sentence for each way that was measured: what limits it, and how sure that is.
Chapter Maker::found() {
    Chapter c{"found", "What was found", {}};
    List list;
    for (const house::Route& route : m_house.routes)
        if (const auto d = m_known->find(route.id); d != m_known->end())
            list.items.push_back(
                {"“" + route.label + "”: " + sentence(d->second.sentence), judgedRuns(d->second)});
    for (const auto& [way, k] : coincidences())
        list.items.push_back(
            {"“" + way->label + "”: " + sentence(k.sentence), m_proof.numbersOf(m_runs, way->id)});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    // A week is worth a picture from a day's worth of hours on.
    const std::vector<benchmark::WatchReport> watches = job::watchesOf(job::counted(m_job.reports, m_house));
    for (const house::Route& route : m_house.routes)
        for (const Direction d : directions) {
            benchmark::Week week = benchmark::weekOf(m_runs, watches, route.id, d);
            int hours = 0;
            for (const auto& day : week)
                hours += static_cast<int>(std::count_if(
                    day.begin(), day.end(), [](const benchmark::WeekHour& h) { return h.p50.has_value(); }));
            if (hours >= benchmark::dayHours)
                c.blocks.push_back(WeekHours{route.label + ", " + name(d) + ", by weekday and hour", week});
        }
    addSimulated(c);
    return c;
}

std::vector<std::pair<const house::Route*, benchmark::Coincidence>> Maker::coincidences() const {
    std::vector<std::pair<const house::Route*, benchmark::Coincidence>> out;
    for (const house::Route& route : m_house.routes)
        for (benchmark::Coincidence& k : benchmark::coincidencesOf(m_house, m_runs, route.id))
            if (k.isReal && k.isNoted) out.emplace_back(&route, std::move(k));
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
    Table table{{"Way", "Direction", "Before", "Now", "Needed", "Conditions now"}, {}, {2, 3, 4}};
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
                return {rangeWords(*spread) + " (" + day + ")", m_proof.numbersOf(runs)};
            };
            table.rows.push_back({{route.label, {}},
                                  {name(d), {}},
                                  cell(before, first),
                                  cell(now, last),
                                  {need ? quantity::plain(*need) : "–", {}},
                                  {conditionsOf(now), {}}});
            ranges.rows.push_back({route.label + ", " + name(d), spreadOf(before), spreadOf(now), need});
        }
    if (table.rows.empty()) return c;
    c.blocks.push_back(
        Paragraph{{"Rates are what an application gets; ranges are from the tenth to the ninetieth "
                   "percentile of the runs of that day. The figures in brackets are the runs.",
                   {}}});
    c.blocks.push_back(std::move(ranges));
    c.blocks.push_back(std::move(table));
    addSimulated(c);
    return c;
}

Chapter Maker::limits() {
    Chapter c{"limits", "What limits it now, and whether that matters", {}};
    List list;
    std::vector<WayStrip> strips;
    for (const house::Route& route : m_house.routes) {
        const auto found = m_known->find(route.id);
        if (found == m_known->end() || found->second.suspects.empty()) continue;
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
        list.items.push_back({sentence(text), judgedRuns(d)});
        strips.push_back(stripOf(d, route));
    }
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    for (WayStrip& strip : strips)
        if (!strip.elements.empty()) c.blocks.push_back(std::move(strip));
    addSimulated(c);
    return c;
}

WayStrip Maker::stripOf(const trace::Diagnosis& verdict, const house::Route& route) const {
    WayStrip strip{route.label, {}, verdict.measuredForward, verdict.measuredBackward};
    const auto predicted = capacity::predict(m_house, m_catalog, route);
    if (!predicted) return strip;
    for (const capacity::ElementPrediction& e : predicted->elements)
        strip.elements.push_back({e.element.label, e.forward.p50, e.backward.p50,
                                  e.element.id == verdict.suspects.front().element});
    return strip;
}

// Against the newest offer that was handed over.
Chapter Maker::quote() const {
    for (auto kept = m_kept.rbegin(); kept != m_kept.rend(); ++kept)
        if (kept->reader == "offer") return quoteChapter(*kept, m_steps);
    return {};
}

Chapter Maker::promised() {
    Chapter c{"promised", "What was promised, and what was measured", {}};
    const auto offer = std::find_if(m_kept.rbegin(), m_kept.rend(),
                                    [](const job::KeptDocument& k) { return k.reader == "offer"; });
    if (offer == m_kept.rend()) return c;
    Table table{{"Spot", "Promised at least", "Measured", "Over"}, {}, {1, 2}};
    for (const job::KeptDocument::Promise& promise : offer->promises) {
        const auto spot = std::find_if(m_house.spots.begin(), m_house.spots.end(),
                                       [&](const house::Spot& s) { return s.id == promise.spot; });
        if (spot == m_house.spots.end() || spot->device.empty()) continue;
        for (const house::Route& route : m_house.routes) {
            const auto verdict = m_known->find(route.id);
            const bool endsThere = m_house.deviceAt(route.to) == spot->device;
            if (verdict == m_known->end() || (!endsThere && m_house.deviceAt(route.from) != spot->device))
                continue;
            const bool isForward = endsThere == promise.isDown;
            const auto& measured =
                isForward ? verdict->second.measuredForward : verdict->second.measuredBackward;
            if (!measured) continue;
            table.rows.push_back(
                {{spot->label, {}},
                 {quantity::plain(promise.least), {}},
                 {quantity::plain(*measured), judgedRuns(verdict->second)},
                 {route.label + ", " + name(isForward ? Direction::forward : Direction::backward), {}}});
        }
    }
    if (table.rows.empty()) return c;
    c.blocks.push_back(Paragraph{
        {"The offer of " + offer->at.substr(0, 10) +
             " promised these rates in nine out of ten houses like this one in which nothing is wrong.",
         {}}});
    c.blocks.push_back(std::move(table));
    addSimulated(c);
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
    c.hasOwnPage = true;
    c.blocks.push_back(std::move(list));
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
                              {quantity::plainBoth(run.goodput), m_proof.numbersOf({&r})},
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
    for (const auto& [route, d] : *m_known)
        if (!d.nextTests.empty())
            list.items.push_back(
                {"“" + m_house.route(route)->label + "”, next test: " + sentence(d.nextTests.front().does),
                 {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Document Maker::client() {
    Document d = begin("Record of the house's network");
    for (Chapter c : {wantedChapter(m_house, m_catalog), houseChapter(m_house), found(), fitted(), ways(),
                      limits(), promised(), declined(), quote(), addressesChapter(m_house),
                      keysChapter(m_house), cautionsChapter(m_house), slow(), againChapter()})
        d.chapters.push_back(std::move(c));
    return finish(std::move(d));
}

Document Maker::technician() {
    Document d = begin("For the next technician");
    for (Chapter c : {topologyChapter(m_house, m_catalog), allRuns(), methodChapter(m_house),
                      addressesChapter(m_house), keysChapter(m_house), changesChapter(m_house), open()})
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
