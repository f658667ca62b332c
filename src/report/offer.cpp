#include "job/record_digest.h"
#include "quantity/format.h"
#include "quantity/text.h"
#include "report/chapters.h"
#include "report/handover.h"
#include "weigh/apply_plan.h"
#include "weigh/compare.h"

#include <algorithm>

namespace metrodos::report {
namespace {

std::string shareWords(double share) {
    constexpr double nearlyAll = 0.99;
    return share > nearlyAll ? "more than 99 %" : quantity::significant(share * 100, 2) + " %";
}

bool isDown(const weigh::SpotOptions& spot, const weigh::SpotResult& result) {
    return result.need == spot.need.down;
}

Chapter planChapter(const Offered& o) {
    Chapter c{"plan", "What is offered", {}};
    c.blocks.push_back(
        Paragraph{{sentence(o.plan.label + ": " + weigh::amount(o.prices, o.plan.cost) + ", " +
                            weigh::workTime(std::max(o.plan.minutes, 1.0)) + " of own work, " +
                            (o.plan.holes == 0 ? "no holes" : quantity::counted(o.plan.holes, "hole"))),
                   {}}});
    c.blocks.push_back(Paragraph{{sentence(weigh::verdictOf(o.plan)), {}}});
    Table table{{"Spot", "Way"}, {}};
    for (std::size_t i = 0; i < o.plan.spots.size(); ++i) {
        const weigh::SpotResult& s = o.plan.spots[i];
        table.rows.push_back(
            {{o.options.spots[i].label, {}}, {s.way < 0 ? "none" : o.options.spots[i].way(s.way).label, {}}});
    }
    c.blocks.push_back(std::move(table));
    return c;
}

Chapter promiseChapter(const Offered& o) {
    Chapter c{"promise", "What is promised", {}};
    Table table{{"Spot", "Direction", "Needed", "At least", "Middle", "Chance at once", "Chance in the end"},
                {},
                {2, 3, 4, 5, 6}};
    for (std::size_t i = 0; i < o.plan.spots.size(); ++i) {
        const weigh::SpotResult& s = o.plan.spots[i];
        const weigh::SpotOptions& spot = o.options.spots[i];
        if (s.way < 0 || spot.isPeer) continue;
        table.rows.push_back({{spot.label, {}},
                              {isDown(spot, s) ? "towards it" : "from it", {}},
                              {s.need.bps() > 0 ? quantity::plain(s.need) : "–", {}},
                              {quantity::plain(s.p10), {}},
                              {quantity::plain(s.p50), {}},
                              {s.need.bps() > 0 ? shareWords(s.carriedShare) : "–", {}},
                              {s.need.bps() > 0 ? shareWords(s.soundShare) : "–", {}}});
    }
    if (table.rows.empty()) return c;
    c.blocks.push_back(Paragraph{
        {"The figures are for all spots in use at once, each in the direction that has less to spare. Of ten "
         "houses like this one, with nothing wrong in their wiring, nine give at least the first figure and "
         "five "
         "the middle one. The chance is the share of such houses in which the spot gets all that it needs: "
         "at "
         "once, with the faults that old wiring usually has; in the end, when those have been found and put "
         "right. These are predictions from the survey, not measurements.",
         {}}});
    c.blocks.push_back(std::move(table));
    return c;
}

Chapter notPromisedChapter(const Offered& o) {
    Chapter c{"not-promised", "What is not promised", {}};
    List list;
    for (const weigh::Limit& limit : o.plan.limits)
        list.items.push_back({sentence(limit.because), {}});
    for (const std::string& note : o.plan.notes)
        list.items.push_back({sentence(note), {}});
    if (o.options.service)
        list.items.push_back({"What the internet service brings: its operator answers for that.", {}});
    const auto shares = [&](const char* medium) {
        for (std::size_t i = 0; i < o.plan.spots.size(); ++i) {
            if (o.plan.spots[i].way < 0) continue;
            for (const weigh::Passage& p : o.options.spots[i].way(o.plan.spots[i].way).passages)
                if (p.resource == medium) return true;
        }
        return false;
    };
    if (shares("mains"))
        list.items.push_back(
            {"The same rate at every hour over the mains: it changes with what is switched on.", {}});
    if (shares("air"))
        list.items.push_back({"The same rate at every hour over the air: neighbours share it.", {}});
    list.items.push_back({"Anything about wiring that is other than the survey says.", {}});
    list.items.push_back(
        {"Work on fixed wiring: that is a licensed electrician's, under the rules of the place.", {}});
    c.blocks.push_back(std::move(list));
    return c;
}

Chapter priceChapter(const Offered& o) {
    Chapter c{"price", "Price", {}};
    Table table{{"Part", "Count", "In stock", "Each", "To pay"}, {}, {1, 2, 3, 4}};
    for (const weigh::PartLine& p : o.plan.parts)
        table.rows.push_back({{p.label, {}},
                              {countWords(p.count, p.unit), {}},
                              {std::to_string(p.fromStock), {}},
                              {weigh::amount(o.prices, p.unitPrice), {}},
                              {weigh::amount(o.prices, p.total), {}}});
    table.rows.push_back(
        {{"together", {}}, {"", {}}, {"", {}}, {"", {}}, {weigh::amount(o.prices, o.plan.cost), {}}});
    c.blocks.push_back(std::move(table));
    return c;
}

Chapter workChapter(const job::Document& job, const catalog::Catalog& catalog, const Offered& o) {
    Chapter c{"work", "What will be done", {}};
    const auto made = weigh::applyPlan(job.house, catalog, o.options, o.plan);
    if (!made) return c;
    List list;
    list.isNumbered = true;
    for (const fit::Step& step : fit::openSteps(made->house, catalog))
        list.items.push_back({sentence(step.what) + (step.why.empty() ? "" : " " + sentence(step.why)), {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Chapter othersChapter(const Offered& o) {
    Chapter c{"others", "Alternatives", {}};
    Table table{{"Plan", "Price", "Own work", "Holes", "What it does"}, {}, {1, 2, 3}};
    for (const auto& [label, plan] : o.others)
        table.rows.push_back({{label, {}},
                              {weigh::amount(o.prices, plan->cost), {}},
                              {weigh::workTime(std::max(plan->minutes, 1.0)), {}},
                              {std::to_string(plan->holes), {}},
                              {sentence(weigh::verdictOf(*plan)), {}}});
    if (!table.rows.empty()) c.blocks.push_back(std::move(table));
    return c;
}

} // namespace

std::vector<std::pair<std::string, const weigh::Plan*>> othersOf(const weigh::Weighed& weighed,
                                                                 const weigh::Plan& chosen) {
    std::vector<std::pair<std::string, const weigh::Plan*>> out;
    for (const auto& [objective, id] : weighed.best)
        for (const weigh::Plan& plan : weighed.plans)
            if (plan.id == id && id != chosen.id &&
                std::none_of(out.begin(), out.end(), [&](const auto& one) { return one.second == &plan; }))
                out.emplace_back(weigh::label(objective), &plan);
    return out;
}

Document offerDocument(const job::Document& job, const catalog::Catalog& catalog,
                       const HandOverSettings& settings, const Offered& o) {
    Document d;
    d.title = job.house.name;
    d.subtitle = "Offer";
    d.date = settings.date;
    d.firm = settings.firm;
    d.digest = settings.records.empty() ? job::recordDigest(job) : settings.records;
    for (Chapter c : {planChapter(o), wantedChapter(job.house, catalog), houseChapter(job.house),
                      promiseChapter(o), notPromisedChapter(o), priceChapter(o), workChapter(job, catalog, o),
                      othersChapter(o), cautionsChapter(job.house)})
        if (!c.blocks.empty()) d.chapters.push_back(std::move(c));
    return d;
}

job::KeptDocument keptForm(const Document& document, const std::string& reader, const std::string& at,
                           const Offered* o) {
    job::KeptDocument out;
    out.reader = reader;
    out.at = at;
    out.title = document.title;
    out.digest = document.digest;
    out.text = toMarkdown(document);
    if (o == nullptr) return out;
    out.currency = o->prices.currency();
    out.cost = o->plan.cost;
    for (const weigh::PartLine& p : o->plan.parts)
        out.parts.push_back({p.item, p.label, p.unit, p.count, p.unitPrice, p.total});
    for (std::size_t i = 0; i < o->plan.spots.size(); ++i) {
        const weigh::SpotResult& s = o->plan.spots[i];
        const weigh::SpotOptions& spot = o->options.spots[i];
        if (s.way >= 0 && !spot.isPeer)
            out.promises.push_back({s.spot, spot.label, spot.way(s.way).label, s.p10, s.p50, s.need,
                                    isDown(spot, s), s.carriedShare});
    }
    return out;
}

} // namespace metrodos::report
