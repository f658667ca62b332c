// The mains: panels, circuits, the outlets on them, and appliances.
#include "job/entry_reader.h"

#include "job/survey_fields.h"

#include <algorithm>
#include <regex>

namespace metrodos::job {
namespace {

// "9-17" or "18 to 23"; nothing where it is not of this form, a Problem where there are no such hours.
std::optional<quantity::Result<HourSpan>> hoursOf(const std::string& field) {
    static const std::regex form("([0-9]{1,9}) ?(?:-|to) ?([0-9]{1,9})");
    std::smatch parts;
    if (!std::regex_match(field, parts, form)) return std::nullopt;
    const HourSpan span{std::stoi(parts[1]), std::stoi(parts[2])};
    if (span.from > 24 || span.to > 24) return notUnderstood(field, "hours go from 0 to 24, like 18-23");
    return span;
}

} // namespace

using quantity::problem;
using quantity::Result;

// "plain strip", "surge strip", "straight in the wall".
std::optional<Strip> EntryReader::stripOf(const std::string& field) {
    const std::string word = folded(field);
    if (word == "plainstrip" || word == "strip" || word == "extension" || word == "extensionlead")
        return Strip::plain;
    if (word == "surgestrip" || word == "surgeprotectedstrip" || word == "surgeprotected")
        return Strip::surge_protected;
    if (word == "wall" || word == "straightinthewall") return Strip::wall;
    return std::nullopt;
}

Result<void> EntryReader::onCircuit(const Id& jack) {
    Circuit* circuit = nullptr; // the outlet is the newest jack
    std::optional<quantity::Length> step;
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        if (field.empty()) continue;
        if (const auto name = valueAfter(field, "on")) {
            circuit = labelled(m_house.circuits, *name);
            if (circuit == nullptr)
                return problem("there is no circuit " + quantity::inQuotes(*name), "",
                               "enter it first: “circuit / " + quantity::shortened(*name, 60) + " / PANEL”");
        } else if (const auto length = quantity::parseLength(field)) {
            step = *length;
        } else if (const auto strip = stripOf(field)) {
            m_house.jacks.back().strip = *strip;
        } else {
            return notUnderstood(field, "an outlet takes “on CIRCUIT”, the wire from the one before, like "
                                        "4 m, and “plain strip” or “surge strip”");
        }
    }
    if (circuit != nullptr) circuit->outlets.push_back({jack, step});
    return {};
}

Result<void> EntryReader::appliance() {
    Appliance a;
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        if (field.empty()) continue;
        if (const auto cls = classNamed(m_catalog.mains.appliances, field); cls && a.applianceClass.empty())
            a.applianceClass = *cls;
        else if (const auto hours = hoursOf(field)) {
            if (!*hours) return tl::unexpected(hours->error());
            a.hours.push_back(**hours);
        } else if (const auto place = valueAfter(field, "at")) {
            const Jack* jack = labelled(m_house.jacks, *place);
            if (jack == nullptr || jack->kind != JackKind::mains)
                return notUnderstood(field, "name an outlet that is there");
            a.outlet = jack->id;
        } else if (auto named = setNamed(m_house, a, m_catalog, field)) {
            if (!*named) return *named;
        } else if (a.label.empty())
            a.label = field;
        else
            return notUnderstood(
                field, "an appliance takes a class like motor, “at OUTLET”, hours like 9-17 and a name");
    }
    if (a.outlet.empty())
        for (const Jack& jack : m_house.jacks)
            if (jack.kind == JackKind::mains && jack.room == m_room && a.outlet.empty()) a.outlet = jack.id;
    if (a.label.empty())
        a.label =
            m_house.room(m_room)->label + " " + (a.applianceClass.empty() ? "appliance" : a.applianceClass);
    a.id = m_house.freeId(stemOf(a.label));
    note(a.id, a.label);
    m_house.appliances.push_back(std::move(a));
    return {};
}

Result<void> EntryReader::panel() {
    Panel p;
    p.label = m_fields[1];
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        if (const auto name = valueAfter(field, "fed by")) {
            const Panel* other = labelled(m_house.panels, *name);
            if (other == nullptr) return notUnderstood(field, "name a panel that is there");
            p.fedBy = other->id;
        } else if (const Room* room = labelled(m_house.rooms, field))
            p.room = room->id;
        else if (auto named = setNamed(m_house, p, m_catalog, field)) {
            if (!*named) return *named;
        } else if (!field.empty())
            return notUnderstood(field, "a panel takes a room and “fed by PANEL”");
    }
    p.id = m_house.freeId(stemOf(p.label));
    note(p.id, p.label);
    m_house.panels.push_back(std::move(p));
    return {};
}

Result<void> EntryReader::circuit() {
    Circuit c;
    c.label = m_fields[1];
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        std::string word = lower(field);
        std::replace(word.begin(), word.end(), ' ', '_');
        std::replace(word.begin(), word.end(), '-', '_');
        if (field.empty()) continue;
        if (const auto leg = valueAfter(field, "leg"))
            c.leg = *leg;
        else if (const auto device = protection(word))
            c.protection = *device;
        else if (const auto wiring = classNamed(m_catalog.mains.wirings, field))
            c.wiring = *wiring;
        else if (const Panel* panel = labelled(m_house.panels, field))
            c.panel = panel->id;
        else if (auto named = setNamed(m_house, c, m_catalog, field)) {
            if (!*named) return *named;
        } else
            return notUnderstood(
                field, "a circuit takes its panel, “leg 1”, breaker, fuse, residual current or arc fault, "
                       "and copper, old or aluminium");
    }
    c.id = m_house.freeId(stemOf(c.label));
    note(c.id, c.label);
    m_house.circuits.push_back(std::move(c));
    return {};
}

} // namespace metrodos::job
