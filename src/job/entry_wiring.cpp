// Jacks, the cables to them, and what is in the coax tree.
#include "job/entry_reader.h"

#include "house/validate.h"
#include "job/entry_ends.h"
#include "job/survey_fields.h"

namespace metrodos::job {
namespace {

std::optional<std::string> coaxType(const catalog::Catalog& catalog, const std::string& field) {
    for (const auto& cable : catalog.coax.cables)
        if (folded(cable.label) == folded(field) || cable.id == folded(field)) return cable.id;
    return std::nullopt;
}

} // namespace

using quantity::problem;
using quantity::Result;

Result<void> EntryReader::jack(JackKind kind) {
    const Room* room = m_house.room(m_room);
    int number = 1;
    const auto label = [&] { return room->label + " " + wordOf(kind) + " " + std::to_string(number); };
    while (labelled(m_house.jacks, label()) != nullptr)
        ++number;
    const Jack jack{m_house.freeId(stemOf(label())), label(), m_room, kind};
    m_house.jacks.push_back(jack);
    note(jack.id, jack.label);
    if (kind == JackKind::mains) return onCircuit(jack.id);
    Connection run;
    run.id = m_house.freeId(stemOf(std::string(wordOf(kind)) + "-run-" + m_room));
    run.medium = kind == JackKind::data   ? Medium::data_cable
                 : kind == JackKind::coax ? Medium::coax
                                          : Medium::phone;
    run.label = std::string(wordOf(kind)) + " to " + jack.label;
    run.ends = {{jack.id, ""}};
    bool any = false;
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        if (m_fields[i].empty()) continue;
        any = true;
        if (auto done = runField(run, m_fields[i]); !done) return done;
    }
    if (any) m_house.connections.push_back(std::move(run)); // a jack alone: nobody knows its cable yet
    return {};
}

Result<void> EntryReader::runField(Connection& run, const std::string& field) {
    if (const auto place = valueAfter(field, "from")) {
        const auto end = endNamed(m_house, run.medium, *place);
        if (!end)
            return problem("there is nothing called " + quantity::inQuotes(*place) +
                               " where this cable could end",
                           "", "name a room, a jack, a splitter or a switch with its port");
        run.ends.push_back(*end);
        return {};
    }
    if (const auto length = lengthOf(field)) {
        run.length = *length;
        return {};
    }
    if (auto named = setNamed(m_house, run, m_catalog, field)) return *named;
    const std::string word = folded(field);
    if (run.medium == Medium::coax) {
        if (const auto type = coaxType(m_catalog, field)) {
            run.cableClass = *type;
            return {};
        }
        if (word == "badconnector" || word == "badconnectors") {
            run.badConnectors = word.ends_with('s') ? 2 : 1;
            return {};
        }
        if (word == "goodconnectors") {
            run.badConnectors = 0;
            return {};
        }
        return notUnderstood(
            field, "a coax run takes “from PLACE”, a type like RG-6, a length like 23 m, “bad connector”");
    }
    if (run.medium == Medium::data_cable) {
        if (const auto type = category(m_catalog, field)) {
            run.cableClass = *type;
            return {};
        }
        if (word.ends_with("pairs") || word.ends_with("pair")) {
            if (const auto n = quantity::parseWhole(field.substr(0, field.find(' ')), 0, 4)) {
                run.goodPairs = static_cast<int>(*n);
                return {};
            }
        }
        for (const auto& ends : m_catalog.terminations)
            if (word == ends.id) {
                run.termination = ends.id;
                return {};
            }
        return notUnderstood(
            field, "a data run takes “from PLACE”, a category like cat 6, a length, “4 pairs”, tested, "
                   "jacks, crimped or poor");
    }
    return notUnderstood(field, "a phone run takes “from PLACE” and a length");
}

// A data cable between two ends; one of them a jack and the other a port: the port is plugged into it.
Result<void> EntryReader::joinByCable(Connection run, const PortRef& end, const std::string& label) {
    for (const auto& [jack, port] : {std::pair(run.ends.front(), end), std::pair(end, run.ends.front())})
        if (Port* plugged = m_house.port(port); plugged != nullptr && m_house.jack(jack.device) != nullptr) {
            plugged->jack = jack.device;
            return {};
        }
    run.ends.push_back(end);
    run.medium = Medium::data_cable;
    if (run.label.empty()) run.label = label;
    run.id = m_house.freeId(stemOf(run.label));
    m_house.connections.push_back(std::move(run));
    return {};
}

