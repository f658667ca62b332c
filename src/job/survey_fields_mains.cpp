// The fields of the mains: panels, circuits with their outlets, appliances.
#include "job/survey_fields.h"

#include "catalog/catalog.h"
#include "quantity/ascii.h"

namespace metrodos::job {

using namespace house;
using namespace make;
using catalog::Catalog;
using quantity::BadField;

namespace {

// "9-17, 18-23"; over midnight where the second is less.
Result<std::vector<HourSpan>> parseHours(const std::string& typed) {
    std::vector<HourSpan> out;
    std::string text;
    for (std::size_t i = 0; i < typed.size(); ++i)
        if (typed.compare(i, 3, "\xe2\x80\x93") == 0) { // an en dash
            text += '-';
            i += 2;
        } else if (typed[i] != ' ') {
            text += typed[i];
        }
    std::size_t from = 0;
    while (from < text.size()) {
        const std::size_t to = std::min(text.find(',', from), text.size());
        const std::string part = text.substr(from, to - from);
        from = to + 1;
        if (part.empty()) continue;
        const std::size_t dash = part.find('-');
        const auto a = quantity::parseWhole(part.substr(0, dash), 0, 24);
        const auto b =
            dash == std::string::npos ? std::nullopt : quantity::parseWhole(part.substr(dash + 1), 0, 24);
        if (!a || !b)
            return problem(inQuotes(part) + " is not a span of hours", "", "write them like 9-12, 18-23");
        out.push_back({static_cast<int>(*a), static_cast<int>(*b)});
    }
    return out;
}

std::string hoursText(const std::vector<HourSpan>& hours) {
    std::string out;
    for (const HourSpan& span : hours)
        out += (out.empty() ? "" : ", ") + std::to_string(span.from) + "–" + std::to_string(span.to);
    return out;
}

// "Loft outlet 1 4 m; Loft outlet 2": each a label, and the wire from the outlet before.
std::string outletsText(const House& house, const std::vector<CircuitOutlet>& outlets) {
    std::string out;
    for (const CircuitOutlet& o : outlets) {
        const Jack* jack = house.jack(o.jack);
        out += (out.empty() ? "" : "; ") + (jack == nullptr ? o.jack : jack->label) +
               (o.fromPrevious ? " " + quantity::plain(*o.fromPrevious) : std::string());
    }
    return out;
}

bool beginsWith(const std::string& text, const std::string& label) {
    return text.size() >= label.size() &&
           quantity::ascii::inLowerCase(text.substr(0, label.size())) == quantity::ascii::inLowerCase(label);
}

Result<std::vector<CircuitOutlet>> parseOutlets(const House& house, const std::string& typed) {
    std::vector<CircuitOutlet> out;
    std::size_t from = 0;
    while (from < typed.size()) {
        const std::size_t to = std::min(typed.find(';', from), typed.size());
        std::string one = typed.substr(from, to - from);
        from = to + 1;
        one.erase(0, std::min(one.find_first_not_of(' '), one.size()));
        if (one.empty()) continue;
        const Jack* outlet = nullptr; // the longest label that begins it
        for (const Jack& jack : house.jacks)
            if (jack.kind == JackKind::mains && beginsWith(one, jack.label) &&
                (outlet == nullptr || jack.label.size() > outlet->label.size()))
                outlet = &jack;
        if (outlet == nullptr)
            return problem("there is no outlet " + inQuotes(one), "",
                           "write outlets like “Loft outlet 1 4 m; Loft outlet 2”");
        CircuitOutlet o{outlet->id, {}};
        const std::string tail = one.substr(outlet->label.size());
        if (const std::size_t begin = tail.find_first_not_of(' '); begin != std::string::npos) {
            const auto length = quantity::parseLength(tail.substr(begin));
            if (!length) return tl::unexpected(length.error());
            o.fromPrevious = *length;
        }
        out.push_back(std::move(o));
    }
    return out;
}

} // namespace

template <>
std::vector<Field<Panel>> fieldsOf(const Catalog*) {
    return {id<Panel>(), text("label", "Panel", &Panel::label, "", true),
            link("room", "Room", &Panel::room, &House::rooms),
            link("fed_by", "Fed by", &Panel::fedBy, &House::panels)};
}

template <>
std::vector<Field<Circuit>> fieldsOf(const Catalog* catalog) {
    Field<Circuit> outlets = special<Circuit>(
        "outlets",
        arrayOf({{"type", "object"},
                 {"properties",
                  {{"jack", idSchema()},
                   {"from_previous_m", {{"type", {"number", "null"}}, {"minimum", 0}, {"maximum", 1000}}}}},
                 {"required", {"jack"}},
                 {"additionalProperties", false}},
                256),
        [](const House&, const Circuit& c) {
            json out = json::array();
            for (const CircuitOutlet& o : c.outlets)
                out.push_back(
                    {{"jack", o.jack},
                     {"from_previous_m", o.fromPrevious ? json(o.fromPrevious->inMetres()) : json(nullptr)}});
            return out;
        },
        [](Circuit& c, const json& o) {
            if (const json* list = fields::list(o, "outlets", 256))
                for (const json& one : *list) {
                    c.outlets.push_back({fields::neededText(one, "jack", maxId), {}});
                    if (const auto m = fields::number(one, "from_previous_m", 0, 1000))
                        c.outlets.back().fromPrevious = quantity::Length::metres(*m);
                }
        });
    outlets.title = "Outlets in order, wire before each";
    outlets.show = [](const House& h, const Circuit& c) { return outletsText(h, c.outlets); };
    outlets.set = [](House& h, Circuit& c, const std::string& typed) -> Result<void> {
        auto parsed = parseOutlets(h, typed);
        if (!parsed) return tl::unexpected(parsed.error());
        c.outlets = std::move(*parsed);
        return {};
    };
    return {
        id<Circuit>(),
        text("label", "Circuit", &Circuit::label, "", true),
        link("panel", "Panel", &Circuit::panel, &House::panels),
        text("leg", "Leg", &Circuit::leg, "", false, 16),
        word("protection", "Device", &Circuit::protection, &protection,
             {Protection::unknown, Protection::breaker, Protection::fuse, Protection::residual_current,
              Protection::arc_fault},
             false),
        classOf("wiring", "Wiring", &Circuit::wiring, catalog == nullptr ? nullptr : &catalog->mains.wirings),
        outlets};
}

template <>
std::vector<Field<Appliance>> fieldsOf(const Catalog* catalog) {
    Field<Appliance> hours = special<Appliance>(
        "hours",
        arrayOf({{"type", "array"},
                 {"minItems", 2},
                 {"maxItems", 2},
                 {"items", {{"type", "integer"}, {"minimum", 0}, {"maximum", 24}}}},
                24),
        [](const House&, const Appliance& a) {
            json out = json::array();
            for (const HourSpan& span : a.hours)
                out.push_back({span.from, span.to});
            return out;
        },
        [](Appliance& a, const json& o) {
            const json* list = fields::list(o, "hours", 24);
            if (list == nullptr) return;
            for (const json& span : *list) {
                const auto both = fields::numbers({{"hours", span}}, "hours", 2, 0, 24);
                if (both.size() != 2) throw BadField{"hours"};
                a.hours.push_back({static_cast<int>(both[0]), static_cast<int>(both[1])});
            }
        });
    hours.title = "Hours";
    hours.show = [](const House&, const Appliance& a) { return hoursText(a.hours); };
    hours.set = [](House&, Appliance& a, const std::string& typed) -> Result<void> {
        auto parsed = parseHours(typed);
        if (!parsed) return tl::unexpected(parsed.error());
        a.hours = std::move(*parsed);
        return {};
    };
    const std::function<bool(const Jack&)> isOutlet = [](const Jack& j) { return j.kind == JackKind::mains; };
    return {id<Appliance>(), text("label", "Appliance", &Appliance::label, "", true),
            classOf("class", "Class", &Appliance::applianceClass,
                    catalog == nullptr ? nullptr : &catalog->mains.appliances),
            link("outlet", "Outlet", &Appliance::outlet, &House::jacks, "", isOutlet), hours};
}

} // namespace metrodos::job
