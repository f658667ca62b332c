#include "job/house_json.h"

#include "house/validate.h"
#include "job/survey_fields.h"

namespace metrodos::job {
namespace {

using namespace house;
namespace fields = quantity::fields;

using make::maxId;

constexpr std::size_t maxPlace = 130; // of a device, a dot and a port

json written(const Endpoint& e) {
    return {{"id", e.id}, {"label", e.label}, {"device", e.device}, {"address", fields::orNull(e.address)}};
}

Endpoint readEndpoint(const json& v) {
    return {fields::neededText(v, "id", maxId), fields::neededText(v, "label", maxLabel),
            fields::neededText(v, "device", maxId), fields::text(v, "address", 300)};
}

json written(const Trial& t) {
    json steps = json::array();
    for (const TrialStep& s : t.steps)
        steps.push_back({{"id", s.id},
                         {"route", s.route},
                         {"setup", name(s.setup)},
                         {"prepare", s.prepare},
                         {"arm", fields::orNull(s.arm)},
                         {"direction", name(s.directions)},
                         {"streams", s.streams},
                         {"seconds", s.seconds},
                         {"pause_s", s.pause},
                         {"place", fields::orNull(s.place)},
                         {"element", fields::orNull(s.element)}});
    return {{"id", t.id},
            {"label", t.label},
            {"steps", std::move(steps)},
            {"revisits", fields::orNull(t.revisits)}};
}

Trial readTrial(const json& v) {
    Trial t{fields::neededText(v, "id", maxId),
            fields::neededText(v, "label", 400),
            {},
            fields::text(v, "revisits", 10)};
    if (const json* list = fields::list(v, "steps", 5000))
        for (const json& one : *list) {
            TrialStep s;
            s.id = fields::neededText(one, "id", maxId);
            s.route = fields::neededText(one, "route", maxId);
            s.setup = fields::word(one, "setup", &house::setup);
            s.prepare = fields::text(one, "prepare", 2000);
            s.arm = fields::text(one, "arm", 8);
            s.directions = fields::word(one, "direction", &house::directions);
            s.streams.clear();
            for (const double n : fields::numbers(one, "streams", 16, 1, 64))
                s.streams.push_back(static_cast<int>(n));
            s.seconds = fields::neededNumber(one, "seconds", 0.5, 3600);
            s.pause = fields::number(one, "pause_s", 0, house::maxPause).value_or(0);
            s.place = fields::text(one, "place", maxPlace);
            s.element = fields::text(one, "element", maxPlace);
            t.steps.push_back(std::move(s));
        }
    return t;
}

json written(const SetAside& s) {
    return {{"id", s.id}, {"reason", s.reason}, {"at", s.at}};
}

SetAside readSetAside(const json& v) {
    return {fields::neededText(v, "id", maxId), fields::text(v, "reason", 2000), fields::text(v, "at", 32)};
}

json written(const Schedule& s) {
    return {{"id", s.id},
            {"label", s.label},
            {"route", s.route},
            {"from", s.from},
            {"every_minutes", s.everyMinutes},
            {"hours", s.hours},
            {"seconds", s.seconds},
            {"streams", s.streams},
            {"unattended", s.unattended},
            {"collected", s.collected}};
}

Schedule readSchedule(const json& v) {
    Schedule s;
    s.id = fields::neededText(v, "id", maxId);
    s.label = fields::neededText(v, "label", 4 * maxLabel);
    s.route = fields::neededText(v, "route", maxId);
    s.from = fields::text(v, "from", 32);
    s.everyMinutes = static_cast<int>(fields::neededNumber(v, "every_minutes", 1, 1440));
    s.hours = static_cast<int>(fields::neededNumber(v, "hours", 1, 744));
    s.seconds = fields::neededNumber(v, "seconds", 1, 60);
    s.streams = static_cast<int>(fields::neededNumber(v, "streams", 1, 32));
    s.unattended = fields::flag(v, "unattended").value_or(false);
    s.collected = static_cast<std::int64_t>(fields::number(v, "collected", 0, 1e12).value_or(0));
    return s;
}

json written(const DatedChange& c) {
    return {{"id", c.id},
            {"at", c.at},
            {"thing", c.thing},
            {"text", c.text},
            {"said", fields::orNull(c.said)},
            {"route", fields::orNull(c.route)}};
}

DatedChange readChange(const json& v) {
    return {fields::neededText(v, "id", maxId), fields::text(v, "at", 32),
            fields::text(v, "thing", maxId),    fields::text(v, "text", 2000),
            fields::number(v, "said", 0, 1),    fields::text(v, "route", maxId)};
}

json written(const ChapterChoice& c) {
    return {{"id", c.id}, {"left_out", c.isLeftOut}, {"note", fields::orNull(c.note)}};
}

ChapterChoice readChapter(const json& v) {
    return {fields::neededText(v, "id", maxId), fields::flag(v, "left_out").value_or(false),
            fields::text(v, "note", 2000)};
}

json written(const Weighing& w) {
    json plan = json::array();
    for (const house::Choice& choice : w.plan)
        plan.push_back({{"spot", choice.spot}, {"way", choice.way}});
    return {{"school", name(w.objective)},
            {"share", w.share},
            {"years", w.years},
            {"drilling", w.drilling},
            {"at_once", w.atOnce},
            {"plan", std::move(plan)},
            {"quote", w.quote ? json{{"from", fields::orNull(w.quote->from)},
                                     {"amount", w.quote->amount.inUnits()},
                                     {"runs", w.quote->runs}}
                              : json(nullptr)}};
}

Weighing readWeighing(const json& v) {
    Weighing w;
    w.objective = objective(fields::text(v, "school", maxId)).value_or(w.objective);
    w.share = fields::number(v, "share", 0.5, 0.99).value_or(w.share);
    w.years = static_cast<int>(fields::number(v, "years", 1, 40).value_or(w.years));
    w.drilling = fields::flag(v, "drilling").value_or(w.drilling);
    w.atOnce = fields::number(v, "at_once", 0, 1).value_or(w.atOnce);
    if (const json* list = fields::list(v, "plan", maxItems))
        for (const json& choice : *list)
            w.plan.push_back(
                {fields::neededText(choice, "spot", maxId), fields::neededText(choice, "way", maxId)});
    if (const json* quote = fields::find(v, "quote"))
        w.quote = house::Quote{
            fields::text(*quote, "from", maxLabel),
            quantity::Money::units(fields::neededNumber(*quote, "amount", 0, house::maxQuote.inUnits())),
            static_cast<int>(fields::neededNumber(*quote, "runs", 1, house::maxQuoteRuns))};
    return w;
}

json written(const house::Practices& practices) {
    json out = json::object();
    house::eachPractice(practices, [&](const char* key, const auto& chosen, const auto& words) {
        out[key] = words.at(static_cast<std::size_t>(chosen));
    });
    return out;
}

house::Practices readPractices(const json& v) {
    house::Practices out;
    house::eachPractice(out, [&](const char* key, auto& chosen, const auto& words) {
        const std::string word = fields::text(v, key, maxId);
        for (std::size_t i = 0; i < words.size(); ++i)
            if (words[i] == word) chosen = static_cast<std::decay_t<decltype(chosen)>>(i);
    });
    return out;
}

json written(const house::Fitting& f) {
    json steps = json::array();
    for (const house::StepRecord& r : f.records) {
        json photos = json::array();
        for (const house::Photo& p : r.photos)
            photos.push_back({{"digest", p.digest}, {"at", p.at}, {"caption", p.caption}});
        steps.push_back({{"step", r.step},
                         {"state", name(r.state)},
                         {"at", r.at},
                         {"reason", r.reason},
                         {"note", r.note},
                         {"what", r.what},
                         {"of", r.of},
                         {"photos", std::move(photos)}});
    }
    json hints = json::array();
    for (const house::FitHint& h : f.hints)
        hints.push_back({{"thing", h.thing}, {"text", h.text}});
    json codes = json::array();
    for (const house::LabelCode& c : f.codes)
        codes.push_back({{"thing", c.thing}, {"code", c.code}});
    return {{"planned", f.planned},
            {"hints", std::move(hints)},
            {"steps", std::move(steps)},
            {"codes", std::move(codes)}};
}

house::Photo readPhoto(const json& v) {
    house::Photo p{fields::neededText(v, "digest", 64), fields::text(v, "at", 32),
                   fields::text(v, "caption", 400)};
    const bool isDigest =
        p.digest.size() == 64 && p.digest.find_first_not_of("0123456789abcdef") == std::string::npos;
    if (!isDigest) throw quantity::BadField{"digest"};
    return p;
}

house::Fitting readFitting(const json& v) {
    house::Fitting f;
    f.planned = fields::texts(v, "planned", maxItems, maxId);
    if (const json* list = fields::list(v, "hints", maxItems))
        for (const json& one : *list)
            f.hints.push_back(
                {fields::neededText(one, "thing", maxId), fields::neededText(one, "text", 2000)});
    if (const json* list = fields::list(v, "steps", maxItems))
        for (const json& one : *list) {
            house::StepRecord r;
            r.step = fields::neededText(one, "step", 100);
            r.state = fields::word(one, "state", &house::stepState);
            r.at = fields::text(one, "at", 32);
            r.reason = fields::text(one, "reason", 2000);
            r.note = fields::text(one, "note", 2000);
            r.what = fields::text(one, "what", 2000);
            r.of = fields::text(one, "of", 400);
            if (const json* photos = fields::list(one, "photos", house::maxPhotos))
                for (const json& photo : *photos)
                    r.photos.push_back(readPhoto(photo));
            f.records.push_back(std::move(r));
        }
    if (const json* list = fields::list(v, "codes", maxItems))
        for (const json& one : *list)
            f.codes.push_back({fields::neededText(one, "thing", maxId), fields::neededText(one, "code", 16)});
    return f;
}

// A list of things of the survey.
template <typename Item>
json listOf(const House& house, const std::vector<Item>& items) {
    json out = json::array();
    for (const Item& item : items)
        out.push_back(toJson(house, item));
    return out;
}
template <typename Item>
void readList(const json& value, const char* key, std::vector<Item>& out) {
    if (const json* list = fields::list(value, key, maxItems))
        for (const json& one : *list)
            out.push_back(fromJson<Item>(one));
}
// Of the rest.
template <typename Item>
json listOf(const std::vector<Item>& items) {
    json out = json::array();
    for (const Item& item : items)
        out.push_back(written(item));
    return out;
}
template <typename Item>
void readList(const json& value, const char* key, std::vector<Item>& out, Item (*read)(const json&)) {
    if (const json* list = fields::list(value, key, maxItems))
        for (const json& one : *list)
            out.push_back(read(one));
}

} // namespace

json toJson(const House& h) {
    return {{"name", h.name},
            {"rooms", listOf(h, h.rooms)},
            {"devices", listOf(h, h.devices)},
            {"connections", listOf(h, h.connections)},
            {"endpoints", listOf(h.endpoints)},
            {"routes", listOf(h, h.routes)},
            {"jacks", listOf(h, h.jacks)},
            {"coax_parts", listOf(h, h.coaxParts)},
            {"coax_use", toJson(h, h.coaxUse)},
            {"panels", listOf(h, h.panels)},
            {"circuits", listOf(h, h.circuits)},
            {"appliances", listOf(h, h.appliances)},
            {"service", h.service ? toJson(h, *h.service) : json(nullptr)},
            {"spots", listOf(h, h.spots)},
            {"trials", listOf(h.trials)},
            {"weighing", written(h.weighing)},
            {"measuring", {{"summary", name(h.measuring.summary)}}},
            {"practices", written(h.practices)},
            {"fitting", written(h.fitting)},
            {"set_aside", listOf(h.setAside)},
            {"schedules", listOf(h.schedules)},
            {"changes", listOf(h.changes)},
            {"chapters", listOf(h.chapters)},
            {"addressing",
             {{"networks", listOf(h, h.addressing.networks)}, {"ports", listOf(h, h.addressing.ports)}}}};
}

quantity::Result<House> houseFromJson(const json& value) {
    try {
        House out;
        out.name = fields::neededText(value, "name", 4 * maxLabel);
        readList(value, "rooms", out.rooms);
        readList(value, "devices", out.devices);
        readList(value, "connections", out.connections);
        readList(value, "endpoints", out.endpoints, &readEndpoint);
        readList(value, "routes", out.routes);
        readList(value, "jacks", out.jacks);
        readList(value, "coax_parts", out.coaxParts);
        if (const json* use = fields::find(value, "coax_use")) out.coaxUse = fromJson<CoaxUse>(*use);
        readList(value, "panels", out.panels);
        readList(value, "circuits", out.circuits);
        readList(value, "appliances", out.appliances);
        if (const json* service = fields::find(value, "service")) out.service = fromJson<Service>(*service);
        readList(value, "spots", out.spots);
        readList(value, "trials", out.trials, &readTrial);
        readList(value, "set_aside", out.setAside, &readSetAside);
        readList(value, "schedules", out.schedules, &readSchedule);
        readList(value, "changes", out.changes, &readChange);
        readList(value, "chapters", out.chapters, &readChapter);
        if (const json* weighing = fields::find(value, "weighing")) out.weighing = readWeighing(*weighing);
        if (const json* measuring = fields::find(value, "measuring"))
            out.measuring.summary = house::summaryRule(fields::text(*measuring, "summary", maxId))
                                        .value_or(out.measuring.summary);
        if (const json* practices = fields::find(value, "practices"))
            out.practices = readPractices(*practices);
        if (const json* fitting = fields::find(value, "fitting")) out.fitting = readFitting(*fitting);
        if (const json* addressing = fields::find(value, "addressing")) {
            readList(*addressing, "networks", out.addressing.networks);
            readList(*addressing, "ports", out.addressing.ports);
        }
        return out;
    } catch (const quantity::BadField& bad) {
        return quantity::problem("“" + bad.name + "” is missing or out of range", "house",
                                 "correct the file");
    } catch (const json::exception& error) {
        return quantity::problem(std::string("the house is not well formed: ") + error.what(), "house",
                                 "correct the file");
    }
}

} // namespace metrodos::job