// "cable / Hall switch port 2 / Study switch / cat 6 / 12 m", or between two parts of the coax tree.
Result<void> EntryReader::cable() {
    if (m_fields.size() < 3)
        return problem("a cable has two ends", "", "write it like “cable / Hall switch / Loft data 1 / 2 m”");
    Connection run;
    std::string missing; // as a data cable, which two rooms are taken for too
    for (const Medium medium : {Medium::data_cable, Medium::coax}) {
        run.ends.clear();
        run.medium = medium;
        for (const std::size_t i : {1U, 2U}) {
            const auto end = endNamed(m_house, medium, m_fields[i]);
            if (end)
                run.ends.push_back(*end);
            else if (missing.empty())
                missing = m_fields[i];
        }
        if (run.ends.size() == 2) break;
    }
    if (run.ends.size() != 2)
        return notUnderstood(missing, "name a box with its port, a jack, a splitter or a room for each end");
    if (run.ends[0] == run.ends[1])
        return problem("both ends of the cable are the same", "", "name another place for one of them");
    for (std::size_t i = 3; i < m_fields.size(); ++i)
        if (!m_fields[i].empty())
            if (auto done = runField(run, m_fields[i]); !done) return done;
    const std::string label = m_house.labelOf(run.ends[0]) + " to " + m_house.labelOf(run.ends[1]);
    if (run.medium == Medium::data_cable) {
        const PortRef second = run.ends[1];
        run.ends.pop_back();
        const Id first = run.ends[0].device;
        if (auto done = joinByCable(std::move(run), second, quantity::cutTo(label, maxLabel)); !done)
            return done;
        note(first, label);
        return {};
    }
    run.label = quantity::cutTo(label, maxLabel);
    run.id = m_house.freeId(stemOf(label));
    note(run.id, run.label);
    m_house.connections.push_back(std::move(run));
    return {};
}

Result<void> EntryReader::coaxPart(CoaxPartKind kind) {
    CoaxPart part;
    part.kind = kind;
    Connection run; // from what comes before it in the tree
    run.medium = Medium::coax;
    for (std::size_t i = 1; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        const std::string word = folded(field);
        if (field.empty()) continue;
        const auto ways = quantity::parseWhole(field.substr(0, field.find_first_not_of("0123456789")), 2, 8);
        if (kind == CoaxPartKind::splitter && ways && word.ends_with("way"))
            part.ways = static_cast<int>(*ways);
        else if (kind == CoaxPartKind::splitter && (word == "rated" || word == "notrated"))
            part.rated = word == "rated";
        else if (kind == CoaxPartKind::splitter && (word == "terminated" || word == "open"))
            part.terminated = word == "terminated";
        else if (kind == CoaxPartKind::amplifier && (word == "bypass" || word == "nobypass"))
            part.bypass = word == "bypass";
        else if (valueAfter(field, "from") || coaxType(m_catalog, field) || lengthOf(field) ||
                 word.starts_with("badconnector") || word == "goodconnectors") {
            if (auto done = runField(run, field); !done) return done;
        } else if (auto named = setNamed(m_house, part, m_catalog, field)) {
            if (!*named) return *named;
        } else if (const Room* room = labelled(m_house.rooms, field))
            part.room = room->id;
        else if (part.label.empty())
            part.label = field;
        else
            return notUnderstood(
                field,
                "a splitter takes “3-way”, rated or not rated, terminated or open, a room, a name, and "
                "what it hangs on: “from ENTRY”, RG-6, 2 m");
    }
    if (kind == CoaxPartKind::entry && !run.ends.empty())
        return problem("the entry is where the coax begins", "", "leave “from” out");
    if (run.ends.empty() && (run.length || !run.cableClass.empty()))
        return problem("it is not said where this cable comes from", "",
                       "add “from ENTRY” or “from SPLITTER”");
    if (part.label.empty()) {
        const Room* room = m_house.room(part.room);
        part.label = (room == nullptr ? std::string() : room->label + " ") + std::string(name(kind));
    }
    part.id = m_house.freeId(stemOf(part.label));
    note(part.id, part.label);
    if (!run.ends.empty()) {
        run.ends.push_back({part.id, "in"});
        run.label = "coax to " + quantity::cutTo(part.label, maxLabel - 8);
        run.id = m_house.freeId(stemOf(run.label));
        m_house.connections.push_back(std::move(run));
    }
    m_house.coaxParts.push_back(std::move(part));
    return {};
}

} // namespace metrodos::job
